"""What slow steps have computed, kept in memory so that what comes after them can be changed and looked at again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple

import numpy as np

from kitecore.geometry import Region
from kitecore.pixels import Pixels
from kitecore.run import Run
from kitecore.stage import Stage

#: Sides of the squares that stages are kept in, in pixels.
CELL = 64

#: Gives a stage that keeps what another one computes, by a name that says everything its pixels depend on.
Keep = Callable[[Stage, str], Stage]


def nothing_kept(stage: Stage, name: str) -> Stage:
    """Keeps nothing: the stage as it is."""
    return stage


class Cell(NamedTuple):
    """A square of a stage: the stage's name, and the square's column and row."""

    name: str
    column: int
    row: int


class Kept:
    """Cells of stages in memory, together at most ``limit`` bytes; least recently used first out.

    Several threads may render stages that share cells: each cell is computed once, by whoever wants it first.
    """

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._lock = threading.Lock()
        self._cells: OrderedDict[Cell, Pixels] = OrderedDict()
        self._held = 0
        self._under_way: dict[Cell, threading.Event] = {}

    def of(self, picture: str) -> Keep:
        """Keeps stages of the picture with this hash."""
        return lambda stage, name: KeptStage(stage, f"{picture} {name}", self)

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


class KeptStage(Stage):
    """Another stage, whose cells are computed once as long as they are kept."""

    def __init__(self, source: Stage, name: str, kept: Kept) -> None:
        super().__init__(source.size, source.bands)
        self._source = source
        self._name = name
        self._kept = kept

    def render(self, region: Region, run: Run) -> Pixels:
        around = region.aligned(CELL)
        pixels = np.empty((region.height, region.width, self.bands), np.float32)
        missing = {
            Cell(self._name, column, row)
            for row in range(around.y // CELL, around.bottom // CELL)
            for column in range(around.x // CELL, around.right // CELL)
        }
        while missing:
            cells, mine, others = self._kept.take(missing)
            if mine:
                cells |= self._computed(mine, run)
            for cell, content in cells.items():
                _lay(content, cell, pixels, region)
            missing -= cells.keys()
            for event in others:
                while not event.wait(0.05):
                    run.check()
        return pixels

    def _computed(self, claimed: set[Cell], run: Run) -> dict[Cell, Pixels]:
        computed: dict[Cell, Pixels] = {}
        try:
            for block in blocks((cell.column, cell.row) for cell in claimed):
                right, bottom = block.right * CELL, block.bottom * CELL
                region = Region.between(
                    block.x * CELL, block.y * CELL, min(right, self.size.width), min(bottom, self.size.height)
                )
                pixels = self._source.render(region, run)
                for column in range(block.x, block.right):
                    for row in range(block.y, block.bottom):
                        left, top = column * CELL - region.x, row * CELL - region.y
                        computed[Cell(self._name, column, row)] = pixels[top : top + CELL, left : left + CELL].copy()
        finally:
            self._kept.give(computed, claimed)
        return computed


def _lay(content: Pixels, cell: Cell, pixels: Pixels, region: Region) -> None:
    """Copy into ``pixels`` of ``region`` what of a cell lies in it."""
    left, top = cell.column * CELL, cell.row * CELL
    x, right = max(left, region.x), min(left + content.shape[1], region.right)
    y, bottom = max(top, region.y), min(top + content.shape[0], region.bottom)
    pixels[y - region.y : bottom - region.y, x - region.x : right - region.x] = (
        content[y - top : bottom - top, x - left : right - left]
    )  # fmt: skip


def blocks(cells: Iterable[tuple[int, int]]) -> Iterator[Region]:
    """Rectangles that cover (column, row) cells exactly, without overlap: few and large, since each has surroundings."""
    left = set(cells)
    while left:
        column, row = min(left, key=lambda cell: (cell[1], cell[0]))
        right, bottom = column + 1, row + 1
        while (right, row) in left:
            right += 1
        while all((x, bottom) in left for x in range(column, right)):
            bottom += 1
        left -= {(x, y) for x in range(column, right) for y in range(row, bottom)}
        yield Region.between(column, row, right, bottom)
