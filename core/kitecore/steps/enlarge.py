"""Enlarge (or reduce) to a target: by factor, by pixels, or by size on paper, with the engine of choice."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.engines import Engine, engine_named
from kitecore.engines.kinds import KindName
from kitecore.engines.passes import Passes, in_passes
from kitecore.errors import TakeError, TooLarge
from kitecore.filters.tone_match import ToneMatchedStage
from kitecore.lengths import Unit, pixels_for
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import RepeatingStage, ResampledStage, Stage
from kitecore.steps.base import Belongs, EngineUse, NetworkRun, Step
from kitecore.values import EngineId, Percent

SMALLEST_FACTOR, LARGEST_FACTOR = 0.5, 8.0
LONGEST_SIDE = 40_000
#: What a side may miss by where a crop was drawn to a paper's shape in whole pixels; papers are seldom longer than 3 to 1.
_WHOLE_PIXELS = 1.5
#: What the shelf shows engines at, if they go so far.
_SHOWN_FACTOR = 4


class _Target(BaseModel, ABC):
    model_config = ConfigDict(extra="forbid", frozen=True)

    @abstractmethod
    def factor_for(self, size: Size) -> float:
        """Enlarging that a picture of ``size`` needs. Raises TakeError if the target says nothing."""

    @abstractmethod
    def told(self) -> str:
        """The target in words."""


class ByFactor(_Target):
    """Both sides times ``factor``."""

    by: Literal["factor"] = "factor"
    factor: float = Field(ge=SMALLEST_FACTOR, le=LARGEST_FACTOR)

    def factor_for(self, size: Size) -> float:
        return self.factor

    def told(self) -> str:
        return f"{self.factor:.4g} times its size"


class ByWidth(_Target):
    """To a width in pixels; the height follows."""

    by: Literal["width"] = "width"
    pixels: int = Field(ge=1, le=LONGEST_SIDE)

    def factor_for(self, size: Size) -> float:
        return self.pixels / size.width

    def told(self) -> str:
        return f"a width of {self.pixels} px"


class ByHeight(_Target):
    """To a height in pixels; the width follows."""

    by: Literal["height"] = "height"
    pixels: int = Field(ge=1, le=LONGEST_SIDE)

    def factor_for(self, size: Size) -> float:
        return self.pixels / size.height

    def told(self) -> str:
        return f"a height of {self.pixels} px"


class ByPrint(_Target):
    """To a size on paper at a resolution.

    With both sides given, they lie or stand as the picture does, which fits inside them ("fit") or covers them ("fill").
    """

    by: Literal["print"] = "print"
    width: float | None = Field(default=None, gt=0)
    height: float | None = Field(default=None, gt=0)
    unit: Unit = "cm"
    ppi: float = Field(default=300, ge=10, le=2400)
    mode: Literal["fit", "fill"] = "fit"

    def _sides_for(self, size: Size) -> tuple[float | None, float | None]:
        """Width and height in pixels, turned as a picture of ``size`` is."""
        width, height = (side and pixels_for(side, self.unit, self.ppi) for side in (self.width, self.height))
        across = width and height and (width > height) != (size.width > size.height) and size.width != size.height
        return (height, width) if across else (width, height)

    def factor_for(self, size: Size) -> float:
        wanted = zip(self._sides_for(size), (size.width, size.height), strict=True)
        factors = [pixels / side for pixels, side in wanted if pixels is not None]
        if not factors:
            raise TakeError("The print has neither a width nor a height; give at least one.")
        return min(factors) if self.mode == "fit" else max(factors)

    def size_for(self, size: Size) -> Size | None:
        """The paper in whole pixels, if a picture of ``size`` has its shape as nearly as whole pixels allow."""
        width, height = self._sides_for(size)
        if width is None or height is None:
            return None
        factor = self.factor_for(size)
        beside = max(abs(width / factor - size.width), abs(height / factor - size.height))
        return Size(max(1, round(width)), max(1, round(height))) if beside <= _WHOLE_PIXELS else None

    def told(self) -> str:
        if self.width and self.height:
            return f"a print of {self.width:g} × {self.height:g} {self.unit} at {self.ppi:g} ppi"
        side = f"{self.width:g} {self.unit} wide" if self.width else f"{self.height or 0:g} {self.unit} high"
        return f"a print {side} at {self.ppi:g} ppi"


Target = Annotated[ByFactor | ByWidth | ByHeight | ByPrint, Field(discriminator="by")]


class Blend(BaseModel):
    """A second engine mixed into the first."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    engine: EngineId
    weight: Annotated[Percent, Field(description="Share of the second engine, in percent.")] = 50.0


