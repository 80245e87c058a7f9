"""A decoded picture and its reduced versions, each made when it is first asked for."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Protocol

import pyvips

from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples

#: The first level by halving that has at most so many pixels is worth keeping: all of a picture is looked at in about as many.
_KEPT_PIXELS = 2_000_000
_FORMS = {"uint8": "uchar", "uint16": "ushort", "float32": "float"}


class Keep(Protocol):
    """Where levels of a picture are kept from one opening to the next."""

    def get(self, level: int) -> Samples | None: ...
    def put(self, level: int, samples: Samples) -> None: ...


class Reductions:
    """A picture of ``size`` at all levels (:func:`kitecore.pipeline.geometry.divisor`), for any thread.

    Parameters
    ----------
    whole
        Decodes the picture; asked once, and only for what cannot be made of what is kept.
    held
        Puts a reduced image where it can be read from: into memory or a mapped file.
    keep
        What has the two levels from which all that are smaller are made, or is given them; None if they are not worth it,
        which may turn out as the picture is decoded.
    later
        Whether the picture is decoded no sooner than it is asked for, even if nothing is kept.
    """

    def __init__(
        self,
        size: Size,
        whole: Callable[[], Samples],
        held: Callable[[pyvips.Image], Samples],
        keep: Callable[[], Keep | None] = lambda: None,
        later: bool = False,
    ) -> None:
        self._whole, self._held, self._keep = whole, held, keep
        first = max(1, size.halved_until(_KEPT_PIXELS))
        self._kept = (first, first + 1)
        self._levels: dict[int, Samples] = {}
        self._lock = threading.Lock()
        box = keep()
        for level in self._kept if box else ():
            samples, wanted = box.get(level) if box else None, size.reduced(level)
            if samples is not None and samples.shape[:2] == (wanted.height, wanted.width):
                self._levels[level] = samples
        if len(self._levels) < len(self._kept) and not later:
            self._levels = {0: whole()}

    @property
    def decoded(self) -> bool:
        """Whether the picture is there at full size."""
        return 0 in self._levels

    def at(self, level: int) -> Samples:
        """The picture at a level, by averaging."""
        # What is there is not kept waiting by what is being made.
        if (there := self._levels.get(level)) is not None:
            return there
        with self._lock:
            return self._made(level)

    def _made(self, level: int) -> Samples:
        if level not in self._levels:
            if level == 0:
                self._levels[0] = self._whole()
            else:
                # Whatever is there already, each is made of the same one: of twice or three times its size.
                parent, step = (max(0, level - 2), 2) if level % 2 else (max(0, level - 3), 3)
                self._levels[level] = self._held(_image(self._made(parent)).shrink(step, step, ceil=True))
                if level in self._kept and (keep := self._keep()):
                    keep.put(level, self._levels[level])
        return self._levels[level]

    def keep(self, keep: Keep) -> None:
        """Give ``keep`` what is worth keeping."""
        for level in self._kept:
            keep.put(level, self.at(level))

    def clear(self) -> None:
        self._levels.clear()


def _image(samples: Samples) -> pyvips.Image:
    height, width, bands = samples.shape
    return pyvips.Image.new_from_memory(samples.data, width, height, bands, _FORMS[samples.dtype.name])
