from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from jobs.models import Job
from kitecore.output import ENDINGS, OutputSpec
from kitecore.take import Take as CoreTake
from people.models import Person
from pictures.models import Picture


class State(models.TextChoices):
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


UNFINISHED = (State.QUEUED, State.RUNNING)


class DeliveryQuerySet(models.QuerySet["Delivery"]):
    def of(self, person: Person) -> DeliveryQuerySet:
        return self.filter(job__owner=person, job__removed=None).select_related("picture__original", "job")


class Delivery(models.Model):
    """One finished file, made from the steps a take had when it was ordered."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="deliveries")
    picture = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="deliveries")
    take_name = models.CharField(max_length=60)
    #: kitecore.take.Take.steps, as they were
    steps = models.JSONField()
    #: kitecore.output.OutputSpec
    spec = models.JSONField()
    #: The file's name, free within its job when it was given.
    name = models.CharField(max_length=255)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    #: Floating-point operations its plan needs; with ``seconds`` this tells how fast the machine is.
    work = models.FloatField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    progress = models.FloatField(default=0)
    message = models.TextField(blank=True)
    cancel_asked = models.BooleanField(default=False)
    #: Which run of the work this is; a worker that has been given up on finds a higher one and stops.
    attempt = models.PositiveIntegerField(default=0)
    #: How many runs in a row ended without a word, their worker gone.
    deaths = models.PositiveIntegerField(default=0)
    bytes = models.BigIntegerField(null=True)
    sha256 = models.CharField(max_length=64, blank=True)
    seconds = models.FloatField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)
    finished = models.DateTimeField(null=True)
    modified = models.DateTimeField(auto_now=True)

    objects = DeliveryQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
        indexes = [models.Index(fields=["job", "-created"]), models.Index(fields=["modified"])]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="free_name_in_job")]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> Path:
        return Path(settings.DELIVERIES) / str(self.id)

    @property
    def path(self) -> Path:
        return self.folder / f"file{ENDINGS[self.core_spec.format]}"

    @property
    def core_take(self) -> CoreTake:
        return CoreTake.model_validate({"steps": self.steps})

    @property
    def core_spec(self) -> OutputSpec:
        return OutputSpec.model_validate(self.spec)
