"""What the worker does: measure how sharp the frames of a clip are, and look for faces in them."""

from __future__ import annotations

from pathlib import Path

from procrastinate.contrib.django import app

from clips.models import Clip, ClipCurve, ClipMoments, Curve, Moments
from common.background import WATCHED, Progress
from common.store import store
from kitecore.files.clip.clip import Clip as CoreClip
from kitecore.files.clip.curve import peaks, sharpness_curve
from kitecore.files.clip.looks import looks_written
from kitecore.pipeline.run import Run
from kitecore.reading.moments import best_moments, moments_of
from pictures.models import Original


@app.task(name="curve", queue="reports", priority=WATCHED)
def measure_curve(key: str) -> None:
    """Make one curve. Safe to run again at any time."""
    row = ClipCurve.objects.select_related("original").filter(pk=key).first()
    if row is None or row.curve:
        return

    def work(progress: Progress) -> Curve:
        with _opened(row.original) as opened, looks_written(looks_path(row.original), opened.profile) as add:
            curve = sharpness_curve(opened, Run(progress=progress), add)
            found = Curve(sharpness=curve, peaks=peaks(curve, opened.facts.rate))
        store().put(looks_path(row.original))
        return found

    row.perform(work, called="curve")


@app.task(name="moments", queue="reports", priority=WATCHED)
def find_moments(key: str) -> None:
    """Find the moments of one clip in which people look well, once its curve is there. Safe to run again at any time."""
    row = ClipMoments.objects.select_related("original__curve").filter(pk=key).first()
    if row is None or row.moments or row.original.curve.curve is None:
        return
    sharpness = row.original.curve.curve.sharpness

    def work(progress: Progress) -> Moments:
        with _opened(row.original) as opened:
            found = moments_of(opened, Run(progress=progress))
            return Moments(moments=found, best=best_moments(found, sharpness, opened.facts.rate))

    row.perform(work, called="moments")


def _opened(original: Original) -> CoreClip:
    clip = original.clips.first()
    return CoreClip(original.here(), clip.name if clip else None)


def looks_path(original: Original) -> Path:
    """Where the small pictures of a clip's frames are, once its curve is made."""
    return original.preview_path.with_suffix(".looks")


def order_curve(clip: Clip) -> ClipCurve:
    """Have a clip's curve made, unless it has been or is being; gives the row that will hold it."""
    row, fresh = ClipCurve.objects.get_or_create(original=clip.original)
    if fresh or row.needed:
        row.begin(measure_curve)
    return row


def order_moments(clip: Clip) -> ClipMoments | None:
    """The same of its moments; None as long as its curve is not there, which they rest upon."""
    if order_curve(clip).curve is None:
        return None
    row, fresh = ClipMoments.objects.get_or_create(original=clip.original)
    if fresh or row.needed:
        row.begin(find_moments)
    return row
