from __future__ import annotations

import string
import uuid
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import models, transaction
from django.db.models import Max, Q

from common.soft_delete import SoftDeleted
from intake.receiving import Incoming
from jobs.orders import PrintOrder
from kitecore.comparison.alignment import Alignment
from kitecore.errors import KiteError, TakeError
from kitecore.pipeline.geometry import Region
from kitecore.steps import Develop, Enlarge, Frame
from kitecore.steps.enlarge import LARGEST_FACTOR, ByFactor, ByPrint
from kitecore.steps.outside import Outside
from kitecore.takes.plan import Plan, plan, plan_of_outside
from kitecore.takes.take import Take as CoreTake
from people.models import Person
from pictures.models import Original, Picture

#: Of a take, among those whose pixels can be asked for.
_STATES_LOOKED_AT = 20


class Verdict(models.TextChoices):
    GOOD = "good"
    BAD = "bad"


class TakeQuerySet(models.QuerySet["Take"]):
    def of(self, person: Person) -> TakeQuerySet:
        """Takes of a person's pictures."""
        return self.filter(
            picture__job__owner=person, picture__job__removed=None, picture__removed=None, removed=None
        ).select_related("picture__original", "picture__job", "state", "outside__original")

    def begin_outside(self, picture: Picture, file: Incoming, found: Alignment, profile: bytes | None) -> Take:
        """A take without steps, below the others: a file that was made elsewhere, laid on the picture."""
        step = Outside.of(file.source, "", Path(), found, profile)
        with transaction.atomic():
            take = self._below(picture, _free_name(picture, Path(file.name).stem[:50]))
            take.outside = OutsideFile.objects.create(
                take=take, original=file.keep(), name=file.name, agreement=found.agreement, profile=profile,
                covered=asdict(found.covered), laid={"matrix": step.matrix, "width": step.width, "height": step.height},
            )  # fmt: skip
        return take

    def _below(self, picture: Picture, name: str) -> Take:
        last = picture.takes.aggregate(last=Max("position"))["last"]
        return Take.objects.create(picture=picture, name=name, position=0 if last is None else last + 1)

    def begin(self, picture: Picture, steps: list[dict[str, Any]] | None = None, name: str | None = None) -> Take:
        """A new take of a picture, below the others, with its first state.

        Under ``name``, numbered if another take has it, or under the next free letter.
        """
        with transaction.atomic():
            take = self._below(picture, _free_name(picture, name) if name else _free_letter(picture))
            take.save_steps(developed_first(picture, default_steps(picture) if steps is None else steps))
        return take


def default_steps(picture: Picture) -> list[dict[str, Any]]:
    """What a new picture starts from: the whole frame, enlarged to the print that was ordered, or else as its owner usually does.

    Never from another picture's settings.
    """
    usual = picture.job.owner.defaults
    longest = max(picture.size.width, picture.size.height)
    target: ByPrint | ByFactor = ByFactor(factor=max(1.0, min(usual.factor, usual.largest_side / longest)))
    if usual.factor < 1:
        target = ByFactor(factor=usual.factor)
    if picture.job.order:
        order = PrintOrder.model_validate(picture.job.order)
        lying = (picture.size.width > picture.size.height) == (order.width > order.height)
        width, height = (order.width, order.height) if lying else (order.height, order.width)
        target = ByPrint(width=width, height=height, unit=order.unit, ppi=order.ppi)
        try:
            Enlarge(target=target).result_size(picture.size)
        except KiteError:
            # The order asks for more than any engine gives: begin with the most there is; the strip tells the rest.
            target = ByFactor(factor=LARGEST_FACTOR if target.factor_for(picture.size) > 1 else 1)
    return [step.model_dump(mode="json") for step in (Frame(), Enlarge(engine=usual.engine, target=target))]


