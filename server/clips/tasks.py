"""What the worker does: measure how sharp the frames of a clip are."""

from __future__ import annotations

from procrastinate.contrib.django import app

from clips.models import Clip, ClipCurve, Curve
from common.background import WATCHED, Progress
from kitecore.files.clip.clip import Clip as CoreClip
from kitecore.files.clip.curve import peaks, sharpness_curve
from kitecore.pipeline.run import Run


@app.task(name="curve", queue="reports", priority=WATCHED)
def measure_curve(key: str) -> None:
    """Make one curve. Safe to run again at any time."""
    row = ClipCurve.objects.select_related("original").filter(pk=key).first()
    if row is None or row.curve:
        return

    def work(progress: Progress) -> Curve:
        clip = row.original.clips.first()
        with CoreClip(row.original.path, clip.name if clip else None) as opened:
            curve = sharpness_curve(opened, 0, opened.facts.frames - 1, Run(), progress)
            return Curve(sharpness=curve, peaks=peaks(curve, opened.facts.rate))

    row.perform(work, called="curve")


def order_curve(clip: Clip) -> ClipCurve:
    """Have a clip's curve made, unless it has been or is being; gives the row that will hold it."""
    row, fresh = ClipCurve.objects.get_or_create(original=clip.original)
    if fresh or row.needed:
        row.begin(measure_curve)
    return row
