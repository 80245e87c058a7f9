"""What steps share that change every pixel by itself, whatever lies around it."""

from __future__ import annotations

from collections.abc import Callable

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage


class PointwiseStage(Stage):
    """A picture whose colours, H×W×1 or H×W×3, go through a function; alpha stays."""

    def __init__(self, source: Stage, change: Callable[[Pixels], Pixels]) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._change = source, change

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        colours = colours_of(result)
        colours[:] = self._change(colours)
        return result
