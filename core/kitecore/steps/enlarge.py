"""Enlarge (or reduce) to a target: by factor, by pixels, or by size on paper, with the engine of choice."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from kitecore.engines import Engine, engine_named
from kitecore.errors import TakeError, TooLarge
from kitecore.geometry import Region, Size
from kitecore.lengths import Unit, pixels_for
from kitecore.pixels import Pixels, has_alpha
from kitecore.resample import LOBES
from kitecore.run import Run
from kitecore.stage import ResampledStage, Stage
from kitecore.steps.base import Step

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


class Enlarge(Step):
    """Bring the picture to the size it is wanted at."""

    revision: ClassVar[int] = 1

    kind: Literal["enlarge"] = "enlarge"
    engine: str = Field(default="faithful", pattern=r"^[a-z][a-z0-9-]*$", max_length=60)
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

    def _engine(self) -> Engine:
        return engine_named(self.engine)

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        scale = max(result.width / source.size.width, result.height / source.size.height)
        head = self._engine().head_for(scale)
        if head is None:
            return source if result == source.size else ResampledStage(source, result)
        network = _NetworkStage(source, self._engine(), head)
        return network if network.size == result else ResampledStage(network, result)

    def reach(self, size: Size) -> int:
        result = self.result_size(size)
        scale = result.width / size.width
        head = self._engine().head_for(scale)
        resampling = LOBES + 1 if scale >= 1 else int(LOBES / scale) + 2
        return resampling if head is None else self._engine().reach + resampling

    def work(self, size: Size) -> float:
        result = self.result_size(size)
        head = self._engine().head_for(result.width / size.width)
        resampling = 60.0 * result.pixels
        return resampling if head is None else resampling + self._engine().operations_per_pixel(head) * size.pixels

    def identity(self) -> str:
        return self._engine().fingerprint


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
        around = self._source.extended(cells.grown(self._engine.reach), run)
        colours = around[..., : around.shape[2] - has_alpha(self.bands)]
        enlarged = self._engine.enlarge(colours, factor)
        left = region.x - (cells.x - self._engine.reach) * factor
        top = region.y - (cells.y - self._engine.reach) * factor
        cut: Pixels = enlarged[top : top + region.height, left : left + region.width]
        if not has_alpha(self.bands):
            return cut.copy()
        result = self._plain.render(region, run)
        result[..., :-1] = cut
        return result