def developed_first(picture: Picture, steps: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Steps from elsewhere as they suit a picture: a camera raw is developed before anything else, other files are not."""
    if picture.facts.get("raw") is None:
        return [step for step in steps if step["kind"] != _DEVELOP]
    first = [step for step in steps if step["kind"] == _DEVELOP][:1] or [Develop().model_dump(mode="json")]
    return [*first, *(step for step in steps if step["kind"] != _DEVELOP)]


_DEVELOP = Develop.model_fields["kind"].default


def _free_letter(picture: Picture) -> str:
    used = set(picture.takes.values_list("name", flat=True))
    letters = string.ascii_uppercase
    names = (a + b for a in ["", *letters] for b in letters)
    return next(name for name in names if name not in used)


def _free_name(picture: Picture, name: str) -> str:
    used = set(picture.takes.values_list("name", flat=True))
    longest = Take._meta.get_field("name").max_length or len(name)
    numbered = (f"{name[: longest - 1 - len(str(number))]} {number}" for number in range(2, 1000))
    return next(one for one in (name[:longest], *numbered) if one not in used)


class Take(SoftDeleted):
    """One candidate treatment of a picture; its steps are those of its current state."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    picture = models.ForeignKey(Picture, on_delete=models.CASCADE, related_name="takes")
    name = models.CharField(max_length=60)
    state = models.ForeignKey("TakeState", null=True, on_delete=models.SET_NULL, related_name="+")
    #: Among the takes of its picture, from the top.
    position = models.PositiveIntegerField(default=0)
    #: Whether this is the one to deliver; one take of a picture at most.
    chosen = models.BooleanField(default=False)
    verdict = models.CharField(max_length=10, choices=Verdict, blank=True, default="")
    note = models.TextField(blank=True, default="")
    created = models.DateTimeField(auto_now_add=True)

    objects = TakeQuerySet.as_manager()

    class Meta:
        ordering = ["position", "created"]
        constraints = [
            models.UniqueConstraint(fields=["picture"], condition=Q(chosen=True), name="one_chosen_take_per_picture")
        ]

    def __str__(self) -> str:
        return f"{self.picture} {self.name}"

    @property
    def core(self) -> CoreTake:
        return CoreTake.model_validate({"steps": self.state.steps if self.state else []})

    @property
    def made_elsewhere(self) -> OutsideFile | None:
        """The file that stands in the place of steps, if that is what this take is."""
        return getattr(self, "outside", None)

    def plan(self) -> Plan:
        """What it makes of its picture. Raises a KiteError with a sentence if that cannot be done."""
        elsewhere = self.made_elsewhere
        return elsewhere.plan(self.picture) if elsewhere else plan(self.core, self.picture.size)

    def plans(self) -> Iterator[Plan]:
        """What it makes of its picture, and what it made in the states it had last, which may be looked at again.

        Raises a KiteError if what it is now cannot be done.
        """
        yield self.plan()
        for state in self.states.order_by("-id")[:_STATES_LOOKED_AT]:
            with suppress(KiteError):
                yield plan(CoreTake.model_validate({"steps": state.steps}), self.picture.size)

    @property
    def can_undo(self) -> bool:
        return self.state is not None and self.state.number > 1

    @property
    def can_redo(self) -> bool:
        return self.state is not None and self.states.filter(number__gt=self.state.number).exists()

    def choose(self) -> None:
        """Make this the picture's chosen take instead of any other."""
        with transaction.atomic():
            self.picture.takes.exclude(id=self.id).update(chosen=False)
            self.chosen = True
            self.save(update_fields=["chosen"])

    def save_steps(self, steps: list[dict[str, Any]]) -> None:
        """Make ``steps`` the current state; what had been undone is forgotten. The same steps again change nothing."""
        developed = [place for place, step in enumerate(steps) if step["kind"] == _DEVELOP]
        if developed and self.picture.facts.get("raw") is None:
            raise TakeError(f"{self.picture.name} is no camera raw: there is nothing to develop.")
        if developed not in ([], [0]):
            raise TakeError("A camera raw is developed once, before any other step.")
        with transaction.atomic():
            take = Take.objects.select_for_update().get(id=self.id)
            # Compared as steps: what an older version saved lacks settings that have come since.
            if take.state and take.core == CoreTake.model_validate({"steps": steps}):
                self.state = take.state
                return
            number = take.state.number if take.state else 0
            take.states.filter(number__gt=number).delete()
            take.state = TakeState.objects.create(take=take, number=number + 1, steps=steps)
            take.save(update_fields=["state"])
        self.state = take.state

    def move(self, by: int) -> None:
        """Undo (−1) or redo (+1); at either end nothing happens."""
        with transaction.atomic():
            take = Take.objects.select_for_update().get(id=self.id)
            if take.state:
                take.state = take.states.filter(number=take.state.number + by).first() or take.state
                take.save(update_fields=["state"])
        self.state = take.state


class OutsideFile(models.Model):
    """What a take without steps shows: a file made elsewhere, and where it lies on the picture."""

    take = models.OneToOneField(Take, on_delete=models.CASCADE, primary_key=True, related_name="outside")
    original = models.ForeignKey(Original, on_delete=models.PROTECT, related_name="+")
    #: As it came, without any folder.
    name = models.CharField(max_length=255)
    agreement = models.FloatField()
    #: kitecore.pipeline.geometry.Region of the upright source.
    covered = models.JSONField()
    #: Matrix and size of kitecore.steps.outside.Outside.
    laid = models.JSONField()
    #: The picture's colour space, into which the file is brought.
    profile = models.BinaryField(null=True)

    def __str__(self) -> str:
        return f"{self.take} from {self.name}"

    def plan(self, picture: Picture) -> Plan:
        step = Outside(
            path=self.original.here(), scratch=settings.SCRATCH, sha256=self.original_id,
            profile=None if self.profile is None else bytes(self.profile), **self.laid,
        )  # fmt: skip
        return plan_of_outside(step, Region(**self.covered), picture.size)


class TakeState(models.Model):
    """The steps of a take at one moment: its undo history."""

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="states")
    number = models.PositiveIntegerField()
    #: kitecore.takes.take.Take.steps
    steps = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["take", "number"], name="one_state_per_number")]

    def __str__(self) -> str:
        return f"{self.take} #{self.number}"
