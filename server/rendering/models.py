from __future__ import annotations

from django.db import models


class RenderedFile(models.Model):
    """How long computing one file took, without writing it: the speed of the machines is learnt from the newest few."""

    #: Floating-point operations its plan needed.
    work = models.FloatField()
    seconds = models.FloatField()
    finished = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-finished"]

    def __str__(self) -> str:
        return f"{self.work:.3g} operations in {self.seconds:.1f} s"
