"""Profiles of lenses for a camera raw: the one that was found, and others to choose from by hand."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404
from ninja import Field, Query, Router, Schema

from common.errors import Refused
from kitecore.files.raw.lenses import lenses_like
from kitecore.pipeline.run import Run
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from rendering.pool import pool
from rendering.sources import sources

router = Router(tags=["viewing"])


class LensesIn(Schema):
    text: str = Field(default="", max_length=80, description="Words of its name.")


class Lenses(Schema):
    found: str | None = Field(description="The profile of the lens the raw was taken with.")
    names: list[str] = Field(description="Profiles whose names hold the words, for its camera where that is known.")


@router.get("/pictures/{picture_id}/lenses", auth=signed_in, response=Lenses)
async def lenses(request: PersonRequest, picture_id: uuid.UUID, wanted: Query[LensesIn]) -> Lenses:
    """Lens profiles for a camera raw."""

    def work(run: Run) -> Lenses:
        picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
        if picture.facts.get("raw") is None:
            raise Refused(f"{picture.name} is no camera raw; the lens step corrects other files by hand.")
        with sources.of(picture) as source:
            assert source.raw is not None  # its facts say so
            return Lenses(found=source.raw.lens, names=lenses_like(source.raw.exposed, wanted.text))

    return await pool.render(f"lenses {picture_id} {request.auth.pk}", 0, work)
