"""What a part of a mask is about, found in a picture."""

from __future__ import annotations

import time
import uuid

from django.shortcuts import get_object_or_404
from ninja import Router

from kitecore.masks.parts import Found
from kitecore.pipeline.run import Run
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from rendering.pool import pool
from takes.finding import look_at

router = Router(tags=["viewing"])


@router.post("/pictures/{picture_id}/found", auth=signed_in, response=Found)
async def find(request: PersonRequest, picture_id: uuid.UUID, part: Found) -> Found:
    """The part with its plane, found by a look at the whole picture; refused with what to do instead if it is not there.

    Calling the request off calls the search off.
    """

    def work(run: Run) -> Found:
        picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
        with look_at(picture) as look:
            return look.find(part, run)

    return await pool.render(f"find {picture_id} {request.auth.pk}", time.monotonic_ns(), work)
