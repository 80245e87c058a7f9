"""Clips that are looked at, each with a decoder that stays as long as it is."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager

from clips.models import Clip
from kitecore.files.clip.clip import Clip as CoreClip

_MOST_OPEN = 3


class Decoders:
    """At most a few open clips; the least recently used is closed once nobody looks at it."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._open: OrderedDict[str, CoreClip] = OrderedDict()
        self._users: dict[str, int] = {}

    @contextmanager
    def of(self, clip: Clip) -> Iterator[CoreClip]:
        """The clip, opened. Raises PictureError if it cannot be read any more."""
        key = clip.original_id
        with self._lock:
            self._users[key] = self._users.get(key, 0) + 1
        try:
            with self._lock:
                opened = self._open.get(key)
            if opened is None:
                opened = CoreClip(clip.original.here(), clip.name)
                with self._lock:
                    first = self._open.setdefault(key, opened)
                if first is not opened:
                    opened.close()
                    opened = first
            with self._lock:
                self._open.move_to_end(key)
            yield opened
        finally:
            with self._lock:
                self._users[key] -= 1
                spare = [one for one in self._open if not self._users.get(one)]
                closed = [self._open.pop(one) for one in spare[: max(0, len(self._open) - _MOST_OPEN)]]
            for one in closed:
                one.close()

    def close(self) -> None:
        """End all decoders; who asks for one again gets a new one."""
        with self._lock:
            closed = list(self._open.values())
            self._open.clear()
        for one in closed:
            one.close()


decoders = Decoders()
