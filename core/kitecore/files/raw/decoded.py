"""Developed raws on disk: mapped, shared by all processes that are given the same folder, and bounded."""

from __future__ import annotations

import contextlib
import fcntl
import os
import struct
import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeAlias

import numpy as np

from kitecore.errors import NoSpace
from kitecore.pipeline.pixels import Samples

_ENDING = ".npy"
#: What a lock holds while its array is being made: how far that is.
_SHARE = struct.Struct("<d")

#: Fills the array it is given, and tells how far it is, 0..1.
Make: TypeAlias = Callable[[Samples, Callable[[float], None]], None]


class DecodedFolder:
    """Arrays by key under ``folder``, together at most ``limit`` bytes; the least recently used go first.

    One that is gone while it is mapped stays readable for who has mapped it.
    """

    def __init__(self, folder: Path, limit: float) -> None:
        self._folder, self._limit = folder, limit
        folder.mkdir(parents=True, exist_ok=True)

    def get(self, key: str, shape: tuple[int, ...], make: Make) -> Samples:
        """The float32 array of a key, made by ``make`` unless somebody has: once, whoever asks meanwhile.

        Raises NoSpace, and what ``make`` raises; then nothing is left behind.
        """
        path = self._folder / f"{key}{_ENDING}"
        self._lock(key).touch()
        with self._lock(key).open("rb+") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            if (found := self._mapped(path, shape)) is None:

                def progress(share: float) -> None:
                    os.pwrite(lock.fileno(), _SHARE.pack(share), 0)

                try:
                    self._make(path, shape, lambda array: make(array, progress))
                finally:
                    os.truncate(lock.fileno(), 0)
                found = self._mapped(path, shape)
                self._evict(path)
        if found is None:
            raise NoSpace("A developed raw could not be kept on disk. Free some space and try again.")
        return found

    def share(self, key: str) -> float | None:
        """How far making the array of a key is, whoever makes it; None if nobody does, or says."""
        with contextlib.suppress(OSError), self._lock(key).open("rb") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_SH | fcntl.LOCK_NB)
            except BlockingIOError:
                told = lock.read(_SHARE.size)
                return float(_SHARE.unpack(told)[0]) if len(told) == _SHARE.size else None
        return None

    def _lock(self, key: str) -> Path:
        return self._folder / f"{key}.lock"

    def _mapped(self, path: Path, shape: tuple[int, ...]) -> Samples | None:
        try:
            found: Samples = np.load(path, mmap_mode="r")
            # The file system's own clock is coarse.
            now = time.time_ns()
            os.utime(path, ns=(now, now))
        except (OSError, ValueError, EOFError):
            return None
        return found if found.shape == shape and found.dtype == np.float32 else None

    def _make(self, path: Path, shape: tuple[int, ...], make: Callable[[Samples], None]) -> None:
        part = path.with_suffix(".part")
        try:
            # Space is taken before it is written to: a mapped file that finds the disk full ends the process.
            with part.open("wb") as file:
                os.posix_fallocate(file.fileno(), 0, int(np.prod(shape)) * 4 + 256)
            array = np.lib.format.open_memmap(part, mode="w+", dtype=np.float32, shape=shape)
            make(array)
            array.flush()
            del array
            part.replace(path)
        except OSError as error:
            raise NoSpace("The disk is full; the raw could not be developed. Free some space and try again.") from error
        finally:
            part.unlink(missing_ok=True)

    def _evict(self, keep: Path) -> None:
        files = []
        for path in self._folder.glob(f"*{_ENDING}"):
            with contextlib.suppress(OSError):
                state = path.stat()
                files.append((state.st_mtime_ns, state.st_size, path))
        held = sum(size for _, size, _ in files)
        for _, size, path in sorted(files):
            if held <= self._limit:
                break
            if path != keep:
                path.unlink(missing_ok=True)
                held -= size
