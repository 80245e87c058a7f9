"""The JPEG of a camera beside its raw: two sources of one picture, to be compared."""

from __future__ import annotations

import io
import uuid
from pathlib import Path
from typing import Any

from django.shortcuts import get_object_or_404
from ninja import Status

from common.errors import Refused
from intake.receiving import received
from kitecore.comparison.alignment import align
from kitecore.files.raw.unpacking import camera_jpeg
from kitecore.pipeline.run import Run
from people.signed_in import PersonRequest
from pictures.models import Picture
from rendering.sources import sources

# The address is that of a picture's takes, so it belongs to the same router.
from takes.api import TakeOut, router, shown
from takes.models import Take


@router.post("/pictures/{picture_id}/camera-jpeg", response={201: TakeOut})
def bring_camera_jpeg(request: PersonRequest, picture_id: uuid.UUID) -> Status[dict[str, Any]]:
    """A take that shows the JPEG the camera made beside a raw: the picture of the job of its name, or else the one inside."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    if picture.facts.get("raw") is None:
        raise Refused(f"{picture.name} is no camera raw.")
    name, content = _beside(picture)
    if content is None:
        raise Refused(
            f"{picture.name} holds no JPEG of its camera, and no picture of this job has its name. Add it to the job."
        )
    with received(name, io.BytesIO(content).read) as incoming, sources.of(picture) as source:
        found = align(incoming.source, source, Run())
        take = Take.objects.begin_outside(picture, incoming, found, source.header.profile)
    return Status(201, shown(take))


def _beside(picture: Picture) -> tuple[str, bytes | None]:
    """Name and bytes of the JPEG; of several of that name the newest."""
    stem = Path(picture.name).stem
    alike = (
        Picture.objects.of(picture.job.owner).filter(job=picture.job, name__istartswith=f"{stem}.").order_by("-created")
    )
    for other in alike:
        if other.facts["format"] == "JPEG" and Path(other.name).stem.casefold() == stem.casefold():
            return other.name, other.original.here().read_bytes()
    return "camera.jpg", camera_jpeg(picture.original.here(), picture.name)
