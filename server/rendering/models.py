from __future__ import annotations

from django.db import models


class EngineRate(models.Model):
    """How fast an engine ran on a machine, while a file was made or when it was measured."""

    machine = models.CharField(max_length=120)
    engine = models.CharField(max_length=120)
    #: Floating-point operations per second, as its manifest counts them.
    rate = models.FloatField()
    #: Whether it was only tried while everything started; counts until something better is known.
    tried = models.BooleanField(default=False)
    noted = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-noted", "-id"]

    def __str__(self) -> str:
        return f"{self.engine} on {self.machine}: {self.rate / 1e9:.1f} GFLOP/s"
