"""What slow steps have computed, kept in memory so that what comes after them can be changed and looked at again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple

import numpy as np

from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Side of the squares that stages are kept in while they are looked at, in pixels: small, so that little is computed
#: beside what is seen.
CELL = 64
#: Sides of the squares while whole pictures are rendered, all of which is wanted.
_LARGEST_CELL, _SMALLEST_CELL = 512, 128
#: Longest side of what is computed at once, in pixels: what networks need meanwhile grows with it.
_LARGEST_BLOCK = 768

#: Gives a stage that keeps what another one computes, by a name that says everything its pixels depend on.
CacheStage = Callable[[Stage, str], Stage]


def uncached(stage: Stage, name: str) -> Stage:
    """Keeps nothing: the stage as it is."""
    return stage


def cache_for_rendering(source: Size, slow_steps: int, limit: int) -> CacheStage:
    """Keeps, within ``limit`` bytes, what steps before the enlarging compute while all of a picture is rendered once.

    A region of the result is made of a small part of the source, beside which the surroundings of several networks in
    a row are large; in squares as large as memory allows they are not. Stages larger than the ``source`` are not kept.
    """
    # Regions come row by row: two rows of squares are in use, and a third is begun.
    bytes_per_line = max(1, slow_steps) * 3 * source.width * 4 * np.dtype(np.float32).itemsize
    side = min(_LARGEST_CELL, limit // bytes_per_line // CELL * CELL)
    if not slow_steps or side < _SMALLEST_CELL:
        return uncached
    cache = StageCache(limit, side).of("")
    return lambda stage, name: cache(stage, name) if stage.size.pixels <= source.pixels else stage


class Cell(NamedTuple):
    """A square of a stage: the stage's name, and the square's column and row."""

    name: str
    column: int
    row: int


class StageCache:
    """Cells of stages in memory, together at most ``limit`` bytes; least recently used first out.

    ``side`` is that of the cells in pixels.

    Several threads may render stages that share cells: each cell is computed once, by whoever wants it first.
    """

    def __init__(self, limit: int, side: int = CELL) -> None:
        self.side = side
        self._limit = limit
        self._lock = threading.Lock()
        self._cells: OrderedDict[Cell, Pixels] = OrderedDict()
        self._held = 0
        self._under_way: dict[Cell, threading.Event] = {}

    def of(self, picture: str) -> CacheStage:
        """Keeps stages of the picture with this hash."""
        return lambda stage, name: CachedStage(stage, f"{picture} {name}", self)

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

    def give(self, computed: dict[Cell, Pixels], claimed: set[Cell]) -> None:
        """Keep what was computed of the cells that were ``claimed``; the others are free to be computed by anyone."""
        with self._lock:
            for cell in claimed:
                self._under_way.pop(cell).set()
            for cell, pixels in computed.items():
                self._cells[cell] = pixels
                self._held += pixels.nbytes
            while self._held > self._limit:
                self._held -= self._cells.popitem(last=False)[1].nbytes


class CachedStage(Stage):
    """Another stage, whose cells are computed once as long as they are kept."""

    def __init__(self, source: Stage, name: str, cache: StageCache) -> None:
        super().__init__(source.size, source.bands)
        self._source = source
        self._name = name
        self._cache = cache

    def render(self, region: Region, run: Run) -> Pixels:
        side = self._cache.side
        around = region.aligned(side)
        pixels = np.empty((region.height, region.width, self.bands), np.float32)
        missing = {
            Cell(self._name, column, row)
            for row in range(around.y // side, around.bottom // side)
            for column in range(around.x // side, around.right // side)
        }
        while missing:
            cells, mine, others = self._cache.take(missing)
            if mine:
                cells |= self._computed(mine, run)
            for cell, content in cells.items():
                held = Region(cell.column * side, cell.row * side, content.shape[1], content.shape[0])
                if part := held.intersection(region):
                    pixels[part.slices(region)] = content[part.slices(held)]
            missing -= cells.keys()
            for event in others:
                while not event.wait(0.05):
                    run.check()
        return pixels

    def _computed(self, claimed: set[Cell], run: Run) -> dict[Cell, Pixels]:
        computed: dict[Cell, Pixels] = {}
        side = self._cache.side
        try:
            for block in blocks(((cell.column, cell.row) for cell in claimed), max(1, _LARGEST_BLOCK // side)):
                right, bottom = min(block.right * side, self.size.width), min(block.bottom * side, self.size.height)
                region = Region.between(block.x * side, block.y * side, right, bottom)
                pixels = self._source.render(region, run)
                for part in grid(block.size, Size(1, 1)):
                    left, top = part.x * side, part.y * side
                    cell = Cell(self._name, block.x + part.x, block.y + part.y)
                    computed[cell] = pixels[top : top + side, left : left + side].copy()
        finally:
            self._cache.give(computed, claimed)
        return computed


def blocks(cells: Iterable[tuple[int, int]], longest: int) -> Iterator[Region]:
    """Rectangles that cover (column, row) cells exactly, without overlap, each side at most ``longest`` cells.

    Few and large, since each is computed with its surroundings.
    """
    left = set(cells)
    while left:
        column, row = min(left, key=lambda cell: (cell[1], cell[0]))
        right, bottom = column + 1, row + 1
        while right - column < longest and (right, row) in left:
            right += 1
        while bottom - row < longest and all((x, bottom) in left for x in range(column, right)):
            bottom += 1
        left -= {(x, y) for x in range(column, right) for y in range(row, bottom)}
        yield Region.between(column, row, right, bottom)
