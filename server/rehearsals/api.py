"""Rehearsals: asked for, called off, looked at; any candidate becomes a take."""

from __future__ import annotations

import uuid
from typing import Any, Literal

from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from kitecore.rehearsal import Rehearsal
from kitecore.steps import AnyStep, Enlarge
from people.signed_in import PersonRequest
from pictures.models import Picture
from rehearsals.models import PictureRehearsal, Wanted, rehearsal_row
from rehearsals.tasks import order_rehearsal
from takes.api import TakeOut, shown
from takes.models import Take

router = Router(tags=["rehearsals"])


class RehearsalOut(Schema):
    state: Literal["none", "queued", "running", "done", "failed"]
    progress: float = 0
    message: str = ""
    found: Rehearsal | None = Field(default=None, description="Every candidate, best first.", alias="rehearsal")


def _picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    return get_object_or_404(Picture.objects.of(request.auth).select_related("job"), id=picture_id)


def _out(row: PictureRehearsal | None) -> RehearsalOut:
    return RehearsalOut(state="none") if row is None or row.outdated else RehearsalOut.from_orm(row)


@router.get("/pictures/{picture_id}/rehearsal", response=RehearsalOut)
def get_rehearsal(request: PersonRequest, picture_id: uuid.UUID) -> RehearsalOut:
    """The rehearsal as far as it is; ``none`` where it has to be asked for."""
    return _out(rehearsal_row(_picture(request, picture_id)))


@router.post("/pictures/{picture_id}/rehearsal", response=RehearsalOut)
def ask_rehearsal(request: PersonRequest, picture_id: uuid.UUID) -> RehearsalOut:
    """Have every chain that might suit the picture tried on worn copies of itself. One that was made is given as it is."""
    with transaction.atomic():
        return _out(order_rehearsal(_picture(request, picture_id)))


@router.delete("/pictures/{picture_id}/rehearsal", response={204: None})
def call_off_rehearsal(request: PersonRequest, picture_id: uuid.UUID) -> Status[None]:
    """Call it off while it is made, or forget what it came to."""
    if row := rehearsal_row(_picture(request, picture_id)):
        row.delete()
    return Status(204, None)


@router.get("/pictures/{picture_id}/rehearsal/sheet.png", include_in_schema=False)
def sheet(request: PersonRequest, picture_id: uuid.UUID) -> HttpResponse:
    """The truth of the first scene and what each candidate made of it: squares side by side, in their order."""
    row = rehearsal_row(_picture(request, picture_id))
    if row is None or row.rehearsal is None or row.sheet is None:
        raise Http404
    return HttpResponse(bytes(row.sheet), content_type="image/png")


@router.post("/pictures/{picture_id}/rehearsal/{place}/take", response={201: TakeOut})
def take_candidate(request: PersonRequest, picture_id: uuid.UUID, place: int) -> Status[dict[str, Any]]:
    """Make the candidate at a place, from 0, a take of its own, at the size that new takes of the picture have."""
    picture = _picture(request, picture_id)
    row = rehearsal_row(picture)
    rehearsal = row.rehearsal if row else None
    if rehearsal is None or not 0 <= place < len(rehearsal.candidates):
        raise Http404
    wanted = Wanted.of(picture)
    steps: list[AnyStep] = [wanted.frame] if wanted.frame else []
    steps += [
        step.model_copy(update={"target": wanted.target}) if isinstance(step, Enlarge) else step
        for step in rehearsal.candidates[place].steps
    ]
    made = [step.model_dump(mode="json") for step in steps]
    return Status(201, shown(Take.objects.begin(picture, made, "Rehearsed")))
