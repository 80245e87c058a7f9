"""Working folders of processes: locked for as long as they are used, so that what a killed process left can be told and swept."""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import time
from pathlib import Path
from tempfile import TemporaryDirectory

_PREFIX, _LOCK = "source-", "in use"
#: One without a lock is being made, or was left by an earlier version: swept once it is so old.
_UNLOCKED_SECONDS = 3600.0


class ScratchFolder:
    """A folder of one's own under ``scratch`` (the system's temporary folder if None), gone with :meth:`close`."""

    def __init__(self, scratch: Path | None) -> None:
        if scratch:
            scratch.mkdir(parents=True, exist_ok=True)
        self._folder = TemporaryDirectory(prefix=_PREFIX, dir=scratch)
        self.path = Path(self._folder.name)
        self._lock = os.open(self.path / _LOCK, os.O_RDWR | os.O_CREAT, 0o600)
        # Released by the system, however the process ends.
        fcntl.flock(self._lock, fcntl.LOCK_EX)
        self._open = True

    def close(self) -> None:
        if self._open:
            self._open = False
            self._folder.cleanup()
            os.close(self._lock)


def sweep(scratch: Path) -> list[str]:
    """Remove working folders under ``scratch`` that no living process of this machine uses; gives their names."""
    swept = []
    for folder in scratch.glob(f"{_PREFIX}*"):
        with contextlib.suppress(OSError):
            if _left(folder):
                shutil.rmtree(folder)
                swept.append(folder.name)
    return swept


def _left(folder: Path) -> bool:
    lock = folder / _LOCK
    if not lock.exists():
        return time.time() - folder.stat().st_mtime > _UNLOCKED_SECONDS
    with lock.open("r+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            return False
    return True
