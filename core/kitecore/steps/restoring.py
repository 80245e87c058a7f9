"""What denoise, repair and deblur share: a network at source size, with maps that say how strongly it works where."""

from __future__ import annotations

from abc import abstractmethod
from typing import ClassVar

import numpy as np

from kitecore.engines import Engine
from kitecore.engines.kinds import KINDS, KindName
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, EngineUse, Step
from kitecore.values import EngineId


class Restoring(Step):
    """A step that restores at the size the picture has. At a strength of zero the picture passes through unchanged."""

    belongs: ClassVar[Belongs] = "source"
    engine_kind: ClassVar[KindName]

    engine: EngineId

    @abstractmethod
    def idle(self) -> bool:
        """Whether the settings ask for nothing."""

    @abstractmethod
    def maps(self, scale: float) -> list[float]:
        """Values of the engine's maps, for a picture reduced by ``scale`` (1 for one that is not)."""

    def pictures(self, pixels: Pixels, scale: float) -> Pixels:
        """What the engine is given: ``pixels`` H×W×3 and whatever else is made of them."""
        return pixels

    def pictures_reach(self) -> int:
        """How far around a pixel :meth:`pictures` looks."""
        return 0

    def engines_used(self) -> list[EngineUse]:
        return [EngineUse(self.engine_kind, self.engine)]

    def _engine(self) -> Engine:
        return self.engines_used()[0].engine()

    def _called(self) -> str:
        return self.engines_used()[0].called()

    def result_size(self, size: Size) -> Size:
        return size

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return source if self.idle() else _RestoredStage(source, self, self._engine(), source.size.width / full.width)

    @property
    def slow(self) -> bool:
        return not self.idle()

    def work(self, size: Size) -> float:
        return 0.0 if self.idle() else self._engine().operations_per_pixel(1) * size.pixels


class _RestoredStage(Stage):
    """A picture restored by a network; alpha is kept; grey stays one band."""

    def __init__(self, source: Stage, step: Restoring, engine: Engine, scale: float) -> None:
        super().__init__(source.size, source.bands)
        self._source = source
        self._step = step
        self._engine = engine
        self._scale = scale
        self._maps = np.array(step.maps(scale), np.float32)
        assert len(self._maps) == len(KINDS[step.engine_kind].maps)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        margin = self._step.pictures_reach()
        given = region.grown(self._engine.reach).aligned(self._engine.stride)
        around = self._source.extended(given.grown(margin), run)
        colours = around[..., : self.bands - has_alpha(self.bands)]
        grey = colours.shape[2] == 1
        pictures = self._step.pictures(np.repeat(colours, 3, axis=2) if grey else colours, self._scale)
        if margin:
            pictures = pictures[margin:-margin, margin:-margin]
        maps = np.broadcast_to(self._maps, (given.height, given.width, len(self._maps)))
        restored = self._engine.restore(pictures, maps)
        left, top = region.x - given.x, region.y - given.y
        cut = restored[top : top + region.height, left : left + region.width]
        result: Pixels = around[top + margin :, left + margin :][: region.height, : region.width].copy()
        result[..., : colours.shape[2]] = cut.mean(axis=2, keepdims=True) if grey else cut
        return result
