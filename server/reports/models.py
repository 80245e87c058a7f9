from __future__ import annotations

import uuid

from django.db import models

from common.background import BackgroundMeasurement
from kitecore.takes.plan import Plan, plan
from kitecore.takes.take import Take as CoreTake
from pictures.models import Picture
from takes.models import OutsideFile


class Report(BackgroundMeasurement):
    """How faithful one treatment is to its picture: a FidelityReport, kept for these very steps."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    picture = models.ForeignKey(Picture, on_delete=models.CASCADE, related_name="reports")
    #: The chain of the treatment: everything that decides its pixels.
    chain = models.CharField(max_length=64)
    #: kitecore.takes.take.Take
    take = models.JSONField()
    #: What is measured instead of steps, if the take was made elsewhere.
    outside = models.ForeignKey(OutsideFile, null=True, on_delete=models.CASCADE, related_name="reports")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["picture", "chain"], name="one_report_per_treatment")]

    def __str__(self) -> str:
        return f"{self.picture} {self.chain}: {self.state}"

    def plan(self) -> Plan:
        if self.outside:
            return self.outside.plan(self.picture)
        return plan(CoreTake.model_validate(self.take), self.picture.size)
