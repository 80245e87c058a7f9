"""More than one machine: workers with homes, scratch folders and networks of their own share a store and the database."""

from __future__ import annotations

import asyncio
import os
import re
import secrets
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from hashlib import sha256
from io import BytesIO
from pathlib import Path
from statistics import mean
from typing import Literal, NamedTuple
from urllib.parse import urlsplit, urlunsplit

import boto3
import tifffile
from botocore.exceptions import BotoCoreError, ClientError

from kitecore.pipeline.geometry import Size
from launch.application import MANAGE, Application
from launch.cluster import free_port
from launch.supervisor import Service
from trials.person import Person
from trials.pictures import picture

_BUCKET = "kite"
_READY_SECONDS = 60.0
#: How long a worker is let run and held by turns, together.
_TURN_SECONDS = 0.04


class Turn(NamedTuple):
    """One making of the file."""

    machines: int
    seconds: float
    #: Seconds of processors' time, of whichever machine had the most.
    processor: float
    #: SHA-256 of its pixels.
    pixels: str


class Machines(NamedTuple):
    #: Whether each had a network of its own.
    isolated: bool
    #: In the order in which they were.
    turns: list[Turn]
    #: Regions that one of two has made for the other.
    helped: int

    @property
    def same(self) -> bool:
        """Whether all files have the same pixels."""
        return len({turn.pixels for turn in self.turns}) == 1

    def faster(self, measure: Literal["seconds", "processor"]) -> float:
        """How many times as fast two machines were as one."""
        alone, together = (
            [getattr(turn, measure) for turn in self.turns if turn.machines == count] for count in (1, 2)
        )
        return mean(alone) / mean(together)


@contextmanager
def store_on_loopback(log: Path) -> Iterator[dict[str, str]]:
    """A store like S3 as long as this lasts; gives the variables by which it is found."""
    port = free_port()
    command = [sys.executable, "-m", "moto.server", "-H", "127.0.0.1", "-p", str(port)]
    server = Service("store", command, dict(os.environ), log)
    server.start()
    try:
        keys = {
            "AWS_ACCESS_KEY_ID": "kite",
            "AWS_SECRET_ACCESS_KEY": secrets.token_hex(8),
            "AWS_DEFAULT_REGION": "us-east-1",
        }
        endpoint = f"http://127.0.0.1:{port}"
        _make_bucket(endpoint, keys)
        yield keys | {"KITE_STORE": f"s3://{_BUCKET}/glass", "KITE_STORE_ENDPOINT": endpoint}
    finally:
        server.ask_to_end()
        server.end(3)


def _make_bucket(endpoint: str, keys: dict[str, str]) -> None:
    client = boto3.client(
        "s3", endpoint_url=endpoint, region_name=keys["AWS_DEFAULT_REGION"],
        aws_access_key_id=keys["AWS_ACCESS_KEY_ID"], aws_secret_access_key=keys["AWS_SECRET_ACCESS_KEY"],
    )  # fmt: skip
    until = time.monotonic() + _READY_SECONDS
    while True:
        try:
            client.create_bucket(Bucket=_BUCKET)
            return
        except (BotoCoreError, ClientError):
            if time.monotonic() > until:
                raise
            time.sleep(0.3)


