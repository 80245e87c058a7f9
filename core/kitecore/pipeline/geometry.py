"""Sizes and regions in whole pixels."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt


def divisor(level: int) -> int:
    """How many pixels a side one pixel of a view of a level stands for: 1, 2, 3, 4, 6, 8, 12, 16 …

    Twice and three times the powers of two in turn, so that a view has hardly more pixels than a screen shows.

    >>> [divisor(level) for level in range(8)]
    [1, 2, 3, 4, 6, 8, 12, 16]
    """
    if level < 1:
        return 1
    return 1 << (level + 1) // 2 if level % 2 else 3 << level // 2 - 1


def level_of(most: float) -> int:
    """The deepest level at which a pixel stands for at most so many a side.

    >>> [level_of(most) for most in (0.5, 1, 2.9, 3, 5, 64)]
    [0, 0, 1, 2, 3, 11]
    """
    level = 0
    while divisor(level + 1) <= most:
        level += 1
    return level


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

    def reduced(self, level: int) -> Size:
        """This size at a level: divided by its :func:`divisor`, rounded up, at least 1×1."""
        step = divisor(level)
        return Size(-(-self.width // step), -(-self.height // step))

    def scaled(self, share: float) -> Size:
        """This size times ``share``, rounded, at least 1×1."""
        return Size(max(1, round(self.width * share)), max(1, round(self.height * share)))

    def fitted(self, longest: float) -> Size:
        """This size made smaller, in its own shape, until its long side is at most ``longest``.

        >>> print(Size(300, 200).fitted(150), Size(30, 20).fitted(150), sep="; ")
        150 × 100; 30 × 20
        """
        return self.scaled(min(1.0, longest / max(self.width, self.height)))

    def halved_until(self, pixels: int) -> int:
        """The level at which this size, halved and halved again, has at most so many pixels.

        >>> Size(4000, 3000).halved_until(3_000_000)
        1
        """
        level = 0
        while self.reduced(level).pixels > max(1, pixels):
            level += 2 if level else 1
        return level

    def level_within(self, longest: int) -> int:
        """The level at which the long side is at most ``longest``."""
        level = 0
        while max(self.width, self.height) > longest * divisor(level):
            level += 1
        return level

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

    def intersection(self, other: Region) -> Region | None:
        """What both have in common; None if that is nothing.

        >>> Region(0, 0, 4, 4).intersection(Region(2, 3, 9, 9))
        Region(x=2, y=3, width=2, height=1)
        >>> Region(0, 0, 4, 4).intersection(Region(4, 0, 1, 1)) is None
        True
        """
        part = Region.between(
            max(self.x, other.x), max(self.y, other.y), min(self.right, other.right), min(self.bottom, other.bottom)
        )
        return part if part.width > 0 and part.height > 0 else None

    def without(self, inner: Region) -> list[Region]:
        """What is left of this region around ``inner``, which lies in it: at most four parts that do not overlap.

        >>> Region(0, 0, 4, 3).without(Region(0, 0, 4, 2))
        [Region(x=0, y=2, width=4, height=1)]
        """
        parts = (
            Region.between(self.x, self.y, self.right, inner.y),
            Region.between(self.x, inner.bottom, self.right, self.bottom),
            Region.between(self.x, inner.y, inner.x, inner.bottom),
            Region.between(inner.right, inner.y, self.right, inner.bottom),
        )
        return [part for part in parts if part.width > 0 and part.height > 0]

    def slices(self, outer: Region) -> tuple[slice, slice]:
        """Where this region lies in an array that holds ``outer``: its rows and its columns.

        >>> Region(5, 7, 2, 3).slices(Region(4, 4, 10, 10))
        (slice(3, 6, None), slice(1, 3, None))
        """
        return slice(self.y - outer.y, self.bottom - outer.y), slice(self.x - outer.x, self.right - outer.x)

    def scaled(self, across: float, down: float) -> Region:
        """The smallest region around this one in a picture that many times as wide and as high.

        >>> Region(1, 1, 2, 2).scaled(1.5, 2)
        Region(x=1, y=2, width=4, height=4)
        """
        return Region.between(
            math.floor(self.x * across), math.floor(self.y * down),
            math.ceil(self.right * across), math.ceil(self.bottom * down),
        )  # fmt: skip

    @staticmethod
    def between(x: int, y: int, right: int, bottom: int) -> Region:
        return Region(x, y, right - x, bottom - y)


def grid(size: Size, tile: Size) -> Iterator[Region]:
    """Regions of at most ``tile`` that cover ``size``, row by row."""
    for y in range(0, size.height, tile.height):
        for x in range(0, size.width, tile.width):
            yield Region(x, y, min(tile.width, size.width - x), min(tile.height, size.height - y))


def evenly_spread(size: Size, area: Size, columns: int, rows: int) -> list[Region]:
    """That many regions of ``area`` (or of all there is, if that is less), from edge to edge, row by row.

    >>> [region.x for region in evenly_spread(Size(100, 10), Size(20, 10), 3, 1)]
    [0, 40, 80]
    """
    width, height = min(area.width, size.width), min(area.height, size.height)

    def starts(length: int, side: int, count: int) -> list[int]:
        return [round(index * (length - side) / max(1, count - 1)) for index in range(count)]

    return [
        Region(x, y, width, height)
        for y in starts(size.height, height, rows)
        for x in starts(size.width, width, columns)
    ]


def mirrored(start: int, stop: int, length: int) -> npt.NDArray[np.intp]:
    """Indices ``start``..``stop`` folded back into 0..length−1 as by endless mirrors on the edge samples.

    The edge sample is not repeated: −1 becomes 1. A length of 1 gives zeros.
    """
    if length == 1:
        return np.zeros(stop - start, dtype=np.intp)
    period = 2 * (length - 1)
    folded = np.arange(start, stop, dtype=np.intp) % period
    return np.where(folded < length, folded, period - folded)
