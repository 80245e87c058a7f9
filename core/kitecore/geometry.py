"""Sizes and regions in whole pixels."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True)
class Size:
    """Width × height in pixels, both at least 1."""

    width: int
    height: int

    @property
    def pixels(self) -> int:
        return self.width * self.height

    @property
    def region(self) -> Region:
        """The region that is the whole of it."""
        return Region(0, 0, self.width, self.height)

    def reduced(self, halvings: int) -> Size:
        """This size halved ``halvings`` times, rounded up, at least 1×1."""
        step = 1 << halvings
        return Size(-(-self.width // step), -(-self.height // step))

    def __str__(self) -> str:
        return f"{self.width} × {self.height}"


@dataclass(frozen=True, slots=True)
class Place:
    """A point in a picture, in pixels from its upper left corner; the middle of the first pixel is 0.5, 0.5."""

    x: float
    y: float

    def inside(self, size: Size) -> bool:
        return 0 <= self.x < size.width and 0 <= self.y < size.height


@dataclass(frozen=True, slots=True)
class Region:
    """A rectangle of pixels: left, top, width, height. May reach outside a picture where a function says so."""

    x: int
    y: int
    width: int
    height: int

    @property
    def right(self) -> int:
        return self.x + self.width

    @property
    def bottom(self) -> int:
        return self.y + self.height

    @property
    def size(self) -> Size:
        return Size(self.width, self.height)

    def moved(self, right: int, down: int) -> Region:
        return Region(self.x + right, self.y + down, self.width, self.height)

    def grown(self, reach: int) -> Region:
        """This region with ``reach`` more pixels on every side."""
        return Region(self.x - reach, self.y - reach, self.width + 2 * reach, self.height + 2 * reach)

    def aligned(self, stride: int) -> Region:
        """The smallest region around this one that starts and ends at multiples of ``stride``."""
        return Region.between(
            self.x // stride * stride, self.y // stride * stride,
            -(-self.right // stride) * stride, -(-self.bottom // stride) * stride,
        )  # fmt: skip

    def inside(self, size: Size) -> bool:
        """Whether the region is not empty and lies wholly within a picture of ``size``."""
        return (
            self.width > 0 and self.height > 0 and self.x >= 0 and self.y >= 0
            and self.right <= size.width and self.bottom <= size.height
        )  # fmt: skip

    @staticmethod
    def between(x: int, y: int, right: int, bottom: int) -> Region:
        return Region(x, y, right - x, bottom - y)


def grid(size: Size, tile: Size) -> Iterator[Region]:
    """Regions of at most ``tile`` that cover ``size``, row by row."""
    for y in range(0, size.height, tile.height):
        for x in range(0, size.width, tile.width):
            yield Region(x, y, min(tile.width, size.width - x), min(tile.height, size.height - y))


def mirrored(start: int, stop: int, length: int) -> npt.NDArray[np.intp]:
    """Indices ``start``..``stop`` folded back into 0..length−1 as by endless mirrors on the edge samples.

    The edge sample is not repeated: −1 becomes 1. A length of 1 gives zeros.
    """
    if length == 1:
        return np.zeros(stop - start, dtype=np.intp)
    period = 2 * (length - 1)
    folded = np.arange(start, stop, dtype=np.intp) % period
    return np.where(folded < length, folded, period - folded)
