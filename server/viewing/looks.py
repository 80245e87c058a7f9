"""Ways of looking at a result: as it is, or what is painted in its place. One class a way; nothing else lists them.

Each is prepared while the database is at hand and paints afterwards, when it may take long.
"""

from __future__ import annotations

import uuid
from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import ClassVar, Literal, TypeAlias

import pyvips
from django.http import Http404
from django.shortcuts import get_object_or_404
from ninja import Field, Schema

from common.errors import Refused
from kitecore.colour.conversion import Intent
from kitecore.colour.screen import screen_image, screen_samples
from kitecore.colour.soft_proof import Printer, Proof, proof_image
from kitecore.comparison.difference import clipping_marked, clipping_striped, signed_difference, weights_marked
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels, from_samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage, resized
from kitecore.takes.plan import Plan
from kitecore.takes.render import weights_of
from people.models import Person
from printers.shelf import SHIPPED, printer_named
from rendering.regions import Opened
from takes.models import Take

Way: TypeAlias = Literal["pixels", "clipping", "stripes", "difference", "mask", "proof"]


class Show(Schema):
    """What is shown of a result."""

    show: Way = "pixels"
    gain: float = Field(default=4.0, ge=1, le=64)
    step: int = Field(default=0, ge=0, description="Among the steps that are on, for masks.")
    against: Literal["original"] | uuid.UUID = "original"
    printer: str = Field(default=SHIPPED, max_length=36)
    intent: Intent = "relative"
    black_point: bool = True
    paper: bool = Field(default=False, description="Whether the paper is shown in its own white.")
    warn: bool = Field(default=False, description="Whether colours outside the printer's gamut are painted grey.")


class Look(ABC):
    """One way of looking."""

    way: ClassVar[Way]

    def __init__(self, show: Show) -> None:
        self.show = show

    def prepare(self, person: Person, take: Take, plan: Plan) -> None:  # noqa: B027 most ways need nothing
        """Fetch what it needs to know to look at ``plan``, of the take or of its first steps.

        Raises Http404, or a KiteError with a sentence.
        """

    @abstractmethod
    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        """What a screen shows, 8 bits, in the place of ``pixels``, which are those of the view's region."""


class View:
    """What is looked at: a region of a plan's result at a level."""

    def __init__(self, opened: Opened, plan: Plan, level: int, region: Region, run: Run) -> None:
        self.opened, self.plan, self.level, self.region, self.run = opened, plan, level, region, run

    def rendered(self, stage: Stage) -> Pixels:
        """The region of another stage that is laid on this view."""
        return resized(stage, self.plan.size.reduced(self.level)).render(self.region, self.run)


class AsItIs(Look):
    way = "pixels"

    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        return screen_image(pixels, view.opened.profile)


class Clipping(Look):
    way = "clipping"

    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        return screen_image(clipping_marked(pixels), None)


def striped_image(pixels: Pixels, profile: bytes | None, region: Region) -> pyvips.Image:
    """Pixels of a region as a screen shows them, with stripes over what is clipped."""
    return screen_image(clipping_striped(pixels, from_samples(screen_samples(pixels, profile)), region), None)


class Stripes(Look):
    """The picture as it is, with stripes over what is clipped."""

    way = "stripes"

    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        return striped_image(pixels, view.opened.profile, view.region)


class Difference(Look):
    """From another take of the same frame, or from the original plainly enlarged."""

    way = "difference"
    _other: Plan

    def prepare(self, person: Person, take: Take, plan: Plan) -> None:
        if self.show.against == "original":
            self._other = plan.plain
            return
        other = get_object_or_404(Take.objects.of(person), id=self.show.against, picture=take.picture)
        self._other = other.plan()
        if not self._other.framed_like(plan):
            raise Refused(f"Take {other.name} is framed differently; a difference needs the same frame.")

    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        beneath = view.rendered(view.opened.stage_of(self._other, view.level))
        return screen_image(signed_difference(pixels, beneath, self.show.gain), None)


class Where(Look):
    """Where a step works, and how strongly."""

    way = "mask"

    def prepare(self, person: Person, take: Take, plan: Plan) -> None:
        # While a change is on its way, a step may be asked for that this plan does not have yet.
        if self.show.step >= len(plan.steps):
            raise Http404

    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        source = view.opened.reduced(view.plan, view.level)
        weights = weights_of(view.plan, self.show.step, source, view.level, view.opened.cache)
        return screen_image(weights_marked(pixels, weights.render(view.region, view.run)), None)


class SoftProof(Look):
    """As a printer would print it."""

    way = "proof"
    _printer: Printer

    def prepare(self, person: Person, take: Take, plan: Plan) -> None:
        self._printer = printer_named(person, self.show.printer)

    def paint(self, pixels: Pixels, view: View) -> pyvips.Image:
        show = self.show
        proof = Proof(show.intent, show.black_point, show.paper, show.warn)
        return proof_image(pixels, view.opened.profile, self._printer, proof)


_LOOKS: dict[Way, Callable[[Show], Look]] = {
    look.way: look for look in (AsItIs, Clipping, Stripes, Difference, Where, SoftProof)
}


def look_for(show: Show) -> Look:
    """The way of looking that is asked for."""
    return _LOOKS[show.show](show)
