from __future__ import annotations

import uuid

from django.db import models
from django.db.models import Max

from common.soft_delete import SoftDeleted
from kitecore.pipeline.geometry import Place
from people.models import Person
from pictures.models import Picture
from takes.models import Take


class CheckSpotQuerySet(models.QuerySet["CheckSpot"]):
    def of(self, person: Person) -> CheckSpotQuerySet:
        """Check spots of a person's pictures that have not been taken off."""
        return self.filter(
            picture__job__owner=person, picture__job__removed=None, picture__removed=None, removed=None
        ).select_related("picture")

    def pin(self, picture: Picture, place: Place, name: str = "", reason: str = "") -> CheckSpot:
        """A new spot after the others; without a name it is called by its number."""
        last = picture.spots.aggregate(last=Max("position"))["last"]
        position = 0 if last is None else last + 1
        return self.create(
            picture=picture, x=place.x, y=place.y, name=name or f"spot {position + 1}", reason=reason, position=position
        )


class CheckSpot(SoftDeleted):
    """A pinned place of a picture that must look right in every take of it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    picture = models.ForeignKey(Picture, on_delete=models.CASCADE, related_name="spots")
    name = models.CharField(max_length=60)
    #: In pixels of the upright source, so that it holds under every crop and factor.
    x = models.FloatField()
    y = models.FloatField()
    #: Why it was proposed; empty where a person pinned it.
    reason = models.CharField(max_length=200, blank=True, default="")
    position = models.PositiveIntegerField(default=0)

    objects = CheckSpotQuerySet.as_manager()

    class Meta:
        ordering = ["position"]

    def __str__(self) -> str:
        return f"{self.picture} {self.name}"

    @property
    def place(self) -> Place:
        return Place(self.x, self.y)


class Mark(models.Model):
    """What was thought of one spot in one take."""

    class Value(models.TextChoices):
        GOOD = "good"
        BAD = "bad"

    take = models.ForeignKey(Take, on_delete=models.CASCADE, related_name="marks")
    spot = models.ForeignKey(CheckSpot, on_delete=models.CASCADE, related_name="marks")
    value = models.CharField(max_length=10, choices=Value)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["take", "spot"], name="one_mark_per_cell")]

    def __str__(self) -> str:
        return f"{self.take} {self.spot.name}: {self.value}"
