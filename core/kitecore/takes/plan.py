"""A plan: what a take does to one picture, resolved before anything is computed: sizes, places, chain, work."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Iterable
from dataclasses import dataclass

from kitecore.pipeline.geometry import Place, Region, Size, divisor, level_of
from kitecore.pipeline.mapping import Mapping
from kitecore.steps import Enlarge, Frame, Step
from kitecore.steps.enlarge import ByWidth
from kitecore.steps.frame import Crop
from kitecore.steps.outside import Outside
from kitecore.takes.take import Take


def chain_of(steps: Iterable[Step]) -> str:
    """Hash of everything that decides the pixels apart from the source.

    Settings, revisions and weights of engines; no names of modules, so that what was kept is found again by later versions.
    """
    parts = []
    for step in steps:
        settings = step.model_dump(mode="json")
        if settings["mask"] is None:
            del settings["mask"]
        # What was kept before there were such settings is found again.
        for name in type(step).later:
            if settings[name] == type(step).model_fields[name].default:
                del settings[name]
        parts.append([settings, type(step).revision, step.identity()])
    return hashlib.sha256(json.dumps(parts, sort_keys=True).encode()).hexdigest()[:32]


@dataclass(frozen=True)
class Plan:
    """What a take will do to a picture of ``source`` size, known before anything is computed.

    ``sizes[i]`` is the size before the i-th step that is on; the last one is the result's.
    :mod:`kitecore.takes.render` computes it.
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
            if step.scales
        )

    @property
    def work(self) -> float:
        """Floating-point operations of the whole render."""
        return sum(self.works.values())

    @property
    def works(self) -> dict[str, float]:
        """Floating-point operations of the whole render by the engine that does them ("" for none); for estimates of time."""
        framed, works = self.framed.size, {"": 0.0}
        for step, size in zip(self.steps, self.sizes, strict=False):
            works[""] += step.work_beside(size, framed)
            for run in step.networks(size, framed):
                name = run.engine.manifest.id
                works[name] = works.get(name, 0.0) + run.operations
        return works

    @property
    def chain(self) -> str:
        """Hash of everything that decides the pixels apart from the source."""
        return chain_of(self.steps)

    def until(self, count: int) -> Plan:
        """The plan of only the first ``count`` steps that are on."""
        return Plan(self.source, self.steps[:count], self.sizes[: count + 1])

    @property
    def framed(self) -> Plan:
        """The plan up to the first frame: the original that results are compared with."""
        framing = next((index + 1 for index, step in enumerate(self.steps) if step.belongs == "frame"), 0)
        return self.until(framing)

    @property
    def frame(self) -> Frame:
        """The frame step; one that changes nothing if there is none."""
        return next((step for step in self.steps if isinstance(step, Frame)), Frame())

    def framed_like(self, other: Plan) -> bool:
        """Whether both show the same part of the same source, the same way up."""
        mine, its = self.framed, other.framed
        return self.source == other.source and mine.size == its.size and mine.mapping == its.mapping

    @property
    def plain(self) -> Plan:
        """The framed original brought to the result's size without any network."""
        framed = self.framed
        enlarge = Enlarge(engine="plain", target=ByWidth(pixels=self.size.width))
        return Plan(self.source, [*framed.steps, enlarge], [*framed.sizes, self.size])

    def place_in_result(self, place: Place) -> Place:
        """Where a place of the source lies in the result; outside it, if it has been cut off."""
        return self.mapping.place_from_source(place)

    def place_in_source(self, place: Place) -> Place:
        """Where in the source a place of the result comes from."""
        return self.mapping.place_in_source(place)

    @property
    def mapping(self) -> Mapping:
        """From pixels of the result to those of the source."""
        result = Mapping()
        for step, size in zip(reversed(self.steps), reversed(self.sizes[:-1]), strict=True):
            result = result.then(step.mapping(size))
        return result

    def source_reduction(self, level: int) -> int:
        """The level of the source for a view of the result of a ``level``, without being stretched again."""
        return self.reductions(level)[0]

    def reductions(self, level: int) -> list[int]:
        """The level of the input of each step, and at last of the result, in a view of a ``level``."""
        reductions, scale = [level], 1.0
        for before, after in zip(reversed(self.sizes[:-1]), reversed(self.sizes[1:]), strict=True):
            scale *= max(1.0, after.width / before.width)
            reductions.append(level_of(divisor(level) / scale + 1e-9))
        return reductions[::-1]


def plan(take: Take, source: Size) -> Plan:
    """Resolve a take against a picture. Raises TakeError, TooLarge or EngineError if it cannot be done."""
    return plan_of_steps(take.steps, source)


def plan_of_steps(steps: Iterable[Step], source: Size) -> Plan:
    """As :func:`plan`, of steps that are no take."""
    done, sizes = [step for step in steps if step.on], [source]
    for step in done:
        step.identity()
        sizes.append(step.result_size(sizes[-1]))
    return Plan(source, done, sizes)


def plan_of_outside(step: Outside, covered: Region, source: Size) -> Plan:
    """The plan of a file made elsewhere: the part of the source it covers, then the file itself."""
    whole = covered == source.region
    crop = None if whole else Crop(x=covered.x, y=covered.y, width=covered.width, height=covered.height)
    return Plan(source, [Frame(crop=crop), step], [source, covered.size, step.result_size(covered.size)])
