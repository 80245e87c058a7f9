"""Where what a painted place is given best comes from."""

from __future__ import annotations

import math
import uuid

import numpy as np
from ninja import Field, Router, Schema

from common.errors import Refused
from kitecore.filters.mending import FAR, best_offset
from kitecore.masks.strokes import Stroke, touched, weight
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import colours_of
from kitecore.pipeline.run import Run
from kitecore.steps import Patch
from people.signed_in import PersonRequest, signed_in
from rendering.pool import pool
from rendering.regions import opened
from takes.access import own_take, step_given

router = Router(tags=["viewing"])

#: What is looked through has at most about this many pixels; larger places are looked at in a reduced view.
_LOOKED_AT = 600_000
#: Without a place that is alike, what is taken lies beside: so many brushes to the right.
_BESIDE = 1.5


class PatchPlace(Schema):
    stroke: Stroke


class PatchSource(Schema):
    x: float = Field(description="How far to the right the other place lies, pixels of the upright source.")
    y: float = Field(description="How far below.")
    alike: bool = Field(description="Whether it was found; else it just lies beside.")


@router.post("/takes/{take_id}/steps/{index}/patch-source", auth=signed_in, response=PatchSource)
async def patch_source(request: PersonRequest, take_id: uuid.UUID, index: int, place: PatchPlace) -> PatchSource:
    """The place near a painted one whose surroundings are most like its own."""

    def work(run: Run) -> PatchSource:
        take = own_take(request, take_id)
        step, given = step_given(take, index)
        if not isinstance(step, Patch):
            raise Refused("This step patches nothing.")
        to_source = given.mapping
        reached = touched(place.stroke, given.size.region, to_source)
        if reached is None:
            raise Refused("That lies outside of what the frame leaves.")
        far = math.ceil((FAR + 1) * max(reached.width, reached.height)) + 32
        looked = reached.grown(far).intersection(given.size.region)
        assert looked is not None
        level = looked.size.halved_until(_LOOKED_AT)
        size = given.size.reduced(level)
        back = to_source.reduced(given.size, size)
        near = touched(place.stroke, size.region, back)
        seen = Region.between(
            looked.x >> level, looked.y >> level, min(size.width, looked.right >> level),
            min(size.height, looked.bottom >> level),
        )  # fmt: skip
        if near is None or (inside := near.intersection(seen)) is None:
            return _beside(place.stroke)
        with opened(take.picture) as picture:
            pixels = colours_of(picture.region(given, level, seen, run))
        where = np.zeros((seen.height, seen.width), np.bool_)
        where[inside.slices(seen)] = weight(place.stroke, inside, back) > 0
        spoilt = np.zeros_like(where)
        for other in (patch for patch in step.patches if patch.on):
            part = touched(other.stroke, seen, back)
            if part is not None:
                spoilt[part.slices(seen)] |= weight(other.stroke, part, back) > 0
        found = best_offset(pixels, where, spoilt, run) if where.any() else None
        if found is None:
            return _beside(place.stroke)
        x, y = inside.x + inside.width / 2, inside.y + inside.height / 2
        xs, ys = back.to_source(np.array([x, x + found.x]), np.array([y, y + found.y]))
        return PatchSource(x=round(float(xs[1] - xs[0]), 2), y=round(float(ys[1] - ys[0]), 2), alike=True)

    return await pool.render(f"patch {take_id} {request.auth.pk} {uuid.uuid4().hex}", 0, work)


def _beside(stroke: Stroke) -> PatchSource:
    return PatchSource(x=round(_BESIDE * stroke.size, 2), y=0, alike=False)
