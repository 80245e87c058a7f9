"""The reading of a picture, and the start that is suggested from it; nothing is applied unless it is asked for."""

from __future__ import annotations

import uuid
from typing import Any, Literal

from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from common.errors import Refused
from kitecore.reading import Reading
from kitecore.steps.grain import Grain
from kitecore.takes.grain_match import grain_like
from kitecore.takes.suggestion import Suggestion
from people.signed_in import PersonRequest
from pictures.models import Picture
from readings.models import PictureReading
from readings.tasks import order_reading
from suggestions.suggested import SUGGESTED, suggestion_for
from takes.api import TakeOut, shown
from takes.models import Take

router = Router(tags=["readings"])


class ReadingOut(Schema):
    state: Literal["none", "queued", "running", "done", "failed"]
    progress: float = 0
    message: str = ""
    reading: Reading | None = None
    suggestion: Suggestion | None = Field(default=None, description="A start, with a reason for each step.")


def _picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    return get_object_or_404(Picture.objects.of(request.auth).select_related("job"), id=picture_id)


def _out(picture: Picture, row: PictureReading | None) -> ReadingOut:
    if row is None or row.outdated:
        return ReadingOut(state="none")
    out = ReadingOut.from_orm(row)
    if out.reading:
        out.suggestion = suggestion_for(picture, out.reading)
    return out


@router.get("/pictures/{picture_id}/reading", response=ReadingOut)
def get_reading(request: PersonRequest, picture_id: uuid.UUID) -> ReadingOut:
    """The reading as far as it is; ``none`` where it has to be asked for."""
    picture = _picture(request, picture_id)
    return _out(picture, PictureReading.objects.filter(original=picture.original).first())


@router.post("/pictures/{picture_id}/reading", response=ReadingOut)
def ask_reading(request: PersonRequest, picture_id: uuid.UUID) -> ReadingOut:
    """Have the picture read; one that has been read is given as it is."""
    picture = _picture(request, picture_id)
    return _out(picture, order_reading(picture.original))


@router.get("/takes/{take_id}/grain", response=Grain)
def matching_grain(request: PersonRequest, take_id: uuid.UUID) -> Grain:
    """Grain as the source's own noise is, at the size it has in the take's result."""
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    row = PictureReading.objects.filter(original=take.picture.original).first()
    reading = row.reading if row else None
    if reading is None:
        raise Refused(f"{take.picture.name} has not been read yet; wait for its reading and ask again.")
    return grain_like(reading.noise, take.plan().scale)


@router.post("/pictures/{picture_id}/suggested", response={201: TakeOut})
def take_suggestion(request: PersonRequest, picture_id: uuid.UUID) -> Status[dict[str, Any]]:
    """Make the suggested start a take of its own, beside those there are."""
    picture = _picture(request, picture_id)
    row = PictureReading.objects.filter(original=picture.original).first()
    reading = row.reading if row else None
    if reading is None:
        raise Refused(f"{picture.name} has not been read yet; wait for its reading and ask again.")
    steps = [step.model_dump(mode="json") for step in suggestion_for(picture, reading).steps]
    return Status(201, shown(Take.objects.begin(picture, steps, SUGGESTED)))
