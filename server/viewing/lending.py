"""Faces of a picture that can lend their detail to the same person in another one."""

from __future__ import annotations

import uuid

import numpy as np
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from kitecore.colour.screen import screen_samples
from kitecore.faces import FaceFound, FaceSquare
from kitecore.faces.reference import MOST_SIDE, square_text
from kitecore.pipeline.geometry import Place, level_of
from kitecore.pipeline.run import Run
from kitecore.steps.faces_stage import bounds_of
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from readings.tasks import order_reading
from rendering.pool import pool
from rendering.regions import Opened, opened

router = Router(tags=["viewing"])

_MOST_FACES = 24


class LendingFace(Schema):
    """A face as a reference holds it."""

    width: int = Field(description="px of the picture.")
    square: str = Field(description="A JPEG in base64.")


class Lending(Schema):
    """``read`` is whether the picture has been read; before, nobody knows its faces."""

    read: bool
    faces: list[LendingFace]


@router.get("/pictures/{picture_id}/faces", auth=signed_in, response=Lending)
async def faces(request: PersonRequest, picture_id: uuid.UUID) -> Lending:
    """The faces that were found for sure in a picture, the largest first, cut out upright for the step ``faces``."""

    def work(run: Run) -> Lending:
        picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
        # One that was never read, or long ago, is read now.
        reading = order_reading(picture.original).reading
        found = [FaceFound(face.eyes, face.mouth, face.sure) for face in reading.faces] if reading else []
        squares = sorted((_square(face) for face in found if face.sure), key=lambda square: -square.side)[:_MOST_FACES]
        with opened(picture) as source:
            cut = [LendingFace(width=round(one.face_width), square=_cut(source, one, run)) for one in squares]
        return Lending(read=reading is not None, faces=cut)

    return await pool.render(f"lending {picture_id} {request.auth.pk}", 0, work)


def _square(face: FaceFound) -> FaceSquare:
    return FaceSquare.around(Place(*face.eyes[0]), Place(*face.eyes[1]), Place(*face.mouth))


def _cut(picture: Opened, square: FaceSquare, run: Run) -> str:
    """The square as a screen shows it, from the picture as small as serves."""
    stage = picture.source.stage(level_of(square.side / MOST_SIDE))
    small = square.scaled(stage.size.width / picture.source.size.width)
    bounds = bounds_of(small)
    seen = np.asarray(screen_samples(stage.extended(bounds, run), picture.profile), np.float32) / np.float32(255)
    inside = FaceSquare(Place(small.middle.x - bounds.x, small.middle.y - bounds.y), small.side, small.turn)
    return square_text(seen, inside)