class Machine:
    """A worker on a machine of its own, as far as this system allows: home, scratch and, where that is possible, network."""

    def __init__(self, home: Path, variables: dict[str, str], core: int, share: float | None = None) -> None:
        """``variables`` are those of an application; it has one processor, or ``share`` of its time if that is given."""
        self.home = home
        self.network = _Network([_port(variables[name]) for name in ("KITE_DATABASE_URL", "KITE_STORE_ENDPOINT")])
        host = self.network.host
        own = {name: _at(variables[name], host) for name in ("KITE_DATABASE_URL", "KITE_STORE_ENDPOINT")}
        # Scratch folders and keys are those of its home.
        inherited = {
            name: value for name, value in variables.items() if name not in ("KITE_SCRATCH", "KITE_SECRET_KEY")
        }
        command = [
            *self.network.inside,
            *("taskset", "--cpu-list", str(core)),
            sys.executable,
            MANAGE,
            "worker",
            "--queues",
            "deliveries",
            "--name",
            home.name,
        ]
        environment = inherited | own | {"KITE_HOME": str(home), "KITE_FOLDERS": "", "KITE_THREADS": "1"}
        self.service = Service(home.name, command, environment, home / "worker.log")
        self._share, self._over = share, threading.Event()

    def start(self) -> None:
        self.home.mkdir(exist_ok=True)
        self.service.start()
        if self._share is not None:
            threading.Thread(target=self._held, args=(self._share,), daemon=True).start()

    def stop(self) -> None:
        self._over.set()
        if self.service.process is not None:
            with suppress(ProcessLookupError):
                self.service.process.send_signal(signal.SIGCONT)
        self.service.ask_to_end()
        self.service.end(5)
        self.network.close()

    def processor_seconds(self) -> float:
        """Of its processor's time so far."""
        assert self.service.process is not None
        told = Path(f"/proc/{self.service.process.pid}/stat").read_text().rpartition(")")[2].split()
        return (int(told[11]) + int(told[12])) / os.sysconf("SC_CLK_TCK")

    def _held(self, share: float) -> None:
        """A processor as slow as that: it is stopped for the rest of each turn."""
        process = self.service.process
        assert process is not None
        while not self._over.is_set() and process.poll() is None:
            for sent, seconds in ((signal.SIGCONT, share), (signal.SIGSTOP, 1 - share)):
                process.send_signal(sent)
                time.sleep(seconds * _TURN_SECONDS)
        process.send_signal(signal.SIGCONT)


def _port(url: str) -> int:
    port = urlsplit(url).port
    assert port is not None
    return port


def _at(url: str, host: str) -> str:
    parts = urlsplit(url)
    return urlunsplit(parts._replace(netloc=parts.netloc.replace("127.0.0.1", host)))


class _Network:
    """A namespace from which nothing is reached but some ports of this machine's loopback; or the loopback itself."""

    def __init__(self, ports: list[int]) -> None:
        self._name = f"kite{secrets.token_hex(3)}"
        third = secrets.randbelow(250) + 1
        self._ours, self._theirs = f"10.213.{third}.1", f"10.213.{third}.2"
        self.isolated = os.geteuid() == 0 and self._made()
        self.host = self._ours if self.isolated else "127.0.0.1"
        self.inside = ["ip", "netns", "exec", self._name] if self.isolated else []
        self._loop = asyncio.new_event_loop()
        if self.isolated:
            threading.Thread(target=self._forward, args=(ports,), daemon=True).start()

    def _made(self) -> bool:
        link, inner = f"{self._name}a", f"{self._name}b"
        commands = (
            f"ip netns add {self._name}",
            f"ip link add {link} type veth peer name {inner} netns {self._name}",
            f"ip address add {self._ours}/30 dev {link}",
            f"ip link set {link} up",
            f"ip -n {self._name} address add {self._theirs}/30 dev {inner}",
            f"ip -n {self._name} link set {inner} up",
            f"ip -n {self._name} link set lo up",
        )
        try:
            for command in commands:
                subprocess.run(command.split(), check=True, capture_output=True)
        except (OSError, subprocess.CalledProcessError):
            self._unmake()
            return False
        return True

    def _unmake(self) -> None:
        with suppress(OSError):
            subprocess.run(["ip", "netns", "delete", self._name], check=False, capture_output=True)

    def _forward(self, ports: list[int]) -> None:
        """As a tunnel does."""
        asyncio.set_event_loop(self._loop)
        for port in ports:
            self._loop.run_until_complete(asyncio.start_server(_Tunnel(port), self._ours, port))
        self._loop.run_forever()

    def close(self) -> None:
        if self.isolated:
            self._loop.call_soon_threadsafe(self._loop.stop)
            self._unmake()


