"""Lens: what a lens does by hand undone: corners that are darker, colours that part towards the corners."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, NamedTuple, Self

import numpy as np
import numpy.typing as npt
from pydantic import Field

from kitecore.colour.transfer import TransferCurve, transfer_of
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Framed, Step
from kitecore.steps.warp_stage import WarpStage
from kitecore.values import Percent

#: Stops that the corners are lightened by at 100.
_CORNER_EV = 2.0
#: Half the width of the cubic that channels are resampled by, px.
_CUBIC = 2

Fringe = Annotated[float, Field(ge=-8, le=8)]


class Lens(Step):
    """Both are centred on the middle of the source, whatever was cropped.

    Vignetting multiplies linear light by 2 to the power of a share that grows with the square of the distance from where it
    begins to the corner. Fringes: red and blue are made larger or smaller about the middle, by pixels of the source at its
    corner, resampled by the cubic of R. Keys (1981, a = −1/2), or together with what the frame before resamples; green stays.
    """

    revision: ClassVar[int] = 2
    title: ClassVar[str] = "lens"
    purpose: ClassVar[str] = "Dark corners and colour fringes, by hand"
    belongs: ClassVar[Belongs] = "source"

    kind: Literal["lens"] = "lens"
    vignetting: Annotated[float, Field(ge=-100, le=100, description="Above 0 the corners become lighter.")] = 0.0
    begins: Annotated[Percent, Field(description="How far from the middle it begins, of the way to the corner.")] = 0.0
    red: Annotated[Fringe, Field(description="How far outwards red is moved at the corner, px of the source.")] = 0.0
    blue: Annotated[Fringe, Field(description="The same for blue.")] = 0.0

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 200.0 * size.pixels

    def did(self) -> str:
        parts = []
        if self.vignetting:
            parts.append(f"corners {'lightened' if self.vignetting > 0 else 'darkened'} at {abs(self.vignetting):g} %")
        if self.red or self.blue:
            parts.append(f"colour fringes moved (red {self.red:+.2g} px, blue {self.blue:+.2g} px at the corner)")
        return " and ".join(parts)

    def at(self, share: float) -> Self:
        return self.model_copy(update={name: getattr(self, name) * share for name in ("vignetting", "red", "blue")})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, full, Mapping(), full, None)

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        # From pixels of what comes in to those of the framed original, and on to the source.
        to_source = framed.to_source.reduced(framed.full, source.size)
        return self._staged(source, full, to_source, framed.source, framed.profile)

    def _staged(self, source: Stage, full: Size, to_source: Mapping, whole: Size, profile: bytes | None) -> Stage:
        middle = to_source.place_from_source(Place(whole.width / 2, whole.height / 2))
        scale = 1 / to_source.scale
        about = _About(middle.x, middle.y, scale * math.hypot(whole.width, whole.height) / 2, scale)
        made = source
        if source.bands >= 3 and (self.red or self.blue):
            if isinstance(source, WarpStage):
                # What is resampled anyway is resampled once.
                radius = math.hypot(whole.width, whole.height) / 2
                made = source.with_parted({band: px / radius for band, px in ((0, self.red), (2, self.blue)) if px})
            else:
                made = _FringeStage(made, self, about)
        if self.vignetting:
            made = _VignettingStage(made, self, about, transfer_of(profile))
        return made


class _About(NamedTuple):
    """The middle of the source, how far its corner is, and pixels for one of the source, all in pixels of the picture."""

    x: float
    y: float
    corner: float
    scale: float


class _VignettingStage(Stage):
    def __init__(self, source: Stage, step: Lens, about: _About, curve: TransferCurve) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._about, self._curve = source, about, curve
        self._ev, self._begins = _CORNER_EV * step.vignetting / 100, min(step.begins / 100, 0.99)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        x = np.arange(region.x, region.right)[None] + 0.5 - self._about.x
        y = np.arange(region.y, region.bottom)[:, None] + 0.5 - self._about.y
        away = np.clip((np.hypot(x, y) / self._about.corner - self._begins) / (1 - self._begins), 0, None)
        gain = np.asarray(2.0 ** (self._ev * away * away), np.float32)[..., None]
        colours = colours_of(result)
        colours[:] = self._curve.coded(self._curve.light(colours) * gain)
        return result


class _FringeStage(Stage):
    def __init__(self, source: Stage, step: Lens, about: _About) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._about = source, about
        # A channel that is to move outwards is read farther inside.
        self._sizes = {
            band: step_px * about.scale / about.corner for band, step_px in ((0, step.red), (2, step.blue)) if step_px
        }

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        farthest = max(
            math.hypot(x - self._about.x, y - self._about.y)
            for x in (region.x, region.right)
            for y in (region.y, region.bottom)
        )
        reach = math.ceil(max(abs(size) for size in self._sizes.values()) * farthest) + _CUBIC
        around = region.grown(reach)
        pixels = self._source.extended(around, run)
        result: Pixels = pixels[reach:-reach, reach:-reach].copy()
        for band, size in self._sizes.items():
            plane = _read(pixels[..., band], around.y, region.y, region.height, self._about.y, 1 - size)
            result[..., band] = _read(plane.T, around.x, region.x, region.width, self._about.x, 1 - size).T
        return result


def _read(
    plane: npt.NDArray[np.float32], begins: int, first: int, count: int, middle: float, scale: float
) -> npt.NDArray[np.float32]:
    """Rows ``first``… of a plane made larger about ``middle`` by 1 ÷ ``scale``; its own first row is ``begins``."""
    at = middle + (np.arange(first, first + count) + 0.5 - middle) * scale - 0.5 - begins
    low = np.floor(at).astype(np.intp)
    share = (at - low)[:, None]
    weights = (
        ((-0.5 * share + 1) * share - 0.5) * share,
        (1.5 * share - 2.5) * share * share + 1,
        ((-1.5 * share + 2) * share + 0.5) * share,
        (0.5 * share - 0.5) * share * share,
    )
    total = np.zeros((count, plane.shape[1]), np.float32)
    for place, weight in enumerate(weights):
        total += weight.astype(np.float32) * plane[np.clip(low + place - 1, 0, len(plane) - 1)]
    return total
