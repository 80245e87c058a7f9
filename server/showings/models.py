from __future__ import annotations

import uuid
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone
from pydantic import BaseModel

from common.background import BackgroundMeasurement
from jobs.models import Job
from kitecore.comparison.fidelity import Finding
from kitecore.pipeline.geometry import Place
from kitecore.takes.plan import Plan, plan
from kitecore.takes.take import Take as CoreTake
from people.models import Person
from pictures.models import Picture
from reports.models import Report


class ShowingQuerySet(models.QuerySet["Showing"]):
    def of(self, person: Person) -> ShowingQuerySet:
        """Showings of a person's jobs."""
        return self.filter(job__owner=person, job__removed=None).select_related("job__owner")


class Showing(models.Model):
    """What a client is shown of a job, by a link that opens this and nothing else."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="showings")
    title = models.CharField(max_length=120)
    #: To the client, above the pictures.
    words = models.TextField(blank=True)
    #: Where the link was sent; empty where it was not.
    email = models.EmailField(blank=True)
    #: The one it is the next round of.
    follows = models.OneToOneField("self", null=True, on_delete=models.PROTECT, related_name="next")
    round = models.PositiveSmallIntegerField(default=1)
    #: Goes up when the link is made anew; earlier ones open nothing then.
    link = models.PositiveSmallIntegerField(default=1)
    expires = models.DateTimeField()
    revoked = models.DateTimeField(null=True)
    #: Hashed; empty where none is asked for.
    passphrase = models.CharField(max_length=200, blank=True)
    #: Long side of what is shown at most, px.
    longest = models.PositiveIntegerField()
    mark = models.CharField(max_length=60, blank=True)
    with_spots = models.BooleanField(default=True)
    #: When it was looked at last, by whoever had the link.
    seen = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)

    objects = ShowingQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
        indexes = [models.Index(fields=["job", "-created"])]

    def __str__(self) -> str:
        return self.title

    @property
    def open(self) -> bool:
        """Whether its link opens it."""
        return self.revoked is None and self.expires > timezone.now()

    @property
    def followed(self) -> bool:
        """Whether there is a newer round, which is what is answered then."""
        return hasattr(self, "next")

    @property
    def folder(self) -> Path:
        return Path(settings.SHOWINGS) / str(self.id)


class Spot(BaseModel):
    """A check spot as it was when the showing was made, in pixels of the upright source."""

    name: str
    x: float
    y: float

    @property
    def place(self) -> Place:
        return Place(self.x, self.y)


class Made(BaseModel):
    """What the worker has made of a picture in a showing."""

    width: int
    height: int


class ShownPictureQuerySet(models.QuerySet["ShownPicture"]):
    def of(self, person: Person) -> ShownPictureQuerySet:
        """What is shown of a person's pictures."""
        return self.filter(showing__job__owner=person, showing__job__removed=None).select_related(
            "showing__job", "picture__original"
        )


class ShownPicture(BackgroundMeasurement):
    """One picture in a showing: the take as it was then, before and after as files, what the client said."""

    class Verdict(models.TextChoices):
        APPROVED = "approved"
        CHANGES = "changes"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    showing = models.ForeignKey(Showing, on_delete=models.CASCADE, related_name="pictures")
    picture = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="shown")
    #: From 0; what the client's addresses call it by.
    position = models.PositiveSmallIntegerField()
    take_name = models.CharField(max_length=60)
    #: kitecore.takes.take.Take.steps, as they were
    steps = models.JSONField()
    #: The chain of those steps: what is approved is this and no other.
    chain = models.CharField(max_length=64)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    ppi = models.FloatField(null=True)
    #: Of :class:`Spot`.
    spots = models.JSONField(default=list)

    objects = ShownPictureQuerySet.as_manager()

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["showing", "position"], name="one_shown_picture_per_position")]

    def __str__(self) -> str:
        return f"{self.showing}: {self.picture}"

    @property
    def core_take(self) -> CoreTake:
        return CoreTake.model_validate({"steps": self.steps})

    def plan(self) -> Plan:
        return plan(self.core_take, self.picture.size)

    @property
    def shown_spots(self) -> list[Spot]:
        return [Spot.model_validate(spot) for spot in self.spots]

    @property
    def folder(self) -> Path:
        return self.showing.folder / str(self.position)

    def file(self, side: str, spot: int | None = None) -> Path:
        """Of the whole picture, or of one check spot; ``side`` is before or after."""
        return self.folder / (f"{side}.jpg" if spot is None else f"spot-{spot}-{side}.jpg")

    def done(self) -> list[str]:
        """What was done to it, in plain words, in order."""
        told = (step.sentence() for step in self.core_take.steps if step.on and step.did())
        return [text[:1].upper() + text[1:] for text in told]

    def measured(self) -> list[Finding]:
        """How far it departs from what it was made from, as the fidelity report has it; empty until that is made."""
        report = Report.objects.filter(picture=self.picture, chain=self.chain).first()
        found: dict[str, Any] = (report.found if report else None) or {}
        return [Finding.model_validate(one) for one in found.get("findings", [])]

    @property
    def answer(self) -> Answer | None:
        """What the client said last, if anything."""
        return self.answers.last()


class Answer(models.Model):
    """A client's word on a picture; earlier ones are kept."""

    shown = models.ForeignKey(ShownPicture, on_delete=models.CASCADE, related_name="answers")
    verdict = models.CharField(max_length=10, choices=ShownPicture.Verdict)
    name = models.CharField(max_length=80)
    words = models.TextField(blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created", "id"]

    def __str__(self) -> str:
        return f"{self.shown}: {self.verdict} by {self.name}"


class Note(models.Model):
    """A client's words on a place of a picture."""

    shown = models.ForeignKey(ShownPicture, on_delete=models.CASCADE, related_name="notes")
    #: In pixels of the upright source, so that it holds under every crop and factor.
    x = models.FloatField()
    y = models.FloatField()
    words = models.TextField()
    name = models.CharField(max_length=80)
    #: Whether it has been seen to.
    done = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created", "id"]

    def __str__(self) -> str:
        return f"{self.shown}: {self.words[:40]}"

    #: Where it lies in results, by the ids of takes; filled in by who asks.
    places: Mapping[str, object]

    @property
    def place(self) -> Place:
        return Place(self.x, self.y)


def approval_of(picture: Picture, chain: str) -> Answer | None:
    """The client's approval of exactly these steps of a picture, unless it has been taken back by a later word on it."""
    shown = ShownPicture.objects.filter(picture=picture, chain=chain)
    last = Answer.objects.filter(shown__in=shown).select_related("shown__showing").last()
    return last if last and last.verdict == ShownPicture.Verdict.APPROVED else None
