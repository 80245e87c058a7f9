from __future__ import annotations

import uuid

from django.db import models
from pydantic import BaseModel, Field

from common.background import BackgroundMeasurement, State
from common.soft_delete import SoftDeleted
from jobs.models import Job
from kitecore.reading.moments import Moment
from people.models import Person
from pictures.models import Original


class ClipQuerySet(models.QuerySet["Clip"]):
    def of(self, person: Person) -> ClipQuerySet:
        """Clips in a person's jobs that have not been taken out."""
        return self.filter(job__owner=person, job__removed=None, removed=None).select_related("original", "job")


class Clip(SoftDeleted):
    """One clip in a job: stills are taken from it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="clips")
    original = models.ForeignKey(Original, on_delete=models.PROTECT, related_name="clips")
    #: The file's name as it came, without any folder.
    name = models.CharField(max_length=255)
    #: kitecore.files.clip.facts.ClipFacts
    facts = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    objects = ClipQuerySet.as_manager()

    class Meta:
        ordering = ["created"]

    def __str__(self) -> str:
        return self.name


class Curve(BaseModel):
    """How sharp each frame of a clip is, and the sharpest moments, sharpest first."""

    sharpness: list[float] = Field(description="Of each frame, as luma changes around its sharpest parts.")
    peaks: list[int] = Field(description="Frames.")


class ClipCurve(BackgroundMeasurement):
    """The curve of a file, however many clips are made of it."""

    original = models.OneToOneField(Original, on_delete=models.CASCADE, primary_key=True, related_name="curve")

    def __str__(self) -> str:
        return f"curve of {self.original_id[:8]}: {self.state}"

    @property
    def curve(self) -> Curve | None:
        return Curve.model_validate(self.found) if self.state == State.DONE else None


class Moments(BaseModel):
    """The faces of frames from all over a clip, none if it shows no faces, and the frames to take for them, best first."""

    moments: list[Moment]
    best: list[int] = Field(description="Frames.")


class ClipMoments(BackgroundMeasurement):
    """The moments of a file, however many clips are made of it."""

    original = models.OneToOneField(Original, on_delete=models.CASCADE, primary_key=True, related_name="moments")

    def __str__(self) -> str:
        return f"moments of {self.original_id[:8]}: {self.state}"

    @property
    def moments(self) -> Moments | None:
        return Moments.model_validate(self.found) if self.state == State.DONE else None