class Enlarge(Step):
    """Bring the picture to the size it is wanted at."""

    revision: ClassVar[int] = 4
    title: ClassVar[str] = "enlarge"
    purpose: ClassVar[str] = "To a factor, a size in pixels, or a print"
    belongs: ClassVar[Belongs] = "size"
    scales: ClassVar[bool] = True
    engine_kind: ClassVar[KindName] = "enlarge"
    later: ClassVar[frozenset[str]] = frozenset({"passes"})

    kind: Literal["enlarge"] = "enlarge"
    engine: EngineId = "faithful"
    blend: Blend | None = None
    hold: Annotated[Percent, Field(description="How far tone and colour are held to the source's, in percent.")] = 0.0
    passes: Passes = 1
    repeat: Annotated[bool, Field(description="The picture is laid edge to edge: opposite edges must meet.")] = False
    target: Target = ByFactor(factor=2)

    def result_size(self, size: Size) -> Size:
        factor = self.target.factor_for(size)
        width, height = max(1, round(size.width * factor)), max(1, round(size.height * factor))
        # A side asked for in pixels is given to the pixel.
        if isinstance(self.target, ByWidth):
            width = self.target.pixels
        if isinstance(self.target, ByHeight):
            height = self.target.pixels
        if isinstance(self.target, ByPrint) and (paper := self.target.size_for(size)):
            width, height = paper.width, paper.height
        tolerance = 1 + 1e-6
        if not SMALLEST_FACTOR / tolerance <= factor <= LARGEST_FACTOR * tolerance:
            raise TakeError(
                f"This needs a factor of {factor:.3g} from {size} px; it must lie between "
                f"{SMALLEST_FACTOR:g} and {LARGEST_FACTOR:g}. Choose another size, or crop differently."
            )
        if max(width, height) > LONGEST_SIDE:
            raise TooLarge(
                f"The result would be {width} × {height} px; the long side may have at most {LONGEST_SIDE:,} px. "
                "Choose a smaller size or a lower ppi."
            )
        return Size(width, height)

    def _shares(self) -> list[tuple[EngineUse, float]]:
        """The engines that run and the share 0..1 of each; they sum to 1."""
        first, share = EngineUse(self.engine_kind, self.engine), self.blend.weight / 100 if self.blend else 0.0
        if self.blend is None or share == 0:
            return [(first, 1.0)]
        second = EngineUse(self.engine_kind, self.blend.engine)
        return [(second, 1.0)] if share == 1 else [(first, 1 - share), (second, share)]

    def engines_used(self) -> list[EngineUse]:
        return [use for use, _ in self._shares()]

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        if self.repeat:
            source = RepeatingStage(source)
        parts = [(_enlarged(source, use.engine(), result, self.passes), share) for use, share in self._shares()]
        stage = parts[0][0] if len(parts) == 1 else _BlendedStage(parts)
        if self.hold and stage is not source:
            stage = ToneMatchedStage(RepeatingStage(stage) if self.repeat else stage, source, self.hold / 100)
        return stage

    @property
    def slow(self) -> bool:
        return self.engine != "plain" or self.blend is not None

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        scale = self.result_size(size).width / size.width
        used = [use.engine() for use in self.engines_used()]
        return [NetworkRun(engine, head, size, self.passes) for engine in used if (head := engine.head_for(scale))]

    def work(self, size: Size) -> float:
        return 60.0 * self.result_size(size).pixels * len(self.engines_used())

    @classmethod
    def showing(cls, engine: str) -> Enlarge:
        factors = engine_named(engine, cls.engine_kind).manifest.factors
        return cls(engine=engine, target=ByFactor(factor=min(_SHOWN_FACTOR, max(factors, default=_SHOWN_FACTOR))))

    def did(self) -> str:
        used = self._shares()
        engines = used[0][0].called() if len(used) == 1 else " and ".join(
            f"{use.called()} ({share:.0%})" for use, share in used
        )  # fmt: skip
        held = f", tone and colour held to the source's by {self.hold:g} %" if self.hold else ""
        passes = f", the mean of {self.passes} passes" if self.passes > 1 and self.slow else ""
        return f"brought to {self.target.told()} by {engines}{passes}{held}{', opposite edges meeting' if self.repeat else ''}"


def _enlarged(source: Stage, engine: Engine, result: Size, passes: int) -> Stage:
    """``source`` brought to the size ``result`` by one engine."""
    head = engine.head_for(max(result.width / source.size.width, result.height / source.size.height))
    if head is None:
        return source if result == source.size else ResampledStage(source, result)
    network = _NetworkStage(source, engine, head, passes)
    if network.size == result:
        return network
    return ResampledStage(RepeatingStage(network) if isinstance(source, RepeatingStage) else network, result)


class _BlendedStage(Stage):
    """Stages of one size, mixed by their shares."""

    def __init__(self, parts: list[tuple[Stage, float]]) -> None:
        super().__init__(parts[0][0].size, parts[0][0].bands)
        self._parts = parts

    def render(self, region: Region, run: Run) -> Pixels:
        result = np.zeros((region.height, region.width, self.bands), np.float32)
        for stage, share in self._parts:
            result += stage.render(region, run) * np.float32(share)
        return result


class _NetworkStage(Stage):
    """A picture enlarged by one head of a network; alpha, if any, by plain resampling; grey stays one band."""

    def __init__(self, source: Stage, engine: Engine, factor: int, passes: int) -> None:
        super().__init__(Size(source.size.width * factor, source.size.height * factor), source.bands)
        self._source = source
        self._engine = engine
        self._factor = factor
        self._passes = passes
        self._plain = ResampledStage(source, self.size)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        factor = self._factor
        cells = Region.between(
            region.x // factor, region.y // factor, -(-region.right // factor), -(-region.bottom // factor)
        )
        given = self._engine.given_for(cells, self._source)
        around = self._source.extended(given, run)
        colours = around[..., : around.shape[2] - has_alpha(self.bands)]
        enlarged = in_passes(lambda seen, _: self._engine.enlarge(seen, factor), self._passes, colours)
        left, top = region.x - given.x * factor, region.y - given.y * factor
        cut: Pixels = enlarged[top : top + region.height, left : left + region.width]
        if not has_alpha(self.bands):
            return cut.copy()
        result = self._plain.render(region, run)
        result[..., :-1] = cut
        return result
