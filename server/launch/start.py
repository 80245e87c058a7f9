"""Everything ``bin/start`` does once the programs are installed and the front end is built."""

from __future__ import annotations

import argparse
import fcntl
import os
import signal
import socket
import time
from pathlib import Path
from types import FrameType

from launch.application import REPOSITORY, Application
from launch.cluster import free_port

DEFAULT_PORT = 8420


class _Stop(Exception):
    pass


def _stop(number: int, frame: FrameType | None) -> None:
    raise _Stop


def _port(wanted: int | None) -> int:
    """The port asked for; else the usual one, or a free one if that is taken."""
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

    application = Application(home, os.environ.get("KITE_DATABASE_URL"))
    try:
        application.start(_port(options.port), demo=not options.no_demo)
        print(f"\nKite Glass is ready:  {application.address}")
        if options.no_demo:
            print("Make a first sign-in with:  .venv/bin/python server/manage.py createsuperuser")
        else:
            print("Demo sign-in:         wren  /  tern-sands-1988")
        print("Ctrl-C stops it.", flush=True)
        while True:
            time.sleep(1)
            for line in application.mend():
                print(line, flush=True)
    except _Stop:
        print("\nStopping …", flush=True)
    finally:
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, signal.SIG_IGN)
        application.stop()


if __name__ == "__main__":
    main()
