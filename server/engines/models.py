from __future__ import annotations

from django.db import models


class EngineSpeed(models.Model):
    """How fast an engine was found to run on this machine."""

    #: The engine's fingerprint and the provider it ran on; measured anew when either changes.
    key = models.CharField(max_length=200, unique=True)
    #: Source pixels per second.
    source_pixels = models.FloatField()
    measured = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{self.key}: {self.source_pixels / 1e6:.2f} MP/s"
