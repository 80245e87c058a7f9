"""What the worker does: measure how faithful a treatment is, and keep it."""

from __future__ import annotations

from django.conf import settings
from procrastinate.contrib.django import app

from common.background import Progress, State
from kitecore.comparison.fidelity import FidelityReport, report_of
from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.takes.render import result_stage
from reports.models import Report


@app.task(name="report", queue="reports")
def report(key: str) -> None:
    """Make one report. Safe to run again at any time."""
    row = (
        Report.objects.select_related("picture__original", "outside__original")
        .filter(id=key)
        .exclude(state=State.DONE)
        .first()
    )
    if row is None:
        return

    def work(progress: Progress) -> FidelityReport:
        with Source(row.picture.original.path, settings.SCRATCH, row.picture.name, damaged=True) as source:
            resolved = row.plan()
            framed, result = result_stage(resolved.framed, source.stage()), result_stage(resolved, source.stage())
            return report_of(framed, result, source.header.profile, Run(), progress)

    row.perform(work, called="report")
