from __future__ import annotations

from django.conf import settings
from django.db import models


class BroughtEngine(models.Model):
    """Who brought an engine to the shelf."""

    name = models.CharField(max_length=200, unique=True)
    person = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="engines")
    brought = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{self.name}, brought by {self.person}"


class EngineSpeed(models.Model):
    """How fast an engine was found to run on this machine."""

    #: The engine's fingerprint and the provider it ran on; measured anew when either changes.
    key = models.CharField(max_length=200, unique=True)
    #: Source pixels per second.
    source_pixels = models.FloatField()
    measured = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{self.key}: {self.source_pixels / 1e6:.2f} MP/s"
