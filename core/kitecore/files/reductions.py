"""A decoded picture and its halved versions, each made when it is first asked for."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Protocol

import pyvips

from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples

#: The first reduction that has at most so many pixels is worth keeping: all of a picture is looked at in about as many.
_KEPT_PIXELS = 2_000_000
_FORMS = {"uint8": "uchar", "uint16": "ushort", "float32": "float"}


class Keep(Protocol):
    """Where one reduction of a picture is kept from one opening to the next."""

    def get(self) -> Samples | None: ...
    def put(self, samples: Samples) -> None: ...


class Reductions:
    """A picture of ``size`` and its halved versions, by any thread.

    Parameters
    ----------
    whole
        Decodes the picture; asked once, and only for what cannot be made of what is kept.
    held
        Puts a reduced image where it can be read from: into memory or a mapped file.
    keep
        What has the first reduction that is small enough, or is given it; None once it turns out not to be worth it.
    """

    def __init__(
        self,
        size: Size,
        whole: Callable[[], Samples],
        held: Callable[[pyvips.Image], Samples],
        keep: Callable[[], Keep | None] = lambda: None,
    ) -> None:
        self._whole, self._held, self._keep = whole, held, keep
        self._kept = max(1, size.halvings_until(_KEPT_PIXELS))
        self._levels: dict[int, Samples] = {}
        self._lock = threading.Lock()
        kept = keep()
        samples = kept.get() if kept else None
        if samples is not None and samples.shape[:2] == (
            size.reduced(self._kept).height,
            size.reduced(self._kept).width,
        ):
            self._levels[self._kept] = samples
        else:
            self._levels[0] = whole()

    def at(self, reduction: int) -> Samples:
        """The picture halved ``reduction`` times, by averaging."""
        with self._lock:
            if reduction not in self._levels:
                self._make(reduction)
            return self._levels[reduction]

    def _make(self, reduction: int) -> None:
        below = max((level for level in self._levels if level < reduction), default=None)
        if below is None:
            below, self._levels[0] = 0, self._whole()
        for level in range(below + 1, reduction + 1):
            if level not in self._levels:
                self._levels[level] = self._held(_image(self._levels[level - 1]).shrink(2, 2, ceil=True))
                if level == self._kept and (keep := self._keep()):
                    keep.put(self._levels[level])

    def small(self) -> Samples:
        """The reduction that is worth keeping."""
        return self.at(self._kept)

    def clear(self) -> None:
        self._levels.clear()


def _image(samples: Samples) -> pyvips.Image:
    height, width, bands = samples.shape
    return pyvips.Image.new_from_memory(samples.data, width, height, bands, _FORMS[samples.dtype.name])
