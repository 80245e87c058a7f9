from __future__ import annotations

import uuid
from typing import cast

from django.conf import settings
from django.db import models

from common.soft_delete import SoftDeleted
from kitecore.files.raw.camera import WIDE, WideSpace
from people.models import Person


class JobQuerySet(models.QuerySet["Job"]):
    def of(self, person: Person) -> JobQuerySet:
        """Jobs that belong to a person and have not been put away."""
        return self.filter(owner=person, removed=None)


class Job(SoftDeleted):
    """One client order: its pictures, what was ordered, its deliveries."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="jobs")
    title = models.CharField(max_length=120)
    client = models.CharField(max_length=120, blank=True)
    note = models.TextField(blank=True)
    #: The print that was ordered, as jobs.orders.PrintOrder; null when the client only wants files.
    order = models.JSONField(null=True, blank=True)
    #: What camera raws of it are developed to, kitecore.files.raw.camera.WideSpace.
    space = models.CharField(max_length=20, default=WIDE)
    created = models.DateTimeField(auto_now_add=True)
    modified = models.DateTimeField(auto_now=True)

    objects = JobQuerySet.as_manager()

    class Meta:
        ordering = ["-modified"]
        indexes = [models.Index(fields=["owner", "-modified"])]

    def __str__(self) -> str:
        return self.title

    @property
    def wide(self) -> WideSpace:
        """:attr:`space`, which only the API sets."""
        return cast("WideSpace", self.space)
