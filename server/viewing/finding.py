"""What a part of a mask is about, found in a picture."""

from __future__ import annotations

import time
import uuid
from dataclasses import replace
from functools import partial

from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from kitecore.masks.parts import Found
from kitecore.pipeline.run import Run
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from rendering.pool import pool
from takes.finding import look_at

router = Router(tags=["viewing"])


class Search(Schema):
    """How far a search is."""

    share: float | None = Field(default=None, description="0..1; null while nothing is looked for, or not yet.")


#: How far the searches are that go on here, by whose they are and where.
_going_on: dict[tuple[int, uuid.UUID], float] = {}


@router.post("/pictures/{picture_id}/found", auth=signed_in, response=Found)
async def find(request: PersonRequest, picture_id: uuid.UUID, part: Found) -> Found:
    """The part with its plane, found by a look at the whole picture; refused with what to do instead if it is not there.

    Calling the request off calls the search off.
    """

    def work(run: Run) -> Found:
        picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
        watched = replace(run, progress=partial(_going_on.__setitem__, search))
        try:
            with look_at(picture) as look:
                return look.find(part, watched)
        finally:
            _going_on.pop(search, None)

    search = request.auth.pk, picture_id
    return await pool.render(f"find {picture_id} {request.auth.pk}", time.monotonic_ns(), work)


@router.get("/pictures/{picture_id}/found", auth=signed_in, response=Search)
async def search_of(request: PersonRequest, picture_id: uuid.UUID) -> Search:
    """How far the person's own search in a picture is."""
    return Search(share=_going_on.get((request.auth.pk, picture_id)))
