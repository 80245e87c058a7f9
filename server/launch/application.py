"""The whole application on one machine: database, web server, worker; started, watched, stopped together."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from launch.cluster import Cluster
from launch.supervisor import Service, Supervisor

REPOSITORY = Path(__file__).resolve().parent.parent.parent
MANAGE = str(REPOSITORY / "server" / "manage.py")
_READY_SECONDS = 90

#: Has glibc take large blocks in pages of 2 MB where the system has such: a network's first run on a larger view than before
#: waits for 4,000 of these instead of 84,000 small ones, which took up to 0.9 s. A 600-megapixel file would take 0.2 GiB more.
LARGE_PAGES = {"GLIBC_TUNABLES": "glibc.malloc.hugetlb=1"}

#: Folders of a home that hold what belongs to people.
PRIVATE = (
    "originals", "previews", "showings", "outbox", "deliveries", "scratch", "incoming", "engines", "printers", "tables",
    "lenses", "regions", "logs", "folders",
)  # fmt: skip


def environment(home: Path, database_url: str) -> dict[str, str]:
    """The environment of the web server, the worker and the management commands."""
    paths = [str(REPOSITORY / "server"), str(REPOSITORY / "core")]
    return {
        **os.environ, "KITE_HOME": str(home), "KITE_DATABASE_URL": database_url,
        "DJANGO_SETTINGS_MODULE": "kiteglass.settings", "PYTHONPATH": os.pathsep.join(paths), "PYTHONUNBUFFERED": "1",
    }  # fmt: skip


def services(home: Path, variables: dict[str, str], port: int, host: str = "127.0.0.1") -> list[Service]:
    """The web server, a worker for deliveries, and one for what people wait for, which no long delivery may hold up."""
    web = [
        sys.executable, "-m", "uvicorn", "kiteglass.asgi:application", "--host", host, "--port", str(port),
        "--lifespan", "off", "--no-access-log", "--timeout-graceful-shutdown", "2",
        # Who a request is from is believed of proxies that were named, and of nobody else.
        *(["--forwarded-allow-ips", proxies] if (proxies := variables.get("KITE_PROXIES", "")) else ["--no-proxy-headers"]),
    ]  # fmt: skip
    worker = [sys.executable, MANAGE, "worker"]
    # Each has what the other does not: no delivery waits behind readings, and nobody on the bench behind a delivery.
    deliveries = [*worker, "--queues", "deliveries", "--nice", "10"]
    quick = [*worker, "--name", "quick worker", "--queues", "readings,reports,folders", "--nice", "5"]
    logs = home / "logs"
    return [
        Service("web server", web, LARGE_PAGES | variables, logs / "web.log"),
        # Whoever works on the bench comes first, whatever is being delivered meanwhile.
        Service("worker", deliveries, variables, logs / "worker.log"),
        Service("quick worker", quick, variables, logs / "quick-worker.log"),
    ]


def keep_private(home: Path) -> None:
    """Nobody else of this machine may enter the folders of a home; PostgreSQL's own is as PostgreSQL wants it."""
    for name in PRIVATE:
        folder = home / name
        folder.mkdir(mode=0o700, exist_ok=True)
        folder.chmod(0o700)
    for file in home.glob("*"):
        if file.is_file() and file.stat().st_uid == os.geteuid():
            file.chmod(0o600)


class Application:
    """Everything under one ``home`` folder; its database, too, unless another is named by its URL."""

    def __init__(self, home: Path, database: str | None = None) -> None:
        self.home = home
        self.cluster = Cluster(home)
        self._database = database
        self.supervisor = Supervisor([])
        self.variables: dict[str, str] = {}
        self.address = ""

    def start(self, port: int, demo: bool) -> None:
        """Start all parts and wait until each answers."""
        self.variables = environment(self.home, self._database or self.cluster.start())
        if "KITE_FOLDERS" not in self.variables:
            (self.home / "folders").mkdir(exist_ok=True)
        keep_private(self.home)
        self.manage("migrate", "--verbosity", "0")
        if demo:
            self.manage("demo")
        self.address = f"http://127.0.0.1:{port}"
        self.supervisor.services = services(self.home, self.variables, port)
        self.supervisor.start()
        self._wait()

    def manage(self, *arguments: str) -> None:
        """Run a management command."""
        done = subprocess.run([sys.executable, MANAGE, *arguments], env=self.variables, check=False)
        if done.returncode != 0:
            raise SystemExit(f"manage.py {arguments[0]} failed.")

    def _wait(self) -> None:
        """Wait until the web server answers and has heard of a worker."""
        until = time.monotonic() + _READY_SECONDS
        while time.monotonic() < until:
            try:
                with urllib.request.urlopen(f"{self.address}/api/health", timeout=5) as response:
                    if json.load(response)["workers"]:
                        return
            except OSError:
                pass
            self.supervisor.mend()
            time.sleep(0.2)
        logs = ", ".join(str(service.log) for service in self.supervisor.services)
        raise SystemExit(f"The web server or the worker did not answer within {_READY_SECONDS} s; see {logs}.")

    def mend(self) -> list[str]:
        """Start again whatever has ended; gives a line about each."""
        lines = self.supervisor.mend()
        if self._database is None and not self.cluster.alive():
            self.cluster.start()
            lines.append("PostgreSQL had ended and was started again.")
        return lines

    def stop(self) -> None:
        self.supervisor.stop()
        if self._database is None:
            self.cluster.stop()
