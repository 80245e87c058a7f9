from __future__ import annotations

import uuid

from django.db import models

from jobs.models import Job
from people.models import Person


class BatchQuerySet(models.QuerySet["Batch"]):
    def of(self, person: Person) -> BatchQuerySet:
        return self.filter(job__owner=person, job__removed=None).select_related("job")


class Batch(models.Model):
    """Files that were ordered in one go; what became of them is its report."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, on_delete=models.PROTECT, related_name="batches")
    #: What was done to its pictures, in a few words.
    treatment = models.CharField(max_length=200)
    #: batches.placing.BatchIn, as it was ordered; None for those that folders order as files arrive.
    wanted = models.JSONField(null=True, default=None)
    #: How many pictures were ordered; 0 where that was not told.
    count = models.PositiveIntegerField(default=0)
    #: Whether every picture has its place in the queue, or is left out.
    placed = models.BooleanField(default=True)
    #: Pictures nothing could be ordered of, and why: ``{"picture_id", "name", "problem"}`` of each.
    left_out = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)
    #: When it was last worked at.
    heard = models.DateTimeField(auto_now=True)

    objects = BatchQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
        verbose_name_plural = "batches"

    def __str__(self) -> str:
        return f"{self.treatment} in {self.job}"
