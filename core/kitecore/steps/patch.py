"""Patch: dust, creases and things that should not be there, each painted over, each a patch of its own that stays editable."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, NamedTuple, Self

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field, field_validator

from kitecore.filters.filling import THIN, filled
from kitecore.filters.mending import Plane, Where, mended
from kitecore.masks.strokes import Stroke, touched, weight
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage, resized
from kitecore.steps.base import Belongs, EngineUse, Framed, NetworkRun, Step, history
from kitecore.steps.composition import steps_beside

if TYPE_CHECKING:
    from kitecore.steps import AnyStep

MOST_PATCHES = 200
#: Touched more weakly than that, a pixel tells what lies around rather than being taken for spoilt.
_SPOILT = 0.02
#: How far around a patch the join looks, pixels.
_AROUND = 26
#: How far around a place that is filled it is looked for pieces, as a share of its size, px at least and at most; larger places
#: than so many pixels are filled in a smaller picture.
_LOOKED_AROUND, _LEAST_AROUND, _MOST_AROUND, _MOST_FILLED = 1.2, 40, 400, 120_000

Way = Literal["mend", "clone", "fill", "take"]
Far = Annotated[float, Field(ge=-40_000, le=40_000)]


class OnePatch(BaseModel):
    """A place that was painted over, and where what it is given comes from. All in pixels of the upright source."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    stroke: Stroke
    outline: Annotated[bool, Field(description="Whether what the stroke goes around belongs to it.")] = False
    way: Annotated[
        Way,
        Field(
            description="Texture of another place joined in tone and light to what lies around; just as it is there; made of "
            "pieces of what lies around; or as the step's other take has it here."
        ),
    ] = "mend"
    x: Annotated[Far, Field(description="How far to the right of it the other place lies.")] = 0.0
    y: Annotated[Far, Field(description="How far below.")] = 0.0
    turn: Annotated[
        float, Field(ge=-180, le=180, description="By how much the other place is turned, degrees clockwise.")
    ] = 0.0
    scale: Annotated[float, Field(ge=0.25, le=4, description="How many times as large it is taken.")] = 1.0
    on: bool = True

    @property
    def elsewhere(self) -> bool:
        """Whether what it is given comes from another place."""
        return self.way in ("mend", "clone")


