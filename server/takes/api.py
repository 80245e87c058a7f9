"""Takes: their steps, saved as they change, and what they will make of the picture."""

from __future__ import annotations

import dataclasses
import uuid
from contextlib import suppress
from typing import Any, Literal

from django.db import transaction
from django.shortcuts import get_object_or_404
from ninja import Field, Query, Router, Schema, Status

from common.errors import Refused
from common.ordering import Ordering, put_in_order
from intake.receiving import received
from kitecore.comparison.alignment import align
from kitecore.engines import engines
from kitecore.errors import EngineError, KiteError
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Affine, Warp
from kitecore.pipeline.run import Run
from kitecore.steps import AnyStep, Enlarge
from kitecore.takes.plan import plan
from kitecore.takes.take import MOST_STEPS
from kitecore.takes.take import Take as CoreTake
from kitecore.values import EngineId
from people.signed_in import PersonRequest
from pictures.models import Picture
from rendering.sources import sources
from rendering.speed import seconds_for
from takes.access import own_take
from takes.models import Take

router = Router(tags=["takes"])


class Steps(Schema):
    steps: list[AnyStep] = Field(default_factory=list, max_length=MOST_STEPS)


class SizeOut(Schema):
    width: int
    height: int


class RegionOut(SizeOut):
    x: int
    y: int


class WarpOut(Schema):
    """Perspective, then distortion: ``matrix`` times (x, y, 1), then a distance r from the middle by the division model."""

    middle: tuple[float, float]
    radius: float
    bend: float
    gain: float
    matrix: list[float] = Field(description="Rows of 3×3.")


class MappingPart(Schema):
    """One of the two: x, y to a·x + b·y + c, d·x + e·y + f; or a picture that is bent."""

    affine: list[float] | None = None
    warp: WarpOut | None = None


class PlanOut(Schema):
    """What the take will make, known before anything is computed."""

    source: SizeOut
    canvas: SizeOut = Field(description="The turned picture, in which the crop is drawn.")
    crop: RegionOut = Field(description="The crop really used, in pixels of the canvas.")
    framed: SizeOut = Field(description="After frame, before enlarging.")
    size: SizeOut
    factor: float
    chain: str = Field(description="Names the result's pixels; part of the address of its tiles.")
    framed_chain: str = Field(description="The same for the picture after frame only: the original to compare with.")
    plain_chain: str = Field(description="The same for that original, plainly brought to the result's size.")
    to_source: list[MappingPart] = Field(
        description="From pixels of the result to those of the source, one part after the other."
    )
    seconds: float = Field(description="How long a delivery will take on this machine, about.")


class TakeOut(Schema):
    id: uuid.UUID
    picture_id: uuid.UUID
    name: str
    steps: list[AnyStep]
    verdict: Literal["good", "bad", ""]
    note: str
    chosen: bool
    outside: str | None = Field(description="The file this take shows, if it was made elsewhere and has no steps.")
    state: int
    can_undo: bool
    can_redo: bool
    plan: PlanOut | None
    problem: str | None = Field(description="Why these steps cannot be done on this picture, if so.")


class TakeChange(Schema):
    """What is left out stays as it is."""

    name: str | None = Field(default=None, min_length=1, max_length=60)
    note: str | None = Field(default=None, max_length=2000)
    verdict: Literal["good", "bad", ""] | None = None
    chosen: bool | None = None


class Engines(Schema):
    engines: list[EngineId] = Field(min_length=1, max_length=20)


def _size(size: Size | Region) -> dict[str, int]:
    return {"width": size.width, "height": size.height}


def _part(part: Affine | Warp) -> dict[str, Any]:
    return {"affine": list(part)} if isinstance(part, Affine) else {"warp": dataclasses.asdict(part)}


def _plan(take: Take) -> dict[str, Any]:
    resolved = take.plan()
    framed, frame = resolved.framed, resolved.frame
    before = framed.sizes[-2] if framed.steps else resolved.source
    crop = frame.region(before)
    return {
        "source": _size(resolved.source),
        "canvas": _size(frame.turned_size(before)),
        "crop": _size(crop) | {"x": crop.x, "y": crop.y},
        "framed": _size(framed.size),
        "size": _size(resolved.size),
        "factor": round(resolved.scale, 4),
        "chain": resolved.chain,
        "framed_chain": framed.chain,
        "plain_chain": resolved.plain.chain,
        "to_source": [_part(part) for part in resolved.mapping.parts],
        "seconds": seconds_for(resolved),
    }


def shown(take: Take) -> dict[str, Any]:
    resolved, problem = None, None
    try:
        resolved = _plan(take)
    except KiteError as error:
        problem = str(error)
    return {
        "id": take.id, "picture_id": take.picture_id, "name": take.name, "steps": take.core.steps,
        "verdict": take.verdict, "note": take.note, "chosen": take.chosen,
        "outside": take.made_elsewhere.name if take.made_elsewhere else None,
        "state": take.state.number if take.state else 0, "can_undo": take.can_undo, "can_redo": take.can_redo,
        "plan": resolved, "problem": problem,
    }  # fmt: skip


