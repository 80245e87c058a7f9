"""What the worker does: measure how faithful a treatment is, and keep it."""

from __future__ import annotations

import contextlib
import logging
import time

from django.conf import settings
from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from kitecore.errors import KiteError
from kitecore.fidelity import report_of
from kitecore.run import Run
from kitecore.source import Source
from kitecore.take import plan
from reports.models import Report, State

log = logging.getLogger(__name__)

_TELL_EVERY_SECONDS = 0.5


@app.task(name="report", queue="reports")
def report(report_id: str) -> None:
    """Make one report. Safe to run again at any time."""
    row = Report.objects.select_related("picture__original").filter(id=report_id).exclude(state=State.DONE).first()
    if row is None:
        return
    _tell(row, state=State.RUNNING, progress=0, message="")
    told = time.monotonic()

    def progress(fraction: float) -> None:
        nonlocal told
        if time.monotonic() - told > _TELL_EVERY_SECONDS:
            told = time.monotonic()
            _tell(row, progress=fraction)

    try:
        settings.SCRATCH.mkdir(parents=True, exist_ok=True)
        with Source(row.picture.original.path, settings.SCRATCH, row.picture.name) as source:
            resolved = plan(row.core_take, source.size)
            found = report_of(
                resolved.framed.stage(source.stage()),
                resolved.stage(source.stage()),
                source.header.profile,
                Run(),
                progress,
            )
    except KiteError as error:
        _tell(row, state=State.FAILED, message=str(error))
    except Exception:
        log.exception("report %s failed", report_id)
        _tell(
            row, state=State.FAILED, message="The report could not be made: something unforeseen happened. Try again."
        )
    else:
        _tell(row, state=State.DONE, progress=1, found=found.model_dump(mode="json"))


def _tell(row: Report, **values: object) -> None:
    Report.objects.filter(id=row.id).update(modified=timezone.now(), **values)


def order(row: Report) -> None:
    """Put a report into the queue once its row is committed."""

    def defer() -> None:
        with contextlib.suppress(AlreadyEnqueued):
            report.configure(queueing_lock=f"report-{row.id}").defer(report_id=str(row.id))

    transaction.on_commit(defer)
