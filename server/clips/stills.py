"""Frames of a clip become pictures of its job."""

from __future__ import annotations

from pathlib import Path
from tempfile import NamedTemporaryFile

from django.conf import settings

from clips.models import Clip
from intake.receiving import take_in
from kitecore.delivery.still import write_still
from kitecore.errors import NoSpace
from kitecore.files.clip.clip import Clip as CoreClip
from kitecore.filters.fusing import Factor, fused
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from pictures.models import Picture
from takes.models import Take


def pulled(clip: Clip, opened: CoreClip, index: int) -> Picture:
    """A frame as a picture. Raises PictureError if it cannot be decoded, NoSpace."""
    code = opened.code(index)
    return _picture(clip, opened, opened.frame(index), code, f"Frame {index + 1} ({code}) of {clip.name}")


def fused_still(clip: Clip, opened: CoreClip, first: int, last: int, best: int, factor: Factor, run: Run) -> Picture:
    """Neighbouring frames as one picture that lies as the ``best`` of them does. Raises PictureError, NoSpace, Cancelled."""
    made = fused(opened.frame, range(first, last + 1), best, factor, run)
    code = opened.code(best)
    finer = f", on a grid {factor} times as fine" if factor > 1 else ""
    origin = (
        f"Frames {first + 1} to {last + 1} of {clip.name} fused upon frame {best + 1} ({code}){finer}; "
        f"{made.merged:.1f} of them merged in the mean, what moved taken from that frame alone"
    )
    return _picture(clip, opened, made.pixels, f"{code} fused", origin)


def _picture(clip: Clip, opened: CoreClip, pixels: Pixels, called: str, origin: str) -> Picture:
    name = f"{Path(clip.name).stem} {called.replace(':', '-')}.tif"
    with NamedTemporaryFile(dir=settings.FILE_UPLOAD_TEMP_DIR, suffix=".tif") as file:
        try:
            write_still(pixels, opened.profile, origin, Path(file.name))
        except OSError as error:
            raise NoSpace("The disk is full; the still could not be kept. Free some space and try again.") from error
        with Path(file.name).open("rb") as content:
            picture = take_in(clip.job, name, content.read)
    # The ledger tells what was done to a source before it was one.
    picture.facts["notes"] = [f"{origin}.", *opened.facts.notes, *picture.facts["notes"]]
    picture.save(update_fields=["facts"])
    Take.objects.begin(picture)
    return picture
