"""Keeps the web server and the worker running: started, watched, started again, stopped together."""

from __future__ import annotations

import ctypes
import signal
import subprocess
import time
from dataclasses import dataclass, field
from pathlib import Path

_libc = ctypes.CDLL(None)
_PR_SET_PDEATHSIG = 1
_PATIENCE_SECONDS = 4.0


def _die_with_parent() -> None:
    """In the child: be told to end should the supervisor be killed."""
    _libc.prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


@dataclass
class Service:
    """One program to keep running."""

    name: str
    command: list[str]
    environment: dict[str, str]
    log: Path
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    restarts: int = field(default=0)

    def start(self) -> None:
        self.log.parent.mkdir(parents=True, exist_ok=True)
        with self.log.open("ab") as log:
            self.process = subprocess.Popen(
                self.command, env=self.environment, stdout=log, stderr=log, stdin=subprocess.DEVNULL,
                start_new_session=True, preexec_fn=_die_with_parent,
            )  # fmt: skip
        self.started = time.monotonic()

    @property
    def running(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def ask_to_end(self) -> None:
        if self.running and self.process:
            self.process.terminate()

    def end(self, patience: float) -> None:
        """Wait for the end, then insist; a delivery that is cut off is made afresh by the next worker."""
        if self.process is None:
            return
        try:
            self.process.wait(patience)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait()


class Supervisor:
    """Several services; one that ends is started again, a little later each time it ends soon after."""

    def __init__(self, services: list[Service]) -> None:
        self.services = services
        self._not_before: dict[str, float] = {}

    def start(self) -> None:
        for service in self.services:
            service.start()

    def mend(self) -> list[str]:
        """Start again what has ended; gives a line about each."""
        lines, now = [], time.monotonic()
        for service in self.services:
            if service.running:
                continue
            due = self._not_before.setdefault(
                service.name, now + (0.5 if now - service.started > 10 else min(30, 2**service.restarts))
            )
            if now < due:
                continue
            code = service.process.returncode if service.process else None
            service.restarts = service.restarts + 1 if now - service.started < 10 else 0
            service.start()
            del self._not_before[service.name]
            lines.append(f"The {service.name} had ended ({code}) and was started again; see {service.log}.")
        return lines

    def stop(self) -> None:
        """End all services, together."""
        for service in self.services:
            service.ask_to_end()
        for service in self.services:
            service.end(_PATIENCE_SECONDS)
