"""Takes: their steps, saved as they change, and what they will make of the picture."""

from __future__ import annotations

import time
import uuid
from typing import Any

from django.db import connection
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema

from deliveries.speed import seconds_for
from kitecore.drift import Drift, measure_drift
from kitecore.errors import KiteError
from kitecore.geometry import Region, Size
from kitecore.run import Run
from kitecore.steps import AnyStep, Frame
from kitecore.take import MOST_STEPS, plan
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from takes.models import Take
from viewing.desk import desk
from viewing.sources import sources

router = Router(tags=["takes"])


class Steps(Schema):
    steps: list[AnyStep] = Field(default_factory=list, max_length=MOST_STEPS)


class SizeOut(Schema):
    width: int
    height: int


class RegionOut(SizeOut):
    x: int
    y: int


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
    seconds: float = Field(description="How long a delivery will take on this machine, about.")


class TakeOut(Schema):
    id: uuid.UUID
    picture_id: uuid.UUID
    name: str
    steps: list[AnyStep]
    state: int
    can_undo: bool
    can_redo: bool
    plan: PlanOut | None
    problem: str | None = Field(description="Why these steps cannot be done on this picture, if so.")


class TakeName(Schema):
    name: str = Field(min_length=1, max_length=60)


def _size(size: Size | Region) -> dict[str, int]:
    return {"width": size.width, "height": size.height}


def _plan(take: Take) -> dict[str, Any]:
    resolved = plan(take.core, take.picture.size)
    framing = next((i + 1 for i, step in enumerate(resolved.steps) if isinstance(step, Frame)), 0)
    frame = next((step for step in resolved.steps if isinstance(step, Frame)), Frame())
    before = resolved.sizes[max(0, framing - 1)]
    crop = frame.region(before)
    framed = resolved.until(framing)
    return {
        "source": _size(resolved.source),
        "canvas": _size(frame.turned_size(before)),
        "crop": _size(crop) | {"x": crop.x, "y": crop.y},
        "framed": _size(framed.size),
        "size": _size(resolved.size),
        "factor": round(resolved.scale, 4),
        "chain": resolved.chain,
        "framed_chain": framed.chain,
        "seconds": seconds_for(resolved.work, resolved.size.pixels),
    }


def _shown(take: Take) -> dict[str, Any]:
    resolved, problem = None, None
    try:
        resolved = _plan(take)
    except KiteError as error:
        problem = str(error)
    return {
        "id": take.id, "picture_id": take.picture_id, "name": take.name, "steps": take.core.steps,
        "state": take.state.number if take.state else 0, "can_undo": take.can_undo, "can_redo": take.can_redo,
        "plan": resolved, "problem": problem,
    }  # fmt: skip


def _take(request: PersonRequest, take_id: uuid.UUID) -> Take:
    return get_object_or_404(Take.objects.of(request.auth), id=take_id)


@router.post("/pictures/{picture_id}/takes", response={201: TakeOut})
def begin_take(request: PersonRequest, picture_id: uuid.UUID, steps: Steps) -> tuple[int, dict[str, Any]]:
    """A new take, with the given steps (those of another take, to duplicate it)."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    return 201, _shown(Take.objects.begin(picture, steps.model_dump(mode="json")["steps"]))


@router.get("/takes/{take_id}", response=TakeOut)
def get_take(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    return _shown(_take(request, take_id))


@router.put("/takes/{take_id}", response=TakeOut)
def save_take(request: PersonRequest, take_id: uuid.UUID, steps: Steps) -> dict[str, Any]:
    """Save the steps. Settings that are not valid are refused; those that do not fit the picture are kept and explained."""
    take = _take(request, take_id)
    take.save_steps(steps.model_dump(mode="json")["steps"])
    return _shown(take)


@router.patch("/takes/{take_id}", response=TakeOut)
def rename_take(request: PersonRequest, take_id: uuid.UUID, name: TakeName) -> dict[str, Any]:
    take = _take(request, take_id)
    take.name = name.name
    take.save(update_fields=["name"])
    return _shown(take)


@router.get("/takes/{take_id}/drift", auth=signed_in, response=Drift)
async def drift(request: PersonRequest, take_id: uuid.UUID) -> Drift:
    """How far tones and colours of the result are from those of the framed picture, measured on up to 25 areas."""

    def work(run: Run) -> Drift:
        try:
            take = _take(request, take_id)
        finally:
            connection.close()
        resolved = plan(take.core, take.picture.size)
        framing = next((i + 1 for i, step in enumerate(resolved.steps) if isinstance(step, Frame)), 0)
        with sources.of(take.picture) as source:
            framed, result = resolved.until(framing).stage(source.stage()), resolved.stage(source.stage())
            return measure_drift(framed, result, source.header.profile, run)

    return await desk.render(f"drift {take_id} {request.auth.pk}", time.monotonic_ns(), work)


@router.post("/takes/{take_id}/undo", response=TakeOut)
def undo(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    take = _take(request, take_id)
    take.move(-1)
    return _shown(take)


@router.post("/takes/{take_id}/redo", response=TakeOut)
def redo(request: PersonRequest, take_id: uuid.UUID) -> dict[str, Any]:
    take = _take(request, take_id)
    take.move(+1)
    return _shown(take)
