"""A bounded store of computed regions on disk: least recently used first out, the same thing computed once."""

from __future__ import annotations

import hashlib
import os
import threading
from collections.abc import Callable
from pathlib import Path

import numpy as np

from kitecore.errors import Cancelled
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Samples


def region_key(picture: str, chain: str, level: int, region: Region) -> str:
    """Name of a region of a take's result: picture hash, chain hash, level, rectangle."""
    return named_key(f"{picture} {chain} {level} {region.x},{region.y},{region.width},{region.height}")


def named_key(what: str) -> str:
    """A key for something else that is kept beside regions, by what it is."""
    return hashlib.sha256(what.encode()).hexdigest()


class RegionCache:
    """Samples by key, in files under ``folder``, together at most ``limit`` bytes.

    Several threads and processes may share a folder: files appear whole and by rename, and a file another process
    has evicted is computed again.
    """

    def __init__(self, folder: Path, limit: int) -> None:
        self.folder = folder
        self.limit = limit
        folder.mkdir(parents=True, exist_ok=True)
        self._lock = threading.Lock()
        self._held = sum(file.stat().st_size for file in self._files())
        self._under_way: dict[str, threading.Event] = {}

    def _files(self) -> list[Path]:
        return list(self.folder.glob("*/*.npy"))

    def _path(self, key: str) -> Path:
        return self.folder / key[:2] / f"{key}.npy"

    def get(self, key: str) -> Samples | None:
        """The pixels kept under ``key``, or None; being asked for makes them recently used."""
        path = self._path(key)
        try:
            pixels: Samples = np.load(path)
            os.utime(path)
        except (FileNotFoundError, ValueError, EOFError):
            return None
        return pixels

    def put(self, key: str, pixels: Samples) -> None:
        """Keep pixels. A full disk is no fault here: then they are not kept."""
        path = self._path(key)
        part = path.with_name(f"{path.name}.{os.getpid()}-{threading.get_ident()}")
        try:
            path.parent.mkdir(exist_ok=True)
            with part.open("wb") as file:
                np.save(file, pixels)
            part.replace(path)
        except OSError:
            part.unlink(missing_ok=True)
            return
        with self._lock:
            self._held += path.stat().st_size if path.exists() else 0
            if self._held > self.limit:
                self._evict()

    def _evict(self) -> None:
        """Drop the least recently used until a tenth is free; counts afresh what other processes have added."""
        entries = []
        for file in self._files():
            try:
                status = file.stat()
            except FileNotFoundError:
                continue
            entries.append((status.st_mtime_ns, status.st_size, file))
        entries.sort()
        self._held = sum(size for _, size, _ in entries)
        for _, size, file in entries:
            if self._held <= self.limit * 0.9:
                break
            file.unlink(missing_ok=True)
            self._held -= size

    def get_or_render(self, key: str, render: Callable[[], Samples], cancelled: Callable[[], bool]) -> Samples:
        """What is kept under ``key``, or else what ``render`` gives, which is then kept.

        While one thread renders a key, others that want it wait for it; should that one be cancelled or fail, the
        next one renders. Raises what ``render`` raises, and Cancelled if no longer wanted while waiting.
        """
        while True:
            kept = self.get(key)
            if kept is not None:
                return kept
            with self._lock:
                under_way = self._under_way.get(key)
                if under_way is None:
                    mine = self._under_way[key] = threading.Event()
            if under_way is None:
                try:
                    pixels = render()
                    self.put(key, pixels)
                    return pixels
                finally:
                    with self._lock:
                        del self._under_way[key]
                    mine.set()
            while not under_way.wait(0.05):
                if cancelled():
                    raise Cancelled
