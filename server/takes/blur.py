"""The blur of a part of a picture, told by what is drawn on it."""

from __future__ import annotations

import uuid
from typing import Literal

from django.shortcuts import aget_object_or_404
from ninja import Field, Router, Schema

from kitecore.pipeline.geometry import Place
from kitecore.pipeline.run import Run
from kitecore.steps.deblur import Blur
from kitecore.takes.blur_where_drawn import blur_of_area, movement_along
from kitecore.takes.render import result_stage
from people.signed_in import PersonRequest, signed_in
from rendering.pool import pool
from rendering.sources import sources
from takes.models import Take

router = Router(tags=["takes"])


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
            blur, confidence = blur_of_area(before, result_stage(before, source.stage()), places, run)
        return BlurFoundOut(blur=blur, confidence=round(confidence, 2))

    return await pool.render(uuid.uuid4().hex, 0, work)
