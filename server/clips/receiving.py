"""A clip arrives: looked at, kept once, and measured."""

from __future__ import annotations

from collections.abc import Callable

from clips.models import Clip
from clips.tasks import order_curve
from intake.receiving import arrived
from jobs.models import Job
from kitecore.files.clip.clip import Clip as CoreClip


def take_in_clip(job: Job, given_name: str, read: Callable[[int], bytes]) -> Clip:
    """Make a clip of a stream, and have its curve made. Raises a KiteError with a sentence; then nothing of it remains."""
    with arrived(given_name, read, "clip") as file:
        with CoreClip(file.path, file.name) as opened:
            facts = opened.facts
            # That its first frame can be decoded is seen now.
            opened.luma(0)
        clip = Clip.objects.create(job=job, original=file.keep(), name=file.name, facts=facts.model_dump(mode="json"))
    order_curve(clip)
    return clip
