"""How all of a result is rendered: in regions as large as memory allows.

What lies around a region is computed again for the next one: the larger regions are, the less that is.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count as counted

from kitecore.pipeline.geometry import Size
from kitecore.pipeline.kept_strips import StripsStage
from kitecore.pipeline.stage import Stage
from kitecore.pipeline.stage_cache import CacheStage, StageCache, uncached
from kitecore.pipeline.strips import WORKING_BYTES
from kitecore.steps.base import NetworkRun
from kitecore.takes.plan import Plan

#: Of that, for networks whose results others go on from, and for what is kept of these.
_SHARE_OF_EARLIER, _SHARE_KEPT = 0.6, 0.3
_SMALLEST = 64
_FLOAT_BYTES = 4
#: A region is held in so many versions while steps without a network are done, and while one waits for a network.
_COPIES = 5
#: A strip is rendered while the one before it is encoded, in 16 bits at most.
_STRIPS, _SAMPLE_BYTES = 2, 2
#: Steps without a network look about so far and take about so many operations, in pixels of the result.
_PLAIN_REACH, _PLAIN_OPERATIONS = 32, 600.0
_MOST_PARTS = 64
_HIGHEST_STRIP = 4096
#: From so many operations on several machines may make rows of regions of it. Of so many rows the last ones keep nobody waiting
#: for long; having them may cost so many times the computing. With and without others, regions are the same.
_LONG, _MOST_ROWS, _SHARING = 2.8e12, 16, 1.03
#: Fewer rows that need nothing of each other are worse than more of them that do.
_FEWEST_ROWS = 6
#: Cells in which strips are kept: so many columns at most; and by so many pixels more than it looks at a network may be given.
_MOST_COLUMNS, _ALIGNED = 8, 8


@dataclass(frozen=True)
class WholeRender:
    """The regions in which a result is rendered from top to bottom, and what is kept meanwhile."""

    #: Of the result at the size it is rendered at.
    tile: Size
    #: Given to :func:`~kitecore.takes.render.result_stage`.
    cache: CacheStage


@dataclass(frozen=True)
class _Network:
    """A network on its way through a picture: how far it looks, and whether what it computes is kept."""

    run: NetworkRun
    #: Pixels of its input beside a region: its own reach, and that of networks after it, as far as nothing is kept between.
    reach: float
    kept: bool
    #: Pixels of its input beside a row that all networks after it look at.
    margin: float

    def area(self, width: float, height: float) -> float:
        """Pixels it is given at most for a region of ``width``×``height`` px of its input."""
        size = self.run.size
        return min(width + 2 * self.reach, size.width) * min(height + 2 * self.reach, size.height)


def whole_render(plan: Plan, bands: int, size: Size, limit: int = WORKING_BYTES, rows: int = 1) -> WholeRender:
    """How to render ``plan`` at ``size`` (usually its own) in about ``limit`` bytes.

    Of several networks in a row at the size of the source, all but the last one's results are kept in large cells until
    the strips that need them have been made. Where machines may share a result, each of its rows of regions needs nothing of
    another's, if that costs little; these are multiples of ``rows`` pixels high then.
    """
    networks = list(_networks(plan))
    cell = _cell([network for network in networks if network.kept], plan.source, bands, limit, _bare(networks))
    earlier = cell.bytes + cell.working if cell else 0.0
    layouts = [_Layout(networks, bands, size, tile, earlier) for tile in _parts(size)]
    fitting = [layout for layout in layouts if layout.bytes <= limit] or [min(layouts, key=lambda one: one.bytes)]
    best = min(fitting, key=lambda one: one.work)
    if _bare(networks) > _LONG:
        if cell and (apart := _apart(networks, plan, bands, size, limit, rows, _SHARING * (best.work + cell.work))):
            return apart
        cheap = (layout for layout in fitting if layout.work <= _SHARING * best.work)
        best = max(cheap, key=lambda one: (min(one.rows, _MOST_ROWS), -one.work))
    return WholeRender(best.tile, _keeping(plan, cell.size, cell.bytes) if cell else uncached)


def _bare(networks: list[_Network]) -> float:
    """Operations of networks that look at nothing twice."""
    return sum(network.run.size.pixels * network.run.operations_per_pixel for network in networks)


def _parts(size: Size) -> Iterator[Size]:
    """Sizes of regions that cut a picture into equal parts."""
    for rows in range(max(1, -(-size.height // _HIGHEST_STRIP)), _MOST_PARTS + 1):
        for columns in range(1, _MOST_PARTS + 1):
            part = Size(-(-size.width // columns), -(-size.height // rows))
            if min(part.width, part.height) >= min(_SMALLEST, size.width, size.height):
                yield part
    # Of very large pictures, and for machines that have very little.
    yield Size(min(size.width, 4 * _SMALLEST), min(size.height, _SMALLEST))


class _Cells:
    """What it costs to keep what ``kept`` compute of a source, in cells of one size: operations, and bytes."""

    def __init__(self, kept: list[_Network], source: Size, bands: int, size: Size) -> None:
        self.size = size
        self.rows = math.ceil(source.height / size.height)
        # As if none lay at a border: cells that are nearly square ask each other for the least.
        areas = [(size.width + 2 * one.run.reach) * (size.height + 2 * one.run.reach) for one in kept]
        pairs = list(zip(areas, kept, strict=True))
        self.work = sum(area * one.run.operations_per_pixel for area, one in pairs) * source.pixels / size.pixels
        #: Each network has memory of its own, and keeps it.
        self.working = sum(area * one.run.bytes_per_pixel for area, one in pairs)
        #: Two rows of them and one begun.
        self.bytes = 3 * len(kept) * source.width * size.height * bands * _FLOAT_BYTES

    def fits(self, limit: int) -> bool:
        return self.bytes <= _SHARE_KEPT * limit and self.working + self.bytes <= _SHARE_OF_EARLIER * limit


class _Strips:
    """What it costs to keep what ``kept`` compute of a source in strips, one for each row of a result: operations, and bytes."""

    def __init__(self, kept: list[_Network], source: Size, bands: int, height: float, count: int, columns: int) -> None:
        self.column = math.ceil(source.width / columns)
        self.height = height
        #: The first one's is the largest.
        self.margin = math.ceil(max(one.margin for one in kept)) + _ALIGNED
        high = height + 2 * self.margin
        areas = [
            min(self.column + 2 * one.run.reach, source.width) * min(high + 2 * one.run.reach, source.height)
            for one in kept
        ]
        pairs = list(zip(areas, kept, strict=True))
        self.work = count * columns * sum(area * one.run.operations_per_pixel for area, one in pairs)
        self.working = sum(area * one.run.bytes_per_pixel for area, one in pairs)
        #: One of each, what may be left of the one before, and one begun.
        self.bytes = math.ceil(3 * len(kept) * source.width * high * bands * _FLOAT_BYTES)

    def fits(self, limit: int) -> bool:
        return self.bytes <= _SHARE_KEPT * limit and self.working + self.bytes <= _SHARE_OF_EARLIER * limit


def _apart(
    networks: list[_Network], plan: Plan, bands: int, size: Size, limit: int, multiple: int, most: float
) -> WholeRender | None:
    """Rows of regions that need nothing of each other, an even number of them if possible.

    None if that is more work than ``most``. What earlier networks compute is kept in strips that overlap by what later ones
    look at.
    """
    kept = [network for network in networks if network.kept]
    found: dict[int, tuple[float, Size, _Strips]] = {}
    for part in _parts(size):
        tile = Size(part.width, -(-part.height // multiple) * multiple)
        height, count = tile.height * plan.source.height / size.height, math.ceil(size.height / tile.height)
        columns = (_Strips(kept, plan.source, bands, height, count, one) for one in range(1, _MOST_COLUMNS + 1))
        if (
            not _FEWEST_ROWS <= count <= _MOST_ROWS
            or (strips := next((one for one in columns if one.fits(limit)), None)) is None
        ):
            continue
        layout = _Layout(networks, bands, size, tile, strips.bytes + strips.working)
        work = layout.work + strips.work
        if layout.bytes <= limit and work <= min(most, found.get(count, (most,))[0]):
            found[count] = work, tile, strips
    if not found:
        return None
    _, tile, strips = found[max(found, key=lambda count: (count % 2 == 0, count))]
    cache = StageCache(strips.bytes, Size(strips.column, plan.source.height), block=1)
    return WholeRender(
        tile, _kept(plan, lambda stage, name: StripsStage(stage, name, cache, strips.height, strips.margin))
    )


def _cell(kept: list[_Network], source: Size, bands: int, limit: int, all_work: float) -> _Cells | None:
    """The cells in which what networks compute is kept: those that ask for the least work.

    Where machines may share a result they are low, if that costs little: none computes all of them then.
    """
    if not kept:
        return None
    cells = [_Cells(kept, source, bands, size) for size in _parts(source)]
    fitting = [cell for cell in cells if cell.fits(limit)] or [min(cells, key=lambda cell: cell.size.height)]
    best = min(fitting, key=lambda cell: cell.work)
    if all_work > _LONG:
        cheap = (cell for cell in fitting if cell.work - best.work <= (_SHARING - 1) * all_work)
        best = max(cheap, key=lambda cell: (min(cell.rows, _MOST_ROWS), -cell.work))
    return best


def _networks(plan: Plan) -> Iterator[_Network]:
    """The networks that a plan runs, the last one first."""
    beyond, margin, later, framed = 0.0, 0.0, False, plan.framed.size
    for step, size in reversed(list(zip(plan.steps, plan.sizes[:-1], strict=True))):
        runs = step.networks(size, framed)
        kept = later and size.pixels <= plan.source.pixels and step.result_size(size) == size
        beyond = 0.0 if kept else beyond
        furthest = 0.0
        for run in runs:
            share = run.size.width / plan.size.width
            yield _Network(run, run.reach + beyond * share, kept, (margin + _PLAIN_REACH / 2) * share)
            furthest = max(furthest, run.reach / share)
        beyond, margin = beyond + furthest, margin + furthest
        later = later or bool(runs)


class _Layout:
    """What rendering costs in regions of one size: floating-point operations, and bytes at once."""

    def __init__(self, networks: list[_Network], bands: int, size: Size, tile: Size, earlier: float) -> None:
        self.tile = tile
        self.rows = math.ceil(size.height / tile.height)
        count = math.ceil(size.width / tile.width) * self.rows
        around = (tile.width + 2 * _PLAIN_REACH) * (tile.height + 2 * _PLAIN_REACH)
        self.work, working = count * around * _PLAIN_OPERATIONS, 0.0
        for network in networks:
            if network.kept:
                continue
            across, down = network.run.size.width / size.width, network.run.size.height / size.height
            area = network.area(tile.width * across, tile.height * down)
            self.work += count * area * network.run.operations_per_pixel
            working += area * network.run.bytes_per_pixel
        strips = _STRIPS * size.width * min(tile.height, size.height) * bands * _SAMPLE_BYTES
        self.bytes = working + strips + earlier + around * bands * _FLOAT_BYTES * _COPIES


def _keeping(plan: Plan, cell: Size, limit: int) -> CacheStage:
    return _kept(plan, StageCache(limit, cell, max(cell.width, cell.height)).of(""))


def _kept(plan: Plan, cache: CacheStage) -> CacheStage:
    """Keeps what slow steps make at up to the size of the source, but for the last one: nothing slow is made of that."""
    slow, asked = sum(step.slow for step in plan.steps), counted(1)

    def keep(stage: Stage, name: str) -> Stage:
        last = next(asked) >= slow
        return stage if last or stage.size.pixels > plan.source.pixels else cache(stage, name)

    return keep