class Patch(Step):
    """Gives places that were painted over the texture of others. Patches follow each other in the order in which they stand.

    Mended ones take their tone from around by Poisson's equation, in coded values; cloned ones take it along; filled ones are
    made anew of small pieces of what lies around; others come from the result of ``steps`` at the same place.
    """

    revision: ClassVar[int] = 2
    title: ClassVar[str] = "patch"
    purpose: ClassVar[str] = "Dust, creases and things, painted over"
    belongs: ClassVar[Belongs] = "source"
    takes_mask: ClassVar[bool] = False

    kind: Literal["patch"] = "patch"
    patches: Annotated[list[OnePatch], Field(max_length=MOST_PATCHES)] = []
    of: Annotated[str, Field(max_length=60, description="What people call the take that the others come from.")] = ""
    steps: Annotated[list[AnyStep], Field(max_length=40, description="That take's steps after the frame.")] = []

    @field_validator("steps")
    @classmethod
    def _after_the_frame(cls, steps: list[AnyStep]) -> list[AnyStep]:
        if any(step.belongs == "frame" for step in steps):
            raise ValueError("what is taken from another take is framed as this one is: leave its frame out")
        return steps

    @property
    def slow(self) -> bool:
        """Any pixel of a patch asks for all of it."""
        return any(patch.on for patch in self.patches)

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 5.0 * size.pixels + sum(3e8 if one.way == "fill" else 2e7 for one in self.patches if one.on)

    @property
    def _borrowed(self) -> list[Step]:
        """The other take's steps that are on, if any patch asks for them."""
        asked = any(one.on and one.way == "take" for one in self.patches)
        return [step for step in self.steps if step.on] if asked else []

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        runs, own = [], framed
        for step in self._borrowed:
            runs += step.networks(own, framed)
            own = step.result_size(own)
        return runs

    def work_beside(self, size: Size, framed: Size) -> float:
        total, own = self.work(size), framed
        for step in self._borrowed:
            total += step.work_beside(own, framed)
            own = step.result_size(own)
        return total

    def engines_used(self) -> list[EngineUse]:
        return [use for step in self._borrowed for use in step.engines_used()]

    def portable(self) -> Self:
        return self.model_copy(update={"patches": [], "of": "", "steps": []})

    def did(self) -> str:
        ways = Counter(one.way for one in self.patches if one.on)
        if not ways:
            return ""
        done = "; ".join(history(self._borrowed))
        told = {
            "mend": "mended", "clone": "cloned over", "fill": "filled from around",
            "take": f"from take {self.of}{f' ({done})' if done else ''}",
        }  # fmt: skip
        parts = " and ".join(f"{count} {told[way]}" for way, count in ways.items())
        return f"places painted over by others of the picture: {parts}"

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, Mapping().reduced(full, source.size), source)

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        borrowed = self._borrowed
        other = resized(steps_beside(borrowed, framed, result.width / full.width), source.size) if borrowed else source
        return self._staged(source, framed.to_source.reduced(framed.full, source.size), other)

    def _staged(self, source: Stage, to_source: Mapping, other: Stage) -> Stage:
        reached = [
            _Reaching(patch, region)
            for patch in self.patches
            if patch.on and (region := touched(patch.stroke, source.size.region, to_source)) is not None
        ]
        for place, one in enumerate(reached):
            source = _PatchedStage(source, one, to_source, reached[place + 1 :], other)
        return source


class _Reaching(NamedTuple):
    """A patch, and how far it reaches in a picture."""

    patch: OnePatch
    reached: Region


