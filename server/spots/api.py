"""Check spots: pinned, moved, named, proposed; and what is thought of each in each take."""

from __future__ import annotations

import uuid
from typing import Any, Literal

from django.db import connection, transaction
from django.db.models import Q
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from common.errors import Refused
from common.ordering import Ordering, put_in_order
from kitecore.errors import KiteError
from kitecore.pipeline.geometry import Place, Size
from kitecore.pipeline.run import Run
from kitecore.reading.spots import propose_spots
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from rendering.pool import pool
from rendering.sources import sources
from spots.models import CheckSpot, Mark
from takes.models import Take

router = Router(tags=["spots"])

#: How far the shapes of two pictures may be apart that show the same.
_MOST_UNLIKE = 0.01


class PlaceOut(Schema):
    x: float
    y: float


class SpotOut(Schema):
    id: uuid.UUID
    name: str
    x: float = Field(description="In pixels of the upright source.")
    y: float
    reason: str
    places: dict[str, PlaceOut | None] = Field(
        description="By take: where the spot lies in its result, in pixels; null where it has been cropped off."
    )
    marks: dict[str, Literal["good", "bad"]] = Field(description="By take: what was thought of it there.")


class SpotIn(Schema):
    """A place in the source, or in the result of a take if one is named."""

    x: float
    y: float
    take_id: uuid.UUID | None = None
    name: str = Field(default="", max_length=60)


class SpotChange(Schema):
    """What is left out stays as it is."""

    x: float | None = None
    y: float | None = None
    take_id: uuid.UUID | None = Field(default=None, description="The take whose pixels x and y are told in.")
    name: str | None = Field(default=None, min_length=1, max_length=60)


class BesideIn(Schema):
    picture_id: uuid.UUID | None = Field(description="A picture of the same job and shape; null: none any more.")


class MarkIn(Schema):
    value: Literal["good", "bad", ""]


def _shown(picture: Picture, spots: list[CheckSpot], takes: list[Take]) -> list[dict[str, Any]]:
    """``takes`` are the picture's own and those of the one beside it, which shows the same at a size of its own."""
    plans = {}
    sizes = {take.id: take.picture.size for take in takes}
    for take in takes:
        try:
            plans[take.id] = take.plan()
        except KiteError:
            continue

    def place_in(spot: CheckSpot, take_id: uuid.UUID) -> dict[str, float] | None:
        source = sizes[take_id]
        seen = Place(spot.x * source.width / picture.size.width, spot.y * source.height / picture.size.height)
        place = plans[take_id].place_in_result(seen)
        return {"x": place.x, "y": place.y} if place.inside(plans[take_id].size) else None

    return [
        {
            "id": spot.id, "name": spot.name, "x": spot.x, "y": spot.y, "reason": spot.reason,
            "places": {str(take_id): place_in(spot, take_id) for take_id in plans},
            "marks": {str(mark.take_id): mark.value for mark in spot.marks.all()},
        }
        for spot in spots
    ]  # fmt: skip


def _spots_of(request: PersonRequest, picture: Picture) -> list[dict[str, Any]]:
    takes = list(Take.objects.of(request.auth).filter(Q(picture=picture) | Q(picture=picture.beside_id)))
    return _shown(picture, list(picture.spots.filter(removed=None).prefetch_related("marks")), takes)


def _picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    return get_object_or_404(Picture.objects.of(request.auth), id=picture_id)


def _in_source(request: PersonRequest, picture: Picture, place: Place, take_id: uuid.UUID | None) -> Place:
    """A place of a take's result, or of the source, in the source. Raises Refused outside the picture."""
    if take_id:
        take = get_object_or_404(Take.objects.of(request.auth), id=take_id, picture=picture)
        place = take.plan().place_in_source(place)
    if not place.inside(picture.size):
        raise Refused("A check spot must lie on the picture.")
    return place


@router.get("/pictures/{picture_id}/spots", response=list[SpotOut])
def list_spots(request: PersonRequest, picture_id: uuid.UUID) -> list[dict[str, Any]]:
    """The picture's check spots, where each lies in every take, and the marks."""
    return _spots_of(request, _picture(request, picture_id))


@router.post("/pictures/{picture_id}/spots", response={201: list[SpotOut]})
def pin_spot(request: PersonRequest, picture_id: uuid.UUID, spot: SpotIn) -> Status[list[dict[str, Any]]]:
    picture = _picture(request, picture_id)
    CheckSpot.objects.pin(picture, _in_source(request, picture, Place(spot.x, spot.y), spot.take_id), spot.name.strip())
    return Status(201, _spots_of(request, picture))


