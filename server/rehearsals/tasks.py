"""What the worker does: rehearse on a picture, once for each file and factor."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from django.conf import settings
from procrastinate.contrib.django import app

from common.background import WATCHED, Progress
from kitecore.colour.screen import screen_png
from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.rehearsal import Rehearsal, Rehearsed, rehearse
from pictures.models import Picture
from pictures.opening import follow_shelves
from readings.models import NotReadYet, PictureReading
from rehearsals.models import PictureRehearsal, Wanted, current_revision

_LOOK_EVERY_SECONDS = 0.5


@app.task(name="rehearse", queue="reports", priority=WATCHED)
def rehearse_picture(key: str) -> None:
    """Make one rehearsal. Safe to run again at any time."""
    row = PictureRehearsal.objects.select_related("original__reading").filter(pk=key).first()
    if row is not None and row.rehearsal is None:
        row.perform(lambda progress: _rehearsed(row, progress), called="rehearsal")


def _rehearsed(row: PictureRehearsal, progress: Progress) -> Rehearsal:
    reading = row.original.reading.reading
    picture = row.original.pictures.first()
    name = picture.name if picture else "This picture"
    if reading is None:
        raise NotReadYet(f"{name} has not been read yet; wait for its reading and rehearse again.")
    follow_shelves()
    with Source(row.original.here(), settings.SCRATCH, name, damaged=True) as source:
        run = Run(_called_off(row))
        rehearsed = rehearse(source, reading, row.factor, run, progress)
        sheet = screen_png(_side_by_side(rehearsed), source.header.profile)
    PictureRehearsal.objects.filter(pk=row.pk).update(sheet=sheet)
    return rehearsed.rehearsal


def _called_off(row: PictureRehearsal) -> Callable[[], bool]:
    """Whether the row has been taken away; looks now and then."""
    looked, gone = time.monotonic(), False

    def called_off() -> bool:
        nonlocal looked, gone
        if time.monotonic() - looked > _LOOK_EVERY_SECONDS:
            looked, gone = time.monotonic(), not PictureRehearsal.objects.filter(pk=row.pk).exists()
        return gone

    return called_off


def _side_by_side(rehearsed: Rehearsed) -> np.ndarray:
    return np.concatenate([rehearsed.truth, *rehearsed.cells], axis=1)


def order_rehearsal(picture: Picture) -> PictureRehearsal:
    """Have a picture rehearsed, unless it has been or is being; gives the row that will hold what is found.

    Raises NotReadYet if it has not been read.
    """
    row, fresh = _row(picture)
    if fresh or row.needed:
        row.begin(rehearse_picture)
    return row


def rehearsed_now(picture: Picture) -> Rehearsal | None:
    """The rehearsal of a picture, made here and now if there is none; None if none can be made. For workers.

    Raises NotReadYet if it has not been read.
    """
    row, _ = _row(picture)
    if row.rehearsal is None:
        row.perform(lambda progress: _rehearsed(row, progress), called="rehearsal")
        row.refresh_from_db()
    return row.rehearsal


def _row(picture: Picture) -> tuple[PictureRehearsal, bool]:
    reading = PictureReading.objects.filter(original=picture.original).first()
    if reading is None or reading.reading is None:
        raise NotReadYet(f"{picture.name} has not been read yet; wait for its reading and rehearse again.")
    row, fresh = PictureRehearsal.objects.get_or_create(original=picture.original, factor=Wanted.of(picture).factor)
    if not row.outdated:
        return row, fresh
    row.revision, row.found, row.sheet = current_revision(), None, None
    row.save()
    return row, True
