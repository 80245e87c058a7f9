from __future__ import annotations

import uuid
from pathlib import Path

from django.conf import settings
from django.db import models

from common.soft_delete import SoftDeleted
from people.models import Person


class PrinterProfileQuerySet(models.QuerySet["PrinterProfile"]):
    def of(self, person: Person) -> PrinterProfileQuerySet:
        return self.filter(owner=person, removed=None)


class PrinterProfile(SoftDeleted):
    """The ICC profile of a printer that a person proofs for; its bytes lie on the disk under their hash."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(Person, on_delete=models.CASCADE, related_name="printers")
    #: As the profile calls itself.
    name = models.CharField(max_length=200)
    sha256 = models.CharField(max_length=64)
    channels = models.PositiveSmallIntegerField()
    created = models.DateTimeField(auto_now_add=True)

    objects = PrinterProfileQuerySet.as_manager()

    class Meta:
        ordering = ["created"]

    def __str__(self) -> str:
        return self.name

    @property
    def path(self) -> Path:
        return Path(settings.PRINTERS) / f"{self.sha256}.icc"
