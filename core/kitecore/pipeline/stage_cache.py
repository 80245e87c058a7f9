"""What slow steps have computed, kept in memory so that what comes after them can be changed and looked at again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from typing import TypeAlias

import numpy as np

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Around, Run
from kitecore.pipeline.stage import Stage

#: Parts that stages are kept in while they are looked at, in pixels: small, so that little is computed
#: beside what is seen.
CELL = Size(16, 16)
#: Longest side of what is computed at once for those who look, in pixels: what networks need meanwhile grows with it.
LARGEST_BLOCK = 1024

#: Gives a stage that keeps what another one computes, by a name that says everything its pixels depend on.
CacheStage = Callable[[Stage, str], Stage]


def uncached(stage: Stage, name: str) -> Stage:
    """Keeps nothing: the stage as it is."""
    return stage


#: A part of a stage: the stage's name, and the part's column and row. There are so many that tuples of their own kind would keep
#: the collector of garbage busy.
Cell: TypeAlias = tuple[str, int, int]


class StageCache:
    """Cells of stages in memory, together at most ``limit`` bytes; least recently used first out.

    Stages are cut into cells of the size ``cell``; ``block`` is the longest side of what is computed at once, in pixels.

    Several threads may render stages that share cells: each cell is computed once, by whoever wants it first.
    """

    def __init__(self, limit: int, cell: Size = CELL, block: int = LARGEST_BLOCK) -> None:
        self.cell = cell
        self.block = block
        self._limit = limit
        self._lock = threading.Lock()
        self._cells: OrderedDict[Cell, Pixels] = OrderedDict()
        self._held = 0
        self._under_way: dict[Cell, threading.Event] = {}

    def of(self, picture: str, block: int = 0) -> CacheStage:
        """Keeps stages of the picture with this hash; ``block`` as for the cache itself, if another one is wanted."""
        return lambda stage, name: CachedStage(stage, f"{picture} {name}", self, block or self.block)

    def take(self, wanted: Iterable[Cell]) -> tuple[dict[Cell, Pixels], set[Cell], set[threading.Event]]:
        """Of the cells wanted: those there are, those the caller now has to compute, and what to wait for else.

        Whoever is told to compute cells gives them back by :meth:`give`, come what may.
        """
        there: dict[Cell, Pixels] = {}
        mine: set[Cell] = set()
        others: set[threading.Event] = set()
        done = threading.Event()
        with self._lock:
            for cell in wanted:
                if (pixels := self._cells.get(cell)) is not None:
                    self._cells.move_to_end(cell)
                    there[cell] = pixels
                elif (under_way := self._under_way.get(cell)) is not None:
                    others.add(under_way)
                else:
                    self._under_way[cell] = done
                    mine.add(cell)
        return there, mine, others

    def lacks(self, cells: Iterable[Cell]) -> bool:
        """Whether any of these cells is neither there nor under way."""
        with self._lock:
            return any(cell not in self._cells and cell not in self._under_way for cell in cells)

    def give(self, computed: dict[Cell, Pixels], claimed: set[Cell]) -> None:
        """Keep what was computed of the cells that were ``claimed``; the others are free to be computed by anyone."""
        with self._lock:
            for waited_for in {self._under_way.pop(cell) for cell in claimed}:
                waited_for.set()
            for cell, pixels in computed.items():
                self._cells[cell] = pixels
                self._held += pixels.nbytes
            while self._held > self._limit:
                self._held -= self._cells.popitem(last=False)[1].nbytes


class CachedStage(Stage):
    """Another stage, whose cells are computed once as long as they are kept."""

    def __init__(self, source: Stage, name: str, cache: StageCache, block: int) -> None:
        super().__init__(source.size, source.bands)
        self._source = source
        self._block = block
        self._name = name
        self._cache = cache

    def render(self, region: Region, run: Run) -> Pixels:
        wide, high = self._cache.cell.width, self._cache.cell.height
        pixels = np.empty((region.height, region.width, self.bands), np.float32)
        missing, longest = self._cells(region), run.block or self._block
        seen = run.around.of(region).intersection(self.size.region) if run.around else None
        if seen and self._cache.lacks(missing):
            together = self._at_once(region, seen)
            missing |= self._cells(together)
            longest = max(longest, together.width, together.height)
        while missing:
            cells, mine, others = self._cache.take(missing)
            parts = self._computed(mine, longest, run, seen) if mine else []
            for (_, column, row), content in cells.items():
                parts.append((Region(column * wide, row * high, content.shape[1], content.shape[0]), content))
            for held, content in parts:
                if part := held.intersection(region):
                    pixels[part.slices(region)] = content[part.slices(held)]
            missing -= cells.keys() | mine
            for event in others:
                while not event.wait(0.05):
                    run.check()
        return pixels

    def _cells(self, region: Region) -> set[Cell]:
        wide, high = self._cache.cell.width, self._cache.cell.height
        return {
            (self._name, column, row)
            for row in range(region.y // high, -(-region.bottom // high))
            for column in range(region.x // wide, -(-region.right // wide))
        }

    def _at_once(self, region: Region, seen: Region) -> Region:
        """Of what is seen, in as many equal parts as it takes, the one that a region lies in; all of the region with it."""
        columns, rows = (max(1, -(-side // self._block)) for side in (seen.width, seen.height))
        part = Size(-(-seen.width // columns), -(-seen.height // rows))
        x = seen.x + max(0, region.x + region.width // 2 - seen.x) // part.width * part.width
        y = seen.y + max(0, region.y + region.height // 2 - seen.y) // part.height * part.height
        return Region.between(
            min(x, region.x), min(y, region.y),
            max(min(x + part.width, seen.right), region.right), max(min(y + part.height, seen.bottom), region.bottom),
        )  # fmt: skip

    def _computed(
        self, claimed: set[Cell], most: int, run: Run, seen: Region | None
    ) -> list[tuple[Region, Pixels]]:  # fmt: skip
        """The claimed cells, computed and kept; as the blocks they were computed in, each of at most ``most`` pixels a side."""
        computed: dict[Cell, Pixels] = {}
        parts = []
        wide, high = self._cache.cell.width, self._cache.cell.height
        longest = Size(-(-most // wide) + 1, -(-most // high) + 1)
        try:
            for block in blocks(((column, row) for _, column, row in claimed), longest):
                right, bottom = min(block.right * wide, self.size.width), min(block.bottom * high, self.size.height)
                part = Region.between(block.x * wide, block.y * high, right, bottom)
                beside = replace(run, around=Around.beside(part, seen)) if seen else run
                pixels = self._source.render(part, beside)
                parts.append((part, pixels))
                for row in range(block.height):
                    cells = pixels[row * high : (row + 1) * high]
                    for column in range(block.width):
                        cell = self._name, block.x + column, block.y + row
                        computed[cell] = cells[:, column * wide : (column + 1) * wide].copy()
        finally:
            self._cache.give(computed, claimed)
        return parts


def blocks(cells: Iterable[tuple[int, int]], longest: Size) -> Iterator[Region]:
    """Rectangles that cover (column, row) cells exactly, without overlap, each of at most ``longest`` cells.

    Few and large, since each is computed with its surroundings.
    """
    left = set(cells)
    while left:
        column, row = min(left, key=lambda cell: (cell[1], cell[0]))
        right, bottom = column + 1, row + 1
        while right - column < longest.width and (right, row) in left:
            right += 1
        while bottom - row < longest.height and all((x, bottom) in left for x in range(column, right)):
            bottom += 1
        left -= {(x, y) for x in range(column, right) for y in range(row, bottom)}
        yield Region.between(column, row, right, bottom)