@router.put("/pictures/{picture_id}/beside", response=list[SpotOut])
def set_beside(request: PersonRequest, picture_id: uuid.UUID, wanted: BesideIn) -> list[dict[str, Any]]:
    """Have the takes of another picture of the same on the check board, or no longer; gives the check spots."""
    picture = _picture(request, picture_id)
    other = None
    if wanted.picture_id is not None:
        own = Picture.objects.of(request.auth).filter(job=picture.job_id).exclude(id=picture.id)
        other = get_object_or_404(own, id=wanted.picture_id)
        shape, wants = (one.size.width / one.size.height for one in (other, picture))
        if abs(shape / wants - 1) > _MOST_UNLIKE:
            raise Refused(f"{other.name} has another shape than {picture.name}; they cannot show the same.")
    picture.beside = other
    picture.save(update_fields=["beside"])
    return _spots_of(request, picture)


@router.post("/pictures/{picture_id}/spots/propose", auth=signed_in, response={201: list[uuid.UUID]})
async def propose(request: PersonRequest, picture_id: uuid.UUID) -> Status[list[uuid.UUID]]:
    """Pin the places that tell most about a treatment, each with its reason; not where there is a spot already."""

    def work(run: Run) -> Status[list[uuid.UUID]]:
        try:
            picture = _picture(request, picture_id)
            with sources.of(picture) as source:
                found = propose_spots(source, run)
            near = _nearness(picture.size)
            with transaction.atomic():
                there = [spot.place for spot in picture.spots.filter(removed=None)]
                made = [
                    CheckSpot.objects.pin(picture, proposal.place, proposal.name, proposal.reason)
                    for proposal in found
                    if not any(abs(p.x - proposal.place.x) + abs(p.y - proposal.place.y) < near for p in there)
                ]
            return Status(201, [spot.id for spot in made])
        finally:
            connection.close()

    return await pool.render(uuid.uuid4().hex, 0, work)


def _nearness(size: Size) -> float:
    """Spots nearer to each other than this show the same."""
    return 0.04 * (size.width + size.height)


@router.post("/pictures/{picture_id}/spots/order", response=list[SpotOut])
def order_spots(request: PersonRequest, picture_id: uuid.UUID, order: Ordering) -> list[dict[str, Any]]:
    """Put the spots in this order; those not named follow."""
    picture = _picture(request, picture_id)
    put_in_order(picture.spots.all(), order)
    return _spots_of(request, picture)


@router.patch("/spots/{spot_id}", response=list[SpotOut])
def change_spot(request: PersonRequest, spot_id: uuid.UUID, change: SpotChange) -> list[dict[str, Any]]:
    """Move or rename a spot. A spot that has been moved no longer shows what it was proposed for."""
    spot = get_object_or_404(CheckSpot.objects.of(request.auth), id=spot_id)
    if change.name is not None:
        spot.name = change.name
    if change.x is not None and change.y is not None:
        place = _in_source(request, spot.picture, Place(change.x, change.y), change.take_id)
        spot.x, spot.y, spot.reason = place.x, place.y, ""
    spot.save(update_fields=["name", "x", "y", "reason"])
    return _spots_of(request, spot.picture)


@router.delete("/spots/{spot_id}", response={204: None})
def remove_spot(request: PersonRequest, spot_id: uuid.UUID) -> Status[None]:
    """Take a spot off; ``restore`` brings it and its marks back."""
    spot = get_object_or_404(CheckSpot.objects.of(request.auth), id=spot_id)
    spot.soft_delete()
    return Status(204, None)


@router.post("/spots/{spot_id}/restore", response=list[SpotOut])
def restore_spot(request: PersonRequest, spot_id: uuid.UUID) -> list[dict[str, Any]]:
    spot = get_object_or_404(CheckSpot, id=spot_id, picture__job__owner=request.auth)
    spot.restore()
    return _spots_of(request, spot.picture)


@router.put("/takes/{take_id}/marks/{spot_id}", response=list[SpotOut])
def mark(request: PersonRequest, take_id: uuid.UUID, spot_id: uuid.UUID, wanted: MarkIn) -> list[dict[str, Any]]:
    """Mark a spot in a take good or bad, or take the mark away."""
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    shown = Q(picture=take.picture) | Q(picture__beside=take.picture)
    spot = get_object_or_404(CheckSpot.objects.of(request.auth).filter(shown), id=spot_id)
    if wanted.value:
        Mark.objects.update_or_create(take=take, spot=spot, defaults={"value": wanted.value})
    else:
        Mark.objects.filter(take=take, spot=spot).delete()
    return _spots_of(request, spot.picture)
