"""Opened pictures, kept decoded for as long as they are looked at."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

from kitecore.files.source import Source
from pictures.models import Picture
from rendering.caches import KeptReduction

_MOST_OPEN = 4


class _Opened:
    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.source: Source | None = None
        #: The file it was opened from.
        self.path = Path()
        self.users = 0


class Sources:
    """At most a few decoded originals; the least recently used is closed once nobody reads it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._opened: OrderedDict[str, _Opened] = OrderedDict()

    @contextmanager
    def of(self, picture: Picture) -> Iterator[Source]:
        """The original of a picture; decoded once however many ask, and not before its finer pixels are asked for."""
        key = picture.samples_key
        with self._lock:
            opened = self._opened.setdefault(key, _Opened())
            self._opened.move_to_end(key)
            opened.users += 1
        try:
            with opened.lock:
                if opened.source is None or opened.path != picture.original.path:
                    opened.source, opened.path = _open(picture), picture.original.path
                elif not opened.source.decoded:
                    # It is read later, and what a store has may have been dropped here meanwhile.
                    picture.original.here()
            yield opened.source
        finally:
            with self._lock:
                opened.users -= 1
                self._close_unused()

    def _close_unused(self) -> None:
        for key, opened in list(self._opened.items()):
            if len(self._opened) <= _MOST_OPEN:
                break
            if opened.users == 0:
                del self._opened[key]
                if opened.source:
                    opened.source.close()


def _open(picture: Picture) -> Source:
    keep = KeptReduction(picture.samples_key)
    return Source(picture.original.here(), settings.SCRATCH, picture.name, damaged=True, keep=keep, space=picture.space)


sources = Sources()
