"""What the worker does: measure how faithful a treatment is, and keep it."""

from __future__ import annotations

from typing import Any

from procrastinate.contrib.django import app

from common.background import WATCHED, Progress, State
from kitecore.comparison.fidelity import FidelityReport, report_of
from kitecore.pipeline.run import Run
from kitecore.takes.render import result_stage
from pictures.models import Picture
from pictures.opening import opened_here
from reports.models import Report
from takes.models import OutsideFile


@app.task(name="report", queue="reports", priority=WATCHED)
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
        picture = row.picture
        with opened_here(picture) as source:
            resolved = row.plan()
            framed, result = result_stage(resolved.framed, source.stage()), result_stage(resolved, source.stage())
            return report_of(framed, result, source.header.profile, Run(), progress)

    row.perform(work, called="report")


def have_measured(picture: Picture, chain: str, take: dict[str, Any], outside: OutsideFile | None = None) -> Report:
    """Have a treatment measured, unless it has been or is being; gives the row that will hold what is found.

    ``take`` is what kitecore.takes.take.Take tells of itself, ``chain`` the chain of what it makes of the picture.
    """
    row, fresh = Report.objects.get_or_create(picture=picture, chain=chain, defaults={"take": take, "outside": outside})
    if fresh or row.needed:
        row.begin(report)
    return row
