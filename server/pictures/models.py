from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from common.soft_delete import SoftDeleted
from common.store import store
from jobs.models import Job
from kitecore.files.raw.camera import WIDE, WideSpace
from kitecore.files.source import BANDS
from kitecore.pipeline.geometry import Size
from people.models import Person


class Original(models.Model):
    """The bytes of a file as they came, stored once whichever pictures use them, and never changed."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    bytes = models.BigIntegerField()
    created = models.DateTimeField(auto_now_add=True)

    @property
    def path(self) -> Path:
        """Its place in a home; :meth:`here` has it there."""
        return Path(settings.ORIGINALS) / self.sha256[:2] / self.sha256

    def here(self) -> Path:
        """Its file on this machine. Raises FileNotFoundError, NoSpace, StoreFault."""
        return store().here(self.path)

    @property
    def preview_path(self) -> Path:
        return Path(settings.PREVIEWS) / self.sha256[:2] / f"{self.sha256}.webp"


class PictureQuerySet(models.QuerySet["Picture"]):
    def of(self, person: Person) -> PictureQuerySet:
        """Pictures in a person's jobs that have not been taken out."""
        return self.filter(job__owner=person, job__removed=None, removed=None).select_related("original__reading")


class Picture(SoftDeleted):
    """One source file in a job."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="pictures")
    original = models.ForeignKey(Original, on_delete=models.PROTECT, related_name="pictures")
    #: The file's name as it came, without any folder.
    name = models.CharField(max_length=255)
    #: kitecore.files.source.Facts
    facts = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)
    #: Another picture of the same, whose takes stand on this one's check board as well.
    beside = models.ForeignKey("self", null=True, on_delete=models.SET_NULL, related_name="+")

    objects = PictureQuerySet.as_manager()

    class Meta:
        ordering = ["created"]
        indexes = [models.Index(fields=["job", "created"])]

    def __str__(self) -> str:
        return self.name

    @property
    def size(self) -> Size:
        return Size(self.facts["width"], self.facts["height"])

    @property
    def bands(self) -> int:
        """Samples of a pixel, alpha included."""
        return BANDS[self.facts["colour"]]

    @property
    def space(self) -> WideSpace:
        """What it is developed to, should it be a camera raw."""
        return WIDE if self.facts.get("raw") is None else self.job.wide

    @property
    def samples_key(self) -> str:
        """What its decoded samples go by, and all that is computed from them."""
        return self.original_id if self.space == WIDE else f"{self.original_id} {self.space}"
