"""Opened pictures, kept decoded for as long as they are looked at."""

from __future__ import annotations

import logging
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.db import connection

from kitecore.errors import KiteError
from kitecore.files.source import Source
from pictures.models import Picture
from rendering.caches import KeptReduction

_MOST_OPEN = 4
#: Larger ones are decoded no sooner than their pixels are asked for.
_DECODED_AHEAD_PIXELS = 80_000_000
_LOOK_EVERY_SECONDS = 0.04

log = logging.getLogger(__name__)


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
        self._decoding = ThreadPoolExecutor(1, "decoding")
        #: What is being decoded, or waits to be.
        self._asked: set[str] = set()

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

    def decode_soon(self, picture: Picture, busy: Callable[[], bool]) -> None:
        """Decode what is there only reduced, as soon as nobody is ``busy``: whoever looks closer does not wait for that then."""
        key = picture.samples_key
        with self._lock:
            source = self._opened[key].source if key in self._opened else None
            large = source is None or source.size.pixels > _DECODED_AHEAD_PIXELS
            if large or source is None or source.decoded or source.raw or key in self._asked:
                return
            self._asked.add(key)
        self._decoding.submit(self._decode, picture, busy)

    def _decode(self, picture: Picture, busy: Callable[[], bool]) -> None:
        try:
            while busy():
                time.sleep(_LOOK_EVERY_SECONDS)
            with self.of(picture) as source:
                source.stage()
        except (KiteError, OSError) as error:
            # Whoever looks closer is told.
            log.info("%s was not decoded ahead: %s", picture.name, error)
        finally:
            with self._lock:
                self._asked.discard(picture.samples_key)
            connection.close()

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