class _Tunnel:
    def __init__(self, port: int) -> None:
        self._port = port

    async def __call__(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with suppress(OSError):
            there, back = await asyncio.open_connection("127.0.0.1", self._port)
            await asyncio.gather(_passed_on(reader, back), _passed_on(there, writer))


async def _passed_on(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    with suppress(OSError):
        while chunk := await reader.read(1 << 18):
            writer.write(chunk)
            await writer.drain()
    writer.close()


def machines(home: Path, source: Size, factor: int, share: float | None, turns: tuple[int, ...] = (1, 2)) -> Machines:
    """The same file by one machine or two, as ``turns`` says, each with one processor or ``share`` of its time.

    A picture of the size of ``source`` is denoised and enlarged by ``factor``. Machines share its rows of regions: a file that
    is to be made soon has few of them, unless it is narrow and high. By turns, since a machine's own speed changes by the minute.
    """
    home.chmod(0o755)
    with store_on_loopback(home / "store.log") as variables:
        application = Application(home / "first")
        application.home.chmod(0o755)
        os.environ.update(variables | {"KITE_SHARE_FROM_SECONDS": "0"})
        with ExitStack() as ending:
            ending.callback(_forget, (*variables, "KITE_SHARE_FROM_SECONDS"))
            ending.callback(application.stop)
            application.start(free_port(), demo=False)
            _without_workers(application)
            person = _person(application)
            take = _enlarged(person, source, factor)
            had = [_turn(person, take, application, count, share) for count in turns]
        logs = "".join(log.read_text() for log in home.glob("machine*/worker.log"))
    helped = sum(int(count) for count in re.findall(r"made (\d+) regions of", logs))
    return Machines(had[0][0], [turn for _, turn in had], helped)


def _forget(variables: tuple[str, ...]) -> None:
    for variable in variables:
        os.environ.pop(variable, None)


def _turn(person: Person, take: str, application: Application, count: int, share: float | None) -> tuple[bool, Turn]:
    """The file by so many machines; first whether each has a network of its own."""
    cores = sorted(os.sched_getaffinity(0))
    _heard_of(person, 0)
    with ExitStack() as running:
        every = []
        for number in range(count):
            home = application.home.parent / f"machine{number}"
            every.append(Machine(home, application.variables, cores[number % len(cores)], share))
            running.callback(every[-1].stop)
            every[-1].start()
        _heard_of(person, count)
        before = [machine.processor_seconds() for machine in every]
        file = made(person, take)
        used = max(machine.processor_seconds() - was for machine, was in zip(every, before, strict=True))
    return every[0].network.isolated, Turn(count, file.seconds, used, file.pixels)


class Made(NamedTuple):
    seconds: float
    #: SHA-256 of the pixels of its file, as the web server gives it.
    pixels: str


def made(person: Person, take: str) -> Made:
    """Order a take as it is usually ordered, wait for it, fetch it."""
    began = time.monotonic()
    ordered = person.ask("POST", f"/takes/{take}/deliveries", {"spec": {}}).told
    while (now := person.get(f"/deliveries/{ordered['id']}"))["state"] not in ("done", "failed"):
        time.sleep(0.5)
    seconds = time.monotonic() - began
    if now["state"] == "failed":
        raise RuntimeError(now["message"])
    content = person.ask("GET", f"/deliveries/{ordered['id']}/file", timeout=600).content
    return Made(seconds, sha256(tifffile.imread(BytesIO(content)).tobytes()).hexdigest())


def _without_workers(application: Application) -> None:
    """Its own workers stay away: one would make the file, and the other is busy with measuring what has been made."""
    services = application.supervisor.services
    for worker in [service for service in services if "worker" in service.name]:
        services.remove(worker)
        worker.ask_to_end()
        worker.end(5)


def _heard_of(person: Person, count: int) -> None:
    """Wait until there are so many workers."""
    until = time.monotonic() + _READY_SECONDS
    while person.get("/health")["workers"] != count:
        if time.monotonic() > until:
            raise TimeoutError("The workers of the machines have not been heard of.")
        time.sleep(0.5)


def _person(application: Application) -> Person:
    password = secrets.token_urlsafe(12)
    application.manage(
        "shell", "--verbosity", "0", "-c",
        f"from people.models import Person; Person.objects.create_user('kite', password={password!r})",
    )  # fmt: skip
    return Person(application.address, "kite", password)


def _enlarged(person: Person, source: Size, factor: int) -> str:
    """A take of a picture of this size, denoised and enlarged."""
    job = person.ask("POST", "/jobs", {"title": "Machines", "client": ""}).told["id"]
    name, content = f"/jobs/{job}/pictures?name=large.jpg", picture(source.width, source.height, 3)
    take = person.ask("POST", name, content, "application/octet-stream").told["takes"][0]["id"]
    enlarge = {"kind": "enlarge", "engine": "faithful", "target": {"by": "factor", "factor": factor}}
    person.ask("PUT", f"/takes/{take}", {"steps": [{"kind": "denoise"}, enlarge]})
    return str(take)
