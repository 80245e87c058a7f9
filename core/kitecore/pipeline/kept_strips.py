"""A stage kept in strips that overlap, so that what is rendered beside each other needs nothing of its neighbour's."""

from __future__ import annotations

import numpy as np

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.pipeline.stage_cache import CachedStage, StageCache


class StripsStage(Stage):
    """Another stage, whose strips of full width are computed once as long as they are kept.

    A strip has ``height`` rows and ``margin`` more on either side, which its neighbours have as well: whatever lies in a strip
    with its margin comes from that strip alone, whoever asks for it and whatever is kept, so it is the same on every machine.
    Strips are computed in the columns of the cache's cells, which are at least as high.
    """

    def __init__(self, source: Stage, name: str, cache: StageCache, height: float, margin: int) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._name, self._cache = source, name, cache
        self._height, self._margin = height, margin
        self._last = max(0, -int(-source.size.height // height) - 1)

    def render(self, region: Region, run: Run) -> Pixels:
        number = self._number(region.y + region.height // 2)
        if self._reach(number).intersection(region) == region:
            return self._of(number, region, run)
        parts = []
        for one in range(self._number(region.y), self._number(region.bottom - 1) + 1):
            top, bottom = self._edge(one), self._edge(one + 1)
            own = Region.between(region.x, max(top, region.y), region.right, min(bottom, region.bottom))
            parts.append(self._of(one, own, run))
        return np.concatenate(parts)

    def _edge(self, number: int) -> int:
        """The first row of a strip, without its margin."""
        return self.size.height if number > self._last else round(number * self._height)

    def _number(self, row: int) -> int:
        """The strip that a row lies in."""
        number = min(self._last, int(row / self._height))
        return number + (row >= self._edge(number + 1)) - (row < self._edge(number))

    def _reach(self, number: int) -> Region:
        """A strip with its margin."""
        top, bottom = self._edge(number) - self._margin, self._edge(number + 1) + self._margin
        return Region.between(0, max(0, top), self.size.width, min(self.size.height, bottom))

    def _of(self, number: int, part: Region, run: Run) -> Pixels:
        strip = self._reach(number)
        kept = CachedStage(_Rows(self._source, strip), f"{self._name} {number}", self._cache, block=0)
        return kept.render(part.moved(0, -strip.y), run)


class _Rows(Stage):
    """Some rows of another stage."""

    def __init__(self, source: Stage, rows: Region) -> None:
        super().__init__(Size(source.size.width, rows.height), source.bands)
        self._source, self._top = source, rows.y

    def render(self, region: Region, run: Run) -> Pixels:
        return self._source.render(region.moved(0, self._top), run)
