from __future__ import annotations

import uuid

from django.db import models
from django.utils import timezone

from kitecore.take import Take as CoreTake
from pictures.models import Picture

#: A report whose worker has not been heard of for this long is begun again when it is asked for.
GIVEN_UP_SECONDS = 30


class State(models.TextChoices):
    QUEUED = "queued"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"


class Report(models.Model):
    """How faithful one treatment is to its picture: measured once, and kept for these very steps."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    picture = models.ForeignKey(Picture, on_delete=models.CASCADE, related_name="reports")
    #: The chain of the treatment: everything that decides its pixels.
    chain = models.CharField(max_length=64)
    #: kitecore.take.Take
    take = models.JSONField()
    state = models.CharField(max_length=10, choices=State, default=State.QUEUED)
    progress = models.FloatField(default=0)
    #: kitecore.fidelity.FidelityReport, once it is done.
    found = models.JSONField(null=True, blank=True)
    message = models.TextField(blank=True, default="")
    created = models.DateTimeField(auto_now_add=True)
    modified = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["picture", "chain"], name="one_report_per_treatment")]

    def __str__(self) -> str:
        return f"{self.picture} {self.chain}: {self.state}"

    @property
    def core_take(self) -> CoreTake:
        return CoreTake.model_validate(self.take)

    @property
    def given_up(self) -> bool:
        """Whether its worker must have died."""
        return self.state == State.RUNNING and (timezone.now() - self.modified).total_seconds() > GIVEN_UP_SECONDS
