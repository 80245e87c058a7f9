"""Seamless: a texture whose opposite edges meet, to be laid edge to edge."""

from __future__ import annotations

import threading
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from kitecore.errors import TakeError
from kitecore.filters.seamless import seamless
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Affine, Mapping
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Step
from kitecore.values import Percent

#: The cut is looked for in the whole picture at once.
MOST_PIXELS = 40_000_000
#: Largest overlap, in percent of a side.
MOST_OVER = 45.0

Over = Annotated[
    float, Field(ge=0, le=MOST_OVER, description="How much of this side lies over its opposite end, percent; 0: none.")
]


class Seamless(Step):
    """Lays the right end over the left and the lower over the upper one, along the cut that shows least.

    What lies over is gone from the result, which is that much smaller. Light that changes over the picture is evened out first,
    in coded values, each colour by itself. Nothing is mirrored.
    """

    title: ClassVar[str] = "seamless"
    purpose: ClassVar[str] = "Opposite edges of a texture meet"
    belongs: ClassVar[Belongs] = "source"
    takes_mask: ClassVar[bool] = False

    kind: Literal["seamless"] = "seamless"
    across: Over = 15.0
    down: Over = 15.0
    even: Annotated[Percent, Field(description="How much of what light does to it is evened out.")] = 70.0

    def _left(self, size: Size) -> Size:
        return Size(
            size.width - round(size.width * self.across / 100), size.height - round(size.height * self.down / 100)
        )

    @property
    def slow(self) -> bool:
        """Any of it asks for the whole."""
        return True

    def result_size(self, size: Size) -> Size:
        if size.pixels > MOST_PIXELS:
            raise TakeError(
                f"Seams are looked for in up to {MOST_PIXELS // 1_000_000} megapixels. Put this step before enlarging."
            )
        return self._left(size)

    def mapping(self, size: Size) -> Mapping:
        return Mapping((Affine(),))

    def work(self, size: Size) -> float:
        return 400.0 * size.pixels

    def did(self) -> str:
        sides = [f"{share:g} % {way}" for share, way in ((self.across, "across"), (self.down, "down")) if share]
        evened = f", {self.even:g} % of its light evened out" if self.even else ""
        return f"made seamless by laying its ends over each other, {' and '.join(sides) or 'not at all'}{evened}"

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return _SeamlessStage(source, full, result, self.even / 100)


class _SeamlessStage(Stage):
    """Computed as a whole when it is first asked for any part."""

    def __init__(self, source: Stage, full: Size, result: Size, even: float) -> None:
        super().__init__(result, source.bands)
        self._source, self._even = source, even
        self._scale = full.width / source.size.width
        self._alone = threading.Lock()
        self._made: Pixels | None = None

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        with self._alone:
            if self._made is None:
                pixels = self._source.render(self._source.size.region, Run(run.cancelled))
                over = (self._source.size.width - self.size.width, self._source.size.height - self.size.height)
                self._made = seamless(pixels, *over, self._even, self._scale, Run(run.cancelled))
        return self._made[region.slices(self.size.region)].copy()
