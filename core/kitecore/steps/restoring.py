"""What denoise, repair and deblur share: a network at source size, with maps that say how strongly it works where."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping
from typing import ClassVar

import numpy as np

from kitecore.engines import Engine
from kitecore.engines.kinds import KINDS, KindName
from kitecore.engines.passes import Passes, Way, in_passes
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, EngineUse, Framed, NetworkRun, Step
from kitecore.values import EngineId


class Restoring(Step):
    """A step that restores at the size the picture has. At a strength of zero the picture passes through unchanged."""

    belongs: ClassVar[Belongs] = "source"
    engine_kind: ClassVar[KindName]

    #: Settings at which everything the engine finds is taken away, and nothing else done.
    entire: ClassVar[Mapping[str, float]]
    later: ClassVar[frozenset[str]] = frozenset({"passes"})

    engine: EngineId
    passes: Passes = 1

    @abstractmethod
    def idle(self) -> bool:
        """Whether the settings ask for nothing."""

    @abstractmethod
    def strengths(self) -> list[float]:
        """How much of what the engine changes is wanted, 0..1: of all of it, or of luminance and of colour."""

    def description(self, scale: float) -> list[float]:
        """Values of the engine's other maps, for a picture reduced by ``scale`` (1 for one that is not)."""
        return []

    def description_seen(self, scale: float, way: Way) -> list[float]:
        """The same for a picture that is seen in another way; different where values tell a direction."""
        return self.description(scale)

    def finished(self, source: Stage, restored: Stage, full: Size) -> Stage:
        """What is done beside the engine; ``restored`` is ``source`` where the engine is asked for nothing."""
        return restored

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
        return self.engines_used()[0].called() + (f" (the mean of {self.passes} passes)" if self.passes > 1 else "")

    def result_size(self, size: Size) -> Size:
        return size

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        if self.idle():
            return self.finished(source, source, full)
        return self.stage_upon(self._entirely(source, full), source, full)

    @property
    def slow(self) -> bool:
        return not self.idle()

    def slow_part(self) -> Step:
        return self.model_copy(update={"mask": None, **self.entire})

    def slow_stage(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._entirely(source, full)

    def stage_upon(self, slow: Stage, source: Stage, full: Size) -> Stage:
        return self.finished(source, _SharedStage(source, slow, self.strengths()), full)

    def _entirely(self, source: Stage, full: Size) -> Stage:
        return _RestoredStage(source, self, self._engine(), source.size.width / full.width)

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        return [] if self.idle() else [NetworkRun(self._engine(), 1, size, self.passes)]

    def work(self, size: Size) -> float:
        return 0.0


class _SharedStage(Stage):
    """Shares of what changed between two stages: one of all of it, or one of luminance and one of colour.

    A network is asked once for all it finds, and every strength is had from that.
    """

    def __init__(self, before: Stage, after: Stage, shares: list[float]) -> None:
        super().__init__(after.size, after.bands)
        self._before, self._after = before, after
        # Grey has no colour that could change.
        self._shares = np.array(shares[:1] if after.bands < 3 else shares, np.float32)

    def render(self, region: Region, run: Run) -> Pixels:
        result = self._after.render(region, run)
        if (self._shares == 1).all():
            return result
        before = self._before.render(region, run)
        change = colours_of(result - before)
        if len(self._shares) == 1:
            change *= self._shares
        else:
            luminance = luma(change)[..., None]
            change = self._shares[0] * luminance + self._shares[1] * (change - luminance)
        colours = colours_of(before)
        colours += change
        return before


class _RestoredStage(Stage):
    """A picture in which everything a network finds is taken away; alpha is kept; grey stays one band."""

    def __init__(self, source: Stage, step: Restoring, engine: Engine, scale: float) -> None:
        super().__init__(source.size, source.bands)
        self._source = source
        self._step = step
        self._engine = engine
        self._scale = scale

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        margin = self._step.pictures_reach()
        given = self._engine.given_for(region, self._source)
        around = self._source.extended(given.grown(margin), run)
        colours = around[..., : self.bands - has_alpha(self.bands)]
        grey = colours.shape[2] == 1
        pictures = self._step.pictures(np.repeat(colours, 3, axis=2) if grey else colours, self._scale)
        if margin:
            pictures = pictures[margin:-margin, margin:-margin]
        restored = in_passes(self._seen, self._step.passes, pictures)
        left, top = region.x - given.x, region.y - given.y
        cut = restored[top : top + region.height, left : left + region.width]
        result: Pixels = around[top + margin :, left + margin :][: region.height, : region.width].copy()
        result[..., : colours.shape[2]] = cut.mean(axis=2, keepdims=True) if grey else cut
        return result

    def _seen(self, pictures: Pixels, way: Way) -> Pixels:
        """What the engine makes of pictures seen in one way."""
        kind = KINDS[self._step.engine_kind]
        values = [*[1.0] * kind.strengths, *self._step.description_seen(self._scale, way)]
        assert len(values) == len(kind.maps)
        return self._engine.restore(
            pictures, np.broadcast_to(np.array(values, np.float32), (*pictures.shape[:2], len(values)))
        )