@router.post("/pictures/{picture_id}/takes", response={201: TakeOut})
def begin_take(request: PersonRequest, picture_id: uuid.UUID, steps: Steps) -> Status[dict[str, Any]]:
    """A new take, with the given steps (those of another take, to duplicate it)."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    return Status(201, shown(Take.objects.begin(picture, steps.model_dump(mode="json")["steps"])))


@router.post("/pictures/{picture_id}/outside", response={201: TakeOut})
def bring_outside(
    request: PersonRequest, picture_id: uuid.UUID, name: str = Query(max_length=1000)
) -> Status[dict[str, Any]]:
    """A take made elsewhere, to be compared: the request's body is the file, byte for byte.

    It is laid on the picture by scale, shift and a small turn; refused if it shows another picture.
    """
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    with received(name, request.read) as incoming, sources.of(picture) as source:
        found = align(incoming.source, source, Run())
        take = Take.objects.begin_outside(picture, incoming, found, source.header.profile)
    return Status(201, shown(take))


@router.get("/takes/{take_id}", response=TakeOut)
def get_take(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    return shown(own_take(request, take_id))


@router.put("/takes/{take_id}", response=TakeOut)
def save_take(request: PersonRequest, take_id: uuid.UUID, steps: Steps) -> dict[str, Any]:
    """Save the steps.

    Settings that are not valid, or cannot be done on this picture, are refused and nothing changes; an engine that is not on
    the shelf may come back to it: steps that need one are kept and explained.
    """
    take = own_take(request, take_id)
    if take.made_elsewhere:
        raise Refused(f"Take {take.name} was made elsewhere; it has no steps to be changed.")
    with suppress(EngineError):
        plan(CoreTake(steps=steps.steps), take.picture.size)
    take.save_steps(steps.model_dump(mode="json")["steps"])
    return shown(take)


@router.patch("/takes/{take_id}", response=TakeOut)
def change_take(request: PersonRequest, take_id: uuid.UUID, change: TakeChange) -> dict[str, Any]:
    """Rename a take, note what is thought of it, choose it or choose it no longer."""
    take = own_take(request, take_id)
    told = change.model_dump(exclude_none=True)
    for field in told.keys() & {"name", "note", "verdict"}:
        setattr(take, field, told[field])
    if change.chosen:
        take.choose()
    elif change.chosen is False:
        take.chosen = False
    take.save(update_fields=["name", "note", "verdict", "chosen"])
    return shown(take)


@router.delete("/takes/{take_id}", response={204: None})
def discard_take(request: PersonRequest, take_id: uuid.UUID) -> Status[None]:
    """Take a take off the picture. It is kept; ``restore`` brings it back."""
    take = own_take(request, take_id)
    take.chosen = False
    take.soft_delete()
    return Status(204, None)


@router.post("/takes/{take_id}/restore", response=TakeOut)
def restore_take(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    take = get_object_or_404(Take, id=take_id, picture__job__owner=request.auth)
    take.restore()
    return shown(take)


@router.post("/takes/{take_id}/engines", response={201: list[TakeOut]})
def try_engines(request: PersonRequest, take_id: uuid.UUID, wanted: Engines) -> Status[list[dict[str, Any]]]:
    """A take like this one for each of several engines, named after it; nothing is made if one cannot be used."""
    take = own_take(request, take_id)
    place = next((index for index, step in enumerate(take.core.steps) if isinstance(step, Enlarge)), None)
    if place is None:
        raise Refused("There is no enlarge step on this take to try engines in; add one first.")
    there = engines()
    made = []
    with transaction.atomic():
        for engine in wanted.engines:
            steps = list(take.core.steps)
            steps[place] = Enlarge.model_validate(steps[place].model_dump() | {"engine": engine, "blend": None})
            plan(CoreTake(steps=steps), take.picture.size)
            saved = [step.model_dump(mode="json") for step in steps]
            made.append(Take.objects.begin(take.picture, saved, there[engine].manifest.name))
    return Status(201, [shown(one) for one in made])


@router.get("/pictures/{picture_id}/takes", response=list[TakeOut])
def list_takes(request: PersonRequest, picture_id: uuid.UUID) -> list[dict[str, Any]]:
    """Every take of a picture, from the top."""
    get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    return [shown(take) for take in Take.objects.of(request.auth).filter(picture_id=picture_id)]


@router.post("/pictures/{picture_id}/takes/order", response={204: None})
def order_takes(request: PersonRequest, picture_id: uuid.UUID, order: Ordering) -> Status[None]:
    """Put the takes in this order; those not named follow."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    put_in_order(picture.takes.all(), order)
    return Status(204, None)


@router.post("/takes/{take_id}/undo", response=TakeOut)
def undo(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    take = own_take(request, take_id)
    take.move(-1)
    return shown(take)


@router.post("/takes/{take_id}/redo", response=TakeOut)
def redo(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    take = own_take(request, take_id)
    take.move(+1)
    return shown(take)
