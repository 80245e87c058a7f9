"""What the worker does: read a picture, once for each file."""

from __future__ import annotations

from django.conf import settings
from procrastinate.contrib.django import app

from common.background import UNWATCHED, Progress
from common.store import store
from kitecore.files.preview import preview
from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.reading import READING_REVISION, Reading, read_picture
from pictures.models import Original
from readings.models import PictureReading

#: Longest side of the previews on shelves.
PREVIEW_SIDE = 640


@app.task(name="read", queue="readings", priority=UNWATCHED)
def read(key: str) -> None:
    """Read one file. Safe to run again at any time."""
    row = PictureReading.objects.select_related("original").filter(original_id=key).first()
    if row is None or row.reading:
        return

    def work(progress: Progress) -> Reading:
        picture = row.original.pictures.first()
        name = picture.name if picture else None
        with Source(row.original.here(), settings.SCRATCH, name, damaged=True) as source:
            found = read_picture(source, Run(), progress)
            if source.raw:
                # Until now the camera's own picture was shown.
                store().write(preview(source, PREVIEW_SIDE), row.original.preview_path)
            return found

    row.perform(work, called="reading")


def order_reading(original: Original) -> PictureReading:
    """Have a file read, unless it has been or is being read; gives the row that will hold what is found."""
    row, fresh = PictureReading.objects.get_or_create(original=original)
    if fresh or row.needed or row.outdated:
        row.revision = READING_REVISION
        row.found = None
        row.begin(read)
    return row