class _PatchedStage(Stage):
    """One patch on what comes before; computed as a whole when any of it is asked for."""

    def __init__(
        self, source: Stage, one: _Reaching, to_source: Mapping, later: Sequence[_Reaching], other: Stage
    ) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._to_source = source, to_source
        self._patch, self._reached = one
        self._later, self._other = later, other
        self._alone = threading.Lock()
        self._made: Pixels | None = None

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        common = self._reached.intersection(region)
        if common is not None:
            with self._alone:
                if self._made is None:
                    self._made = self._patched(Run(run.cancelled))
            result[common.slices(region)] = self._made[common.slices(self._reached)]
        return result

    def _patched(self, run: Run) -> Pixels:
        around = self._reached.grown(self._margin()).intersection(self.size.region)
        assert around is not None  # the patch lies inside
        target = self._source.render(around, run)
        share = self._share(self._patch, around)
        made = target.copy()
        colours = colours_of(made)
        taken = self._taken(colours.copy(), around, share, run)
        colours[:] += share[..., None] * np.float32(self._patch.stroke.strength / 100) * (taken - colours)
        return np.ascontiguousarray(made[self._reached.slices(around)])

    def _margin(self) -> int:
        brush = self._patch.stroke.size / self._to_source.scale
        if self._patch.way != "fill" or (brush <= THIN and not self._patch.outline):
            return _AROUND
        looked = round(_LOOKED_AROUND * max(self._reached.width, self._reached.height))
        return min(max(looked, _LEAST_AROUND), _MOST_AROUND)

    def _share(self, patch: OnePatch, around: Region) -> Plane:
        """How strongly a patch is touched by its stroke around a place, 0..1."""
        share = np.zeros((around.height, around.width), np.float32)
        reached = touched(patch.stroke, around, self._to_source)
        if reached is None:
            return share
        share[reached.slices(around)] = weight(patch.stroke, reached, self._to_source)
        if patch.outline and len(patch.stroke.points) > 2:
            points = np.asarray(patch.stroke.points, np.float64)
            xs, ys = self._to_source.from_source(points[:, 0], points[:, 1])
            corners = np.rint(np.stack([xs - around.x - 0.5, ys - around.y - 0.5], axis=1)).astype(np.int32)
            cv2.fillPoly(share, [corners.reshape(-1, 1, 2)], 1.0)
        return share

    def _taken(self, target: Pixels, around: Region, share: Plane, run: Run) -> Pixels:
        """What the place is given."""
        spoilt = share > _SPOILT
        if self._patch.way == "take":
            return colours_of(self._other.render(around, run))
        if self._patch.way == "fill":
            known = np.ones_like(spoilt)
            for patch in (one.patch for one in self._later if one.reached.intersection(around) is not None):
                known &= self._share(patch, around) <= _SPOILT
            return _filled(target, spoilt, known, run)
        other = colours_of(self._elsewhere(around, run))
        return mended(target, other, spoilt, run) if self._patch.way == "mend" else other

    def _elsewhere(self, around: Region, run: Run) -> Pixels:
        """The other place, as large as ``around``."""
        patch = self._patch
        if patch.turn == 0 and patch.scale == 1:
            dx, dy = self._offset()
            return self._source.extended(Region(around.x + dx, around.y + dy, around.width, around.height), run)
        xs, ys = self._places(around)
        left, top = int(np.floor(xs.min())) - 2, int(np.floor(ys.min())) - 2
        box = Region.between(left, top, int(np.ceil(xs.max())) + 3, int(np.ceil(ys.max())) + 3)
        pixels = self._source.extended(box, run)
        across, down = (xs - left - 0.5).astype(np.float32), (ys - top - 0.5).astype(np.float32)
        turned = cv2.remap(pixels, across, down, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(turned.reshape(around.height, around.width, -1), np.float32)

    def _places(self, around: Region) -> tuple[Plane, Plane]:
        """Where each pixel around the patch takes from: turned and scaled about where its stroke begins."""
        x, y = np.meshgrid(
            np.arange(around.x, around.right) + 0.5, np.arange(around.y, around.bottom) + 0.5
        )  # fmt: skip
        xs, ys = self._to_source.to_source(x, y)
        first, patch = self._patch.stroke.points[0], self._patch
        angle = np.deg2rad(-patch.turn)
        cos, sin = np.cos(angle) / patch.scale, np.sin(angle) / patch.scale
        across, down = xs - first[0], ys - first[1]
        return self._to_source.from_source(
            first[0] + patch.x + cos * across - sin * down, first[1] + patch.y + sin * across + cos * down
        )  # type: ignore[return-value]

    def _offset(self) -> tuple[int, int]:
        """How far away the other place lies here, in whole pixels."""
        x, y = self._patch.stroke.points[0]
        xs, ys = self._to_source.from_source(np.array([x, x + self._patch.x]), np.array([y, y + self._patch.y]))
        return round(float(xs[1] - xs[0])), round(float(ys[1] - ys[0]))


def _filled(target: Pixels, where: Where, known: Where, run: Run) -> Pixels:
    """Filled from around; a large place in a smaller picture."""
    reduced = float(np.sqrt(_MOST_FILLED / max(1, int(where.sum()))))
    if reduced >= 1:
        return filled(target, where, known, run)
    height, width = where.shape
    size = (max(1, round(width * reduced)), max(1, round(height * reduced)))
    small = cv2.resize(target, size, interpolation=cv2.INTER_AREA).reshape(size[1], size[0], -1)
    covered = cv2.resize(where.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0
    sure = cv2.resize(known.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.99
    made = cv2.resize(
        filled(np.asarray(small, np.float32), covered, sure, run), (width, height), interpolation=cv2.INTER_CUBIC
    )
    return np.asarray(np.where(where[..., None], made.reshape(target.shape), target), np.float32)
