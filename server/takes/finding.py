"""Parts of masks that are found in a picture: looked for in its source, made small."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from kitecore.faces import FaceFound
from kitecore.pipeline.geometry import level_of
from kitecore.pipeline.run import Run
from kitecore.takes.finding import LOOK_SIDE, Look, all_found, to_be_found
from kitecore.takes.take import Take as CoreTake
from pictures.models import Picture
from readings.models import PictureReading
from rendering.sources import sources


@contextmanager
def look_at(picture: Picture) -> Iterator[Look]:
    """The picture as it is looked at, with the faces its reading found, if it has been read."""
    row = PictureReading.objects.filter(original=picture.original).first()
    reading = row.reading if row else None
    faces = [FaceFound(face.eyes, face.mouth, face.sure) for face in reading.faces] if reading else []
    with sources.of(picture) as source:
        size = picture.size
        level = level_of(max(size.width, size.height) / (2 * LOOK_SIDE))
        yield Look(source.stage(level), source.header.profile, faces, size)


def masks_found(picture: Picture, steps: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """A new take's steps with what their masks are about found in this picture; what is not there stays empty."""
    core = CoreTake.model_validate({"steps": steps}).steps
    if not to_be_found(core):
        return steps
    with look_at(picture) as look:
        done, _ = all_found(core, look, Run())
    return [step.model_dump(mode="json") for step in done]
