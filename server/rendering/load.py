"""How much of a machine other processes took meanwhile: what a file took then is not all held against its engines."""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import NamedTuple

#: Times of all processors together, by what they did, in ticks, as Linux tells them (proc(5)).
_STAT = Path("/proc/stat")
#: Which of its columns are work: user, nice, system, interrupts of both kinds; and which are none: idle, waiting for a disk.
_WORK, _IDLE = (0, 1, 2, 5, 6), (3, 4)
#: No more of the time than this is put down to others.
_MOST = 0.75


class _Moment(NamedTuple):
    """Seconds of this process's work, of everybody's, and of none."""

    own: float
    all: float
    idle: float


def _now() -> _Moment | None:
    """None where the system does not tell."""
    try:
        columns = [int(column) / os.sysconf("SC_CLK_TCK") for column in _STAT.read_text().split("\n", 1)[0].split()[1:]]
    except (OSError, ValueError):
        return None
    return _Moment(time.process_time(), *(sum(columns[one] for one in which) for which in (_WORK, _IDLE)))


class Beside:
    """Watches what else the machine does from now on."""

    def __init__(self) -> None:
        self._began = _now()

    def alone(self) -> float:
        """The share of the time since then that this process would have needed had nothing else run, 0.25..1.

        Others slow it down by what they take beyond what nobody wanted.
        """
        began, now = self._began, _now()
        if began is None or now is None:
            return 1.0
        own, everybody, idle = (after - before for before, after in zip(began, now, strict=True))
        whole = everybody + idle
        if whole <= 0:
            return 1.0
        return 1 - min(_MOST, max(0.0, everybody - own - idle) / whole)
