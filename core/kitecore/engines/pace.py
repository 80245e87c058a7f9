"""How fast networks have run lately in this process: what a machine has become slower or faster by shows in the next look."""

from __future__ import annotations

import threading
import time
from collections import deque

#: Runs of less than so many operations say more about beginning than about speed.
_LEAST_OPERATIONS = 2e10
#: So many runs of each engine are remembered. The fourth part of them that was faster begins at what counts: in a slower one the
#: machine had other work, or the network was made ready.
_REMEMBERED = 8
#: Older ones say nothing of now, in seconds.
_LATELY = 600.0


class Pace:
    """What was seen of each engine; for any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._runs: dict[str, deque[tuple[float, float]]] = {}

    def note(self, engine: str, operations: float, seconds: float, now: float | None = None) -> None:
        """A run of ``engine`` has taken so many ``seconds`` for so many floating-point operations."""
        if operations < _LEAST_OPERATIONS or seconds <= 0:
            return
        with self._lock:
            runs = self._runs.setdefault(engine, deque(maxlen=_REMEMBERED))
            runs.append((_or_now(now), operations / seconds))

    def of(self, engine: str, now: float | None = None) -> float | None:
        """Floating-point operations per second, lately; None if nothing was seen."""
        with self._lock:
            since = _or_now(now) - _LATELY
            rates = sorted(rate for when, rate in self._runs.get(engine, ()) if when >= since)
        return rates[(len(rates) - 1) * 3 // 4] if rates else None


def _or_now(now: float | None) -> float:
    return time.monotonic() if now is None else now


#: Of this process.
pace = Pace()
