"""Enlarge (or reduce) to a target: by factor, by pixels, or by size on paper, with the engine of choice."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.engines import Engine, engine_named
from kitecore.errors import TakeError, TooLarge
from kitecore.geometry import Region, Size
from kitecore.hold import HELD_REACH, HeldStage
from kitecore.lengths import Unit, pixels_for
from kitecore.pixels import Pixels, has_alpha
from kitecore.resample import LOBES
from kitecore.run import Run
from kitecore.stage import RepeatingStage, ResampledStage, Stage
from kitecore.steps.base import EngineId, Step

SMALLEST_FACTOR, LARGEST_FACTOR = 0.5, 8.0
LONGEST_SIDE = 40_000


class _Target(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class ByFactor(_Target):
    """Both sides times ``factor``."""

    by: Literal["factor"] = "factor"
    factor: float = Field(ge=SMALLEST_FACTOR, le=LARGEST_FACTOR)

    def factor_for(self, size: Size) -> float:
        return self.factor


class ByWidth(_Target):
    """To a width in pixels; the height follows."""

    by: Literal["width"] = "width"
    pixels: int = Field(ge=1, le=LONGEST_SIDE)

    def factor_for(self, size: Size) -> float:
        return self.pixels / size.width


class ByHeight(_Target):
    """To a height in pixels; the width follows."""

    by: Literal["height"] = "height"
    pixels: int = Field(ge=1, le=LONGEST_SIDE)

    def factor_for(self, size: Size) -> float:
        return self.pixels / size.height


class ByPrint(_Target):
    """To a size on paper at a resolution. With both sides given, the picture fits inside them ("fit") or covers them ("fill")."""

    by: Literal["print"] = "print"
    width: float | None = Field(default=None, gt=0)
    height: float | None = Field(default=None, gt=0)
    unit: Unit = "cm"
    ppi: float = Field(default=300, ge=10, le=2400)
    mode: Literal["fit", "fill"] = "fit"

    def factor_for(self, size: Size) -> float:
        sides = ((self.width, size.width), (self.height, size.height))
        factors = [pixels_for(length, self.unit, self.ppi) / side for length, side in sides if length is not None]
        if not factors:
            raise TakeError("The print has neither a width nor a height; give at least one.")
        return min(factors) if self.mode == "fit" else max(factors)


Target = Annotated[ByFactor | ByWidth | ByHeight | ByPrint, Field(discriminator="by")]


class Blend(BaseModel):
    """A second engine mixed into the first."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    engine: EngineId
    weight: Annotated[float, Field(ge=0, le=100, description="Share of the second engine, in percent.")] = 50.0


class Enlarge(Step):
    """Bring the picture to the size it is wanted at."""

    revision: ClassVar[int] = 1

    kind: Literal["enlarge"] = "enlarge"
    engine: EngineId = "faithful"
    blend: Blend | None = None
    hold: Annotated[
        float, Field(ge=0, le=100, description="How far tone and colour are held to the source's, in percent.")
    ] = 0.0
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

    def shares(self) -> list[tuple[Engine, float]]:
        """The engines that run and the share 0..1 of each; they sum to 1."""
        first = engine_named(self.engine, "enlarge")
        if self.blend is None or self.blend.weight == 0:
            return [(first, 1.0)]
        second = engine_named(self.blend.engine, "enlarge")
        share = self.blend.weight / 100
        return [(second, 1.0)] if share == 1 else [(first, 1 - share), (second, share)]

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        if self.repeat:
            source = RepeatingStage(source)
        parts = [(_enlarged(source, engine, result), share) for engine, share in self.shares()]
        stage = parts[0][0] if len(parts) == 1 else _BlendedStage(parts)
        if self.hold and stage is not source:
            stage = HeldStage(RepeatingStage(stage) if self.repeat else stage, source, self.hold / 100)
        return stage

    @property
    def slow(self) -> bool:
        return self.engine != "plain" or self.blend is not None

    def reach(self, size: Size) -> int:
        result = self.result_size(size)
        scale = result.width / size.width
        resampling = LOBES + 1 if scale >= 1 else int(LOBES / scale) + 2
        networks = [engine.reach + engine.stride for engine, _ in self.shares() if engine.head_for(scale)]
        return resampling + max(networks, default=0) + (HELD_REACH if self.hold else 0)

    def work(self, size: Size) -> float:
        result = self.result_size(size)
        shares = self.shares()
        heads = [(engine, engine.head_for(result.width / size.width)) for engine, _ in shares]
        resampling = 60.0 * result.pixels * len(shares)
        return resampling + sum(engine.operations_per_pixel(head) * size.pixels for engine, head in heads if head)

    def identity(self) -> str:
        return "+".join(engine.fingerprint for engine, _ in self.shares())


def _enlarged(source: Stage, engine: Engine, result: Size) -> Stage:
    """``source`` brought to the size ``result`` by one engine."""
    head = engine.head_for(max(result.width / source.size.width, result.height / source.size.height))
    if head is None:
        return source if result == source.size else ResampledStage(source, result)
    network = _NetworkStage(source, engine, head)
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

    def __init__(self, source: Stage, engine: Engine, factor: int) -> None:
        super().__init__(Size(source.size.width * factor, source.size.height * factor), source.bands)
        self._source = source
        self._engine = engine
        self._factor = factor
        self._plain = ResampledStage(source, self.size)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        factor = self._factor
        cells = Region.between(
            region.x // factor, region.y // factor, -(-region.right // factor), -(-region.bottom // factor)
        )
        given = cells.grown(self._engine.reach).aligned(self._engine.stride)
        around = self._source.extended(given, run)
        colours = around[..., : around.shape[2] - has_alpha(self.bands)]
        enlarged = self._engine.enlarge(colours, factor)
        left, top = region.x - given.x * factor, region.y - given.y * factor
        cut: Pixels = enlarged[top : top + region.height, left : left + region.width]
        if not has_alpha(self.bands):
            return cut.copy()
        result = self._plain.render(region, run)
        result[..., :-1] = cut
        return result
