"""Everything ``bin/start`` does once the programs are installed and the front end is built."""

from __future__ import annotations

import argparse
import fcntl
import json
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from pathlib import Path
from types import FrameType

from launch.cluster import Cluster, free_port
from launch.supervisor import Service, Supervisor

REPOSITORY = Path(__file__).resolve().parent.parent.parent
MANAGE = str(REPOSITORY / "server" / "manage.py")
DEFAULT_PORT = 8420
_READY_SECONDS = 90


class _Stop(Exception):
    pass


def _stop(number: int, frame: FrameType | None) -> None:
    raise _Stop


def environment(home: Path, database_url: str) -> dict[str, str]:
    """The environment of the web server, the worker and the management commands."""
    paths = [str(REPOSITORY / "server"), str(REPOSITORY / "core")]
    return {
        **os.environ, "KITE_HOME": str(home), "KITE_DATABASE_URL": database_url,
        "DJANGO_SETTINGS_MODULE": "kiteglass.settings", "PYTHONPATH": os.pathsep.join(paths), "PYTHONUNBUFFERED": "1",
    }  # fmt: skip


def services(home: Path, variables: dict[str, str], port: int, host: str = "127.0.0.1") -> list[Service]:
    """The web server and one worker."""
    web = [
        sys.executable, "-m", "uvicorn", "kiteglass.asgi:application", "--host", host, "--port", str(port),
        "--lifespan", "off", "--no-access-log", "--timeout-graceful-shutdown", "2",
    ]  # fmt: skip
    worker = [sys.executable, MANAGE, "worker"]
    logs = home / "logs"
    return [
        Service("web server", web, variables, logs / "web.log"),
        Service("worker", worker, variables, logs / "worker.log"),
    ]


def wait_until_ready(address: str, supervisor: Supervisor) -> None:
    """Wait until the web server answers and has heard of a worker."""
    until = time.monotonic() + _READY_SECONDS
    while time.monotonic() < until:
        try:
            with urllib.request.urlopen(f"{address}/api/health", timeout=5) as response:
                if json.load(response)["workers"]:
                    return
        except (OSError, urllib.error.URLError):
            pass
        supervisor.mend()
        time.sleep(0.2)
    logs = ", ".join(str(service.log) for service in supervisor.services)
    raise SystemExit(f"The web server or the worker did not answer within {_READY_SECONDS} s; see {logs}.")


def _manage(variables: dict[str, str], *arguments: str) -> None:
    done = subprocess.run([sys.executable, MANAGE, *arguments], env=variables, check=False)
    if done.returncode != 0:
        raise SystemExit(f"manage.py {arguments[0]} failed.")


def _port(wanted: int | None) -> int:
    """The port asked for; else the usual one, or a free one if that is taken."""
    import socket

    with socket.socket() as probe:
        if probe.connect_ex(("127.0.0.1", wanted or DEFAULT_PORT)) != 0:
            return wanted or DEFAULT_PORT
    if wanted:
        raise SystemExit(f"Port {wanted} is taken by another program; choose another with --port.")
    return free_port()


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/start", description="Run Kite Glass on this machine.")
    parser.add_argument("--port", type=int, help=f"port of the web server (default {DEFAULT_PORT}, or a free one)")
    parser.add_argument("--no-demo", action="store_true", help="do not load the demo job")
    options = parser.parse_args()

    home = Path(os.environ.get("KITE_HOME", REPOSITORY / ".kite"))
    home.mkdir(parents=True, exist_ok=True)
    lock = (home / "start.lock").open("w")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        raise SystemExit(f"Kite Glass is running already from {home}; stop it with Ctrl-C first.") from None
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, _stop)

    cluster = Cluster(home)
    supervisor = Supervisor([])
    try:
        port = _port(options.port)
        url = cluster.start()
        variables = environment(home, url)
        _manage(variables, "migrate", "--verbosity", "0")
        if not options.no_demo:
            _manage(variables, "demo")
        address = f"http://127.0.0.1:{port}"
        supervisor.services = services(home, variables, port)
        supervisor.start()
        wait_until_ready(address, supervisor)
        print(f"\nKite Glass is ready:  {address}")
        if options.no_demo:
            print("Make a first sign-in with:  .venv/bin/python server/manage.py createsuperuser")
        else:
            print("Demo sign-in:         wren  /  tern-sands-1988")
        print("Ctrl-C stops it.", flush=True)
        while True:
            time.sleep(1)
            for line in supervisor.mend():
                print(line, flush=True)
            if not cluster.alive():
                print("PostgreSQL had ended and is started again.", flush=True)
                cluster.start()
    except _Stop:
        print("\nStopping …", flush=True)
    finally:
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, signal.SIG_IGN)
        supervisor.stop()
        cluster.stop()


if __name__ == "__main__":
    main()
