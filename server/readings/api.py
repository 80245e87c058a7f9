"""The reading of a picture, and the start that is suggested from it; nothing is applied unless it is asked for."""

from __future__ import annotations

import uuid
from typing import Any, Literal

from django.shortcuts import aget_object_or_404, get_object_or_404
from ninja import Field, Router, Schema, Status

from kitecore.geometry import Place
from kitecore.reading import Reading
from kitecore.reading.area import blur_of_area, movement_along
from kitecore.run import Run
from kitecore.steps import Enlarge, Frame
from kitecore.steps.deblur import Blur
from kitecore.suggestion import Suggestion, suggest
from kitecore.take import Take as CoreTake
from kiteglass.errors import Refused
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from readings.models import PictureReading
from readings.tasks import order_reading
from takes.api import TakeOut, shown
from takes.models import Take, default_steps
from viewing.desk import desk
from viewing.sources import sources

router = Router(tags=["readings"])

#: What a take made of a suggestion is called.
SUGGESTED = "Suggested"


class ReadingOut(Schema):
    state: Literal["none", "queued", "running", "done", "failed"]
    progress: float = 0
    message: str = ""
    reading: Reading | None = None
    suggestion: Suggestion | None = Field(default=None, description="A start, with a reason for each step.")


def _picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    return get_object_or_404(Picture.objects.of(request.auth).select_related("job"), id=picture_id)


def suggestion_for(picture: Picture, reading: Reading) -> Suggestion:
    """What is suggested for a picture, at the size a new take of it would have."""
    usual = CoreTake.model_validate({"steps": default_steps(picture)}).steps
    target = next(step.target for step in usual if isinstance(step, Enlarge))
    return suggest(reading, target, next((step for step in usual if isinstance(step, Frame)), None))


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


class Drawn(Schema):
    """What was drawn on the picture, between two places in pixels of the source."""

    what: Literal["line", "area"] = Field(
        description="A line as a point was drawn out, or opposite corners of an area."
    )
    start: tuple[float, float]
    end: tuple[float, float]


class BlurFoundOut(Schema):
    blur: Blur | None = Field(description="In pixels of the picture as it comes to the step; null: it is sharp there.")
    confidence: float = Field(description="0..1; of a line, 1.")


@router.post("/takes/{take_id}/steps/{index}/blur", auth=signed_in, response=BlurFoundOut)
async def blur_where_drawn(request: PersonRequest, take_id: uuid.UUID, index: int, drawn: Drawn) -> BlurFoundOut:
    """The blur that a line tells, or that is read from an area, as the step at ``index`` of the take meets it."""
    take = await aget_object_or_404(Take.objects.of(request.auth).select_related("picture__original"), id=take_id)
    before = take.plan().until(sum(step.on for step in take.core.steps[:index]))
    places = Place(*drawn.start), Place(*drawn.end)
    if drawn.what == "line":
        return BlurFoundOut(blur=movement_along(before, *places), confidence=1)

    def work(run: Run) -> BlurFoundOut:
        with sources.of(take.picture) as source:
            blur, confidence = blur_of_area(before, before.stage(source.stage()), places, run)
        return BlurFoundOut(blur=blur, confidence=round(confidence, 2))

    return await desk.render(uuid.uuid4().hex, 0, work)
