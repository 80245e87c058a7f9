"""Fidelity reports: asked for, made by the worker, kept as long as the steps stay what they are."""

from __future__ import annotations

import uuid
from typing import Literal

from django.db import transaction
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from kitecore.comparison.fidelity import FidelityReport
from people.signed_in import PersonRequest
from reports.models import Report
from reports.tasks import have_measured
from takes.models import Take

router = Router(tags=["reports"])


class ReportOut(Schema):
    state: Literal["none", "queued", "running", "done", "failed"]
    chain: str
    progress: float = 0
    message: str = ""
    found: FidelityReport | None = None


def _of(request: PersonRequest, take_id: uuid.UUID) -> tuple[Take, str, Report | None]:
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    chain = take.plan().chain
    return take, chain, Report.objects.filter(picture=take.picture, chain=chain).first()


@router.get("/takes/{take_id}/report", response=ReportOut)
def get_report(request: PersonRequest, take_id: uuid.UUID) -> ReportOut:
    """The report on the take as it is now; ``none`` if none has been asked for."""
    _, chain, report = _of(request, take_id)
    return ReportOut.from_orm(report) if report else ReportOut(state="none", chain=chain)


@router.post("/takes/{take_id}/report", response=ReportOut)
def ask_report(request: PersonRequest, take_id: uuid.UUID) -> ReportOut:
    """Have the take measured. One that was made for the same steps is given as it is."""
    with transaction.atomic():
        take, chain, _ = _of(request, take_id)
        report = have_measured(take.picture, chain, take.core.model_dump(mode="json"), take.made_elsewhere)
    return ReportOut.from_orm(report)
