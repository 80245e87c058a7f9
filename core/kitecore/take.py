"""Takes: an ordered list of steps, and the plan they make for one picture."""

from __future__ import annotations

import hashlib
import json
import math
from dataclasses import dataclass

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from kitecore.errors import TakeError
from kitecore.geometry import Place, Region, Size
from kitecore.kept import Keep, nothing_kept
from kitecore.mask import Affine, Mask, MaskedStage, ProductStage, WeightStage, affine_of
from kitecore.stage import ResampledStage, Stage
from kitecore.steps import AnyStep, Enlarge, Frame, Sharpen, Step
from kitecore.steps.base import Framed
from kitecore.steps.enlarge import ByWidth
from kitecore.steps.frame import Crop
from kitecore.steps.outside import Outside
from kitecore.steps.sharpen import EdgeStage

MOST_STEPS = 60
_MOST_HALVINGS = 24


class Take(BaseModel):
    """The steps of one treatment, first to last. What else the API tells of a take (its name, its plan) is passed over."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    steps: list[AnyStep] = Field(default_factory=list, max_length=MOST_STEPS)


_TAKE: TypeAdapter[Take] = TypeAdapter(Take)


def sentence_for(error: ValidationError) -> str:
    """The first fault of settings as a sentence that names the place and what is allowed there."""
    fault = error.errors(include_url=False)[0]
    place = " ".join(str(part) for part in fault["loc"] if not isinstance(part, int)) or "the take"
    numbered = next((f" of step {part + 1}" for part in fault["loc"] if isinstance(part, int)), "")
    given = f" (given: {fault['input']!r})" if isinstance(fault["input"], str | int | float | bool) else ""
    return f"The setting “{place}”{numbered} is not usable: {fault['msg'].rstrip('.').lower()}{given}."


def parse_take(text: str | bytes) -> Take:
    """A take from JSON. Raises TakeError with a sentence."""
    try:
        return _TAKE.validate_json(text)
    except ValidationError as error:
        raise TakeError(sentence_for(error)) from error


def _chain(steps: list[Step]) -> str:
    parts = []
    for step in steps:
        settings = step.model_dump(mode="json")
        if settings["mask"] is None:
            del settings["mask"]
        parts.append([settings, type(step).revision, step.identity()])
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()[:32]


@dataclass(frozen=True)
class Plan:
    """What a take will do to a picture of ``source`` size, known before anything is computed.

    ``sizes[i]`` is the size before the i-th step that is on; the last one is the result's.
    """

    source: Size
    steps: list[Step]
    sizes: list[Size]

    @property
    def size(self) -> Size:
        return self.sizes[-1]

    @property
    def scale(self) -> float:
        """Output size ÷ size after framing: how much the picture is enlarged."""
        return math.prod(
            after.width / before.width
            for step, before, after in zip(self.steps, self.sizes, self.sizes[1:], strict=False)
            if step.kind == "enlarge"
        )

    @property
    def work(self) -> float:
        """Floating-point operations of the whole render, for estimates of time."""
        return sum(step.work(size) for step, size in zip(self.steps, self.sizes, strict=False))

    @property
    def chain(self) -> str:
        """Hash of everything that decides the pixels apart from the source."""
        return _chain(self.steps)

    @property
    def reach(self) -> int:
        """Source pixels around a region of the result that it depends on."""
        reach, per_pixel = 0.0, 1.0
        for step, before, after in zip(self.steps, self.sizes, self.sizes[1:], strict=False):
            reach += step.reach(before) * per_pixel
            if step.kind == "enlarge":
                per_pixel *= before.width / after.width
        return math.ceil(reach)

    def until(self, count: int) -> Plan:
        """The plan of only the first ``count`` steps that are on."""
        return Plan(self.source, self.steps[:count], self.sizes[: count + 1])

    @property
    def framed(self) -> Plan:
        """The plan up to the frame step: the original that results are compared with."""
        framing = next((index + 1 for index, step in enumerate(self.steps) if isinstance(step, Frame)), 0)
        return self.until(framing)

    @property
    def frame(self) -> Frame:
        """The frame step; one that changes nothing if there is none."""
        return next((step for step in self.steps if isinstance(step, Frame)), Frame())

    def framed_like(self, other: Plan) -> bool:
        """Whether both show the same part of the same source, the same way up."""
        if self.source != other.source:
            return False
        mine, its = (
            (plan.frame.turns, plan.frame.flip, plan.frame.angle, plan.frame.region(plan.source))
            for plan in (self, other)
        )
        return mine == its

    @property
    def plain(self) -> Plan:
        """The framed original brought to the result's size without any network."""
        framed = self.framed
        enlarge = Enlarge(engine="plain", target=ByWidth(pixels=self.size.width))
        return Plan(self.source, [*framed.steps, enlarge], [*framed.sizes, self.size])

    def place_in_result(self, place: Place) -> Place:
        """Where a place of the source lies in the result; outside it, if it has been cut off."""
        for step, size in zip(self.steps, self.sizes, strict=False):
            place = step.forward(place, size)
        return place

    def place_in_source(self, place: Place) -> Place:
        """Where in the source a place of the result comes from."""
        for step, size in zip(reversed(self.steps), reversed(self.sizes[:-1]), strict=True):
            place = step.backward(place, size)
        return place

    def source_reduction(self, level: int) -> int:
        """How many times the source may be halved for a view halved ``level`` times, without being stretched again."""
        return self._reductions(level)[0]

    def _reductions(self, level: int) -> list[int]:
        reductions, scale = [level], 1.0
        for before, after in zip(reversed(self.sizes[:-1]), reversed(self.sizes[1:]), strict=True):
            scale *= max(1.0, after.width / before.width)
            reductions.append(max(0, math.floor(level - math.log2(scale) + 1e-9)))
        return reductions[::-1]

    def stage(self, source: Stage, level: int = 0, keep: Keep = nothing_kept) -> Stage:
        """The stage that computes the take's result.

        ``source`` is the picture halved ``source_reduction(level)`` times. At level 0 the result is exact; above,
        it is the result's size halved ``level`` times and approximate. ``keep`` is given the stages of slow steps
        that are worth keeping: those that other steps or other levels are computed from.
        """
        reductions = self._reductions(level)
        if source.size != self.source.reduced(reductions[0]):
            raise ValueError(f"source is {source.size}, not {self.source.reduced(reductions[0])}")
        stage, framing = source, len(self.framed.steps)
        framed = Framed(source, self.source)
        for index, (step, reduction) in enumerate(zip(self.steps, reductions[1:], strict=True)):
            before, after = self.sizes[index], self.sizes[index + 1]
            made = step.stage_beside(stage, before, after.reduced(reduction), framed)
            last_enlarges = index + 1 == len(self.steps) and isinstance(step, Enlarge)
            if made is not stage and step.slow and not last_enlarges:
                # As it is everywhere: a mask that is being painted asks for no network.
                chain = _chain([*self.steps[:index], step.model_copy(update={"mask": None})])
                made = keep(made, f"{chain} {source.size} {made.size}")
            if step.mask is not None and made is not stage:
                beneath, original = (_resized(one, made.size) for one in (stage, framed.stage))
                back = affine_of(after, made.size, self.affine_to_source(index + 1))
                made = MaskedStage(beneath, made, step.mask, back, original)
            stage = made
            if index + 1 == framing:
                framed = Framed(stage, after)
        wanted = self.size.reduced(level)
        return _resized(stage, wanted)

    def affine_to_source(self, count: int) -> Affine:
        """From pixels after the first ``count`` steps that are on to those of the source, both from the upper left corner."""
        first = self.until(count)
        origin, right, down = (first.place_in_source(Place(x, y)) for x, y in ((0, 0), (1, 0), (0, 1)))
        return np.array([
            [right.x - origin.x, down.x - origin.x, origin.x], [right.y - origin.y, down.y - origin.y, origin.y],
        ])  # fmt: skip

    def weights(self, index: int, source: Stage, level: int = 0, keep: Keep = nothing_kept) -> Stage:
        """How strongly the step at ``index`` works where in the result: one band, 0..1, the size of :meth:`stage`'s.

        Of its mask, and for a sharpening of its edge mask as well. Arguments as for :meth:`stage`.
        """
        step, wanted = self.steps[index], self.size.reduced(level)
        original = _resized(self.framed._stage_at(source, wanted, keep), wanted)
        back = affine_of(self.size, wanted, self.affine_to_source(len(self.steps)))
        mask = WeightStage(step.mask or Mask(inverted=True), original, back)
        if not isinstance(step, Sharpen):
            return mask
        below = Plan(self.source, self.steps[:index], self.sizes[: index + 1])
        beneath = below._stage_at(source, wanted, keep)
        edges: Stage = EdgeStage(step, beneath, beneath.size.width / below.size.width)
        return ProductStage(mask, _resized(edges, wanted))

    def _stage_at(self, source: Stage, size: Size, keep: Keep) -> Stage:
        """The stage computed from ``source``, however much that is reduced, as small as it can be without being below ``size``."""
        fitting = [
            level for level in range(_MOST_HALVINGS)
            if self.source.reduced(self.source_reduction(level)) == source.size
        ]  # fmt: skip
        large = [level for level in fitting if self.size.reduced(level).width >= size.width]
        return self.stage(source, max(large, default=min(fitting)), keep)


def _resized(stage: Stage, size: Size) -> Stage:
    return stage if stage.size == size else ResampledStage(stage, size)


def plan(take: Take, source: Size) -> Plan:
    """Resolve a take against a picture. Raises TakeError, TooLarge or EngineError if it cannot be done."""
    steps: list[Step] = [step for step in take.steps if step.on]
    sizes = [source]
    for step in steps:
        step.identity()
        sizes.append(step.result_size(sizes[-1]))
    return Plan(source, steps, sizes)


def plan_of_outside(step: Outside, covered: Region, source: Size) -> Plan:
    """The plan of a file made elsewhere: the part of the source it covers, then the file itself."""
    whole = covered == source.region
    crop = None if whole else Crop(x=covered.x, y=covered.y, width=covered.width, height=covered.height)
    return Plan(source, [Frame(crop=crop), step], [source, covered.size, step.result_size(covered.size)])
