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
    #: Pictures nothing could be ordered of, and why: ``{"name", "problem"}`` of each.
    left_out = models.JSONField(default=list)
    created = models.DateTimeField(auto_now_add=True)

    objects = BatchQuerySet.as_manager()

    class Meta:
        ordering = ["-created"]
        verbose_name_plural = "batches"

    def __str__(self) -> str:
        return f"{self.treatment} in {self.job}"
