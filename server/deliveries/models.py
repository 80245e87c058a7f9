from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from jobs.models import Job
from kitecore.delivery.encode import ending_of
from kitecore.delivery.spec import OutputSpec
from kitecore.takes.take import Take as CoreTake
from people.models import Person
from pictures.models import Picture


class State(models.TextChoices):
    QUEUED = "queued"
    #: Waits, but is passed over until it is let go on.
    PAUSED = "paused"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


#: What a worker may still have to do with.
UNFINISHED = (State.QUEUED, State.RUNNING)
#: What stands in the queue, to be put in order or called off.
WAITING = (State.QUEUED, State.PAUSED)


class DeliveryQuerySet(models.QuerySet["Delivery"]):
    def of(self, person: Person) -> DeliveryQuerySet:
        return self.filter(job__owner=person, job__removed=None).select_related("picture__original", "job")


class Delivery(models.Model):
    """One finished file, made from the steps a take had when it was ordered."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="deliveries")
    picture = models.ForeignKey(Picture, on_delete=models.PROTECT, related_name="deliveries")
    batch = models.ForeignKey("batches.Batch", null=True, on_delete=models.PROTECT, related_name="deliveries")
    take_name = models.CharField(max_length=60)
    #: kitecore.takes.take.Take.steps, as they were
    steps = models.JSONField()
    #: kitecore.delivery.spec.OutputSpec
    spec = models.JSONField()
    #: The file's name, free within its job when it was given.
    name = models.CharField(max_length=255)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    #: Floating-point operations its plan needs; with ``seconds`` this tells how fast the machine is.
    work = models.FloatField()
    #: How long it will take, as was thought when it was ordered.
    expected_seconds = models.FloatField(default=0)
    #: Its place in the queue: the lowest is made first.
    position = models.BigIntegerField(default=0)
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    progress = models.FloatField(default=0)
    message = models.TextField(blank=True)
    cancel_asked = models.BooleanField(default=False)
    #: Paused until the client has approved exactly these steps, or somebody lets it go on.
    awaits_approval = models.BooleanField(default=False)
    #: Which run of the work this is; a worker that has been given up on finds a higher one and stops.
    attempt = models.PositiveIntegerField(default=0)
    #: How many runs in a row ended without a word, their worker gone.
    deaths = models.PositiveIntegerField(default=0)
    #: The worker that made it, or is at it.
    worker = models.CharField(max_length=120, blank=True, default="")
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
        indexes = [
            models.Index(fields=["job", "-created"]),
            models.Index(fields=["modified"]),
            models.Index(fields=["state", "position"]),
        ]
        constraints = [models.UniqueConstraint(fields=["job", "name"], name="free_name_in_job")]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> Path:
        return Path(settings.DELIVERIES) / str(self.id)

    @property
    def path(self) -> Path:
        return self.folder / f"file{ending_of(self.core_spec.format)}"

    @property
    def squares_folder(self) -> Path:
        """Where regions lie that others have made for this attempt; one that was given up on touches no other's."""
        return self.folder / f"squares-{self.attempt}"

    @property
    def core_take(self) -> CoreTake:
        return CoreTake.model_validate({"steps": self.steps})

    @property
    def core_spec(self) -> OutputSpec:
        return OutputSpec.model_validate(self.spec)


class Square(models.Model):
    """A region of a delivery that several workers make together; gone once it is in the file."""

    delivery = models.ForeignKey(Delivery, on_delete=models.CASCADE, related_name="squares")
    attempt = models.PositiveIntegerField()
    #: Its place among the regions, from top to bottom.
    number = models.PositiveIntegerField()
    #: Whoever makes it or has made it; nobody yet if empty.
    worker = models.CharField(max_length=120, blank=True, default="")
    #: When that one was last heard of; null for whoever writes the file, without whom there is no file.
    heard = models.DateTimeField(null=True)
    done = models.BooleanField(default=False)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["delivery", "attempt", "number"], name="one_square_of_a_number")]

    def __str__(self) -> str:
        return f"{self.delivery} #{self.number}"


class SavedOutputQuerySet(models.QuerySet["SavedOutput"]):
    def of(self, person: Person) -> SavedOutputQuerySet:
        return self.filter(owner=person)


class SavedOutput(models.Model):
    """An output spec kept under a name, to be used again and together with others."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="outputs")
    name = models.CharField(max_length=60)
    #: kitecore.delivery.spec.OutputSpec
    spec = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    objects = SavedOutputQuerySet.as_manager()

    class Meta:
        ordering = ["created"]
        constraints = [models.UniqueConstraint(fields=["owner", "name"], name="one_output_of_a_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def core_spec(self) -> OutputSpec:
        return OutputSpec.model_validate(self.spec)
