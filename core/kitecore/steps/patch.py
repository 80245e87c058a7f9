"""Patch: dust, creases and things that should not be there, each painted over, each a patch of its own that stays editable."""

from __future__ import annotations

import threading
from collections import Counter
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.filters.mending import mended
from kitecore.masks.strokes import Stroke, touched, weight
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Framed, Step

MOST_PATCHES = 200
#: Touched more weakly than that, a pixel tells what lies around rather than being taken for spoilt.
_SPOILT = 0.02
#: How far around a patch the join looks, pixels.
_AROUND = 26

Far = Annotated[float, Field(ge=-40_000, le=40_000)]


class OnePatch(BaseModel):
    """A place that was painted over, and where what it is given comes from. All in pixels of the upright source."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    stroke: Stroke
    way: Annotated[
        Literal["mend", "clone"],
        Field(description="Joined in tone and light to what lies around, or just as it is elsewhere."),
    ] = "mend"
    x: Annotated[Far, Field(description="How far to the right of it the other place lies.")] = 0.0
    y: Annotated[Far, Field(description="How far below.")] = 0.0
    on: bool = True


class Patch(Step):
    """Gives places that were painted over the texture of others. Patches follow each other in the order in which they stand.

    Mended ones take their tone from around by Poisson's equation, in coded values; cloned ones take it along.
    """

    title: ClassVar[str] = "patch"
    purpose: ClassVar[str] = "Dust, creases and things, painted over"
    belongs: ClassVar[Belongs] = "source"
    takes_mask: ClassVar[bool] = False

    kind: Literal["patch"] = "patch"
    patches: Annotated[list[OnePatch], Field(max_length=MOST_PATCHES)] = []

    @property
    def slow(self) -> bool:
        """Any pixel of a patch asks for all of it."""
        return any(patch.on for patch in self.patches)

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 5.0 * size.pixels + 2e7 * len(self.patches)

    def portable(self) -> Self:
        return self.model_copy(update={"patches": []})

    def did(self) -> str:
        ways = Counter(one.way for one in self.patches if one.on)
        if not ways:
            return ""
        told = {"mend": "mended", "clone": "cloned over"}
        parts = " and ".join(f"{count} {told[way]}" for way, count in ways.items())
        return f"places painted over by others of the picture: {parts}"

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, Mapping().reduced(full, source.size))

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._staged(source, framed.to_source.reduced(framed.full, source.size))

    def _staged(self, source: Stage, to_source: Mapping) -> Stage:
        for patch in self.patches:
            reached = touched(patch.stroke, source.size.region, to_source) if patch.on else None
            if reached is not None:
                source = _PatchedStage(source, patch, reached, to_source)
        return source


class _PatchedStage(Stage):
    """One patch on what comes before; computed as a whole when any of it is asked for."""

    def __init__(self, source: Stage, patch: OnePatch, reached: Region, to_source: Mapping) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._patch, self._reached, self._to_source = source, patch, reached, to_source
        self._alone = threading.Lock()
        self._made: Pixels | None = None

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        common = self._reached.intersection(region)
        if common is not None:
            with self._alone:
                if self._made is None:
                    self._made = self._patched(run)
            result[common.slices(region)] = self._made[common.slices(self._reached)]
        return result

    def _patched(self, run: Run) -> Pixels:
        still = Run(run.cancelled)
        around = self._reached.grown(_AROUND).intersection(self.size.region)
        assert around is not None  # the patch lies inside
        dx, dy = self._offset()
        target = self._source.render(around, still)
        other = self._source.extended(Region(around.x + dx, around.y + dy, around.width, around.height), still)
        share = np.zeros((around.height, around.width), np.float32)
        share[self._reached.slices(around)] = weight(self._patch.stroke, self._reached, self._to_source)
        share *= np.float32(self._patch.stroke.strength / 100)
        made = target.copy()
        colours, taken = colours_of(made), colours_of(other)
        if self._patch.way == "mend":
            taken = mended(colours.copy(), taken, share > _SPOILT, still)
        colours[:] += share[..., None] * (taken - colours)
        return np.ascontiguousarray(made[self._reached.slices(around)])

    def _offset(self) -> tuple[int, int]:
        """How far away the other place lies here, in whole pixels."""
        x, y = self._patch.stroke.points[0]
        xs, ys = self._to_source.from_source(np.array([x, x + self._patch.x]), np.array([y, y + self._patch.y]))
        return round(float(xs[1] - xs[0])), round(float(ys[1] - ys[0]))
