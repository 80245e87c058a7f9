"""Where what a painted place is given best comes from; and places that might be painted over: dust, hairs, scratches, creases."""

from __future__ import annotations

import math
import time
import uuid
from functools import partial
from itertools import islice

import numpy as np
from ninja import Field, Router, Schema

from common.errors import Refused
from kitecore.filters.mending import FAR, best_offset
from kitecore.masks.strokes import Stroke, touched, weight
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.pixels import colours_of
from kitecore.pipeline.run import Run
from kitecore.reading.blemishes import Blemish, find_blemishes
from kitecore.reading.tracing import Kind
from kitecore.steps import OnePatch, Patch
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


#: Blemishes are looked for in at most so many pixels: in a larger scan they are larger as well.
_SEARCHED = 12_000_000
#: So many are proposed at most, the surest.
_MOST_PROPOSED = 200
#: How far searches are that go on here, by whose they are and in which take.
_going_on: dict[tuple[int, uuid.UUID], float] = {}


class Proposed(Schema):
    """A place that might be painted over, ready to be one of the step's patches."""

    patch: OnePatch
    kind: Kind
    sure: float = Field(description="How sure it is damage, 0..1.")


class BlemishSearch(Schema):
    """How far a search is."""

    share: float | None = Field(default=None, description="0..1; null while nothing is looked for, or not yet.")


@router.post("/takes/{take_id}/steps/{index}/blemishes", auth=signed_in, response=list[Proposed])
async def blemishes(request: PersonRequest, take_id: uuid.UUID, index: int) -> list[Proposed]:
    """Dust, hairs, scratches and creases in what the step is given, but for those its patches cover; the surest first.

    Calling the request off calls the search off.
    """
    search = request.auth.pk, take_id

    def work(run: Run) -> list[Proposed]:
        take = own_take(request, take_id)
        step, given = step_given(take, index)
        if not isinstance(step, Patch):
            raise Refused("This step patches nothing.")
        level = given.size.halved_until(_SEARCHED)
        size = given.size.reduced(level)
        to_source = given.mapping.reduced(given.size, size)
        try:
            with opened(take.picture) as picture:
                pixels = colours_of(picture.region(given, level, size.region, run))
            found = find_blemishes(pixels, run, partial(_going_on.__setitem__, search))
        finally:
            _going_on.pop(search, None)
        covered = [patch.stroke for patch in step.patches]
        fresh = (one for one in found if not any(_covers(stroke, one, to_source) for stroke in covered))
        return [_proposed(one, to_source) for one in islice(fresh, _MOST_PROPOSED)]

    return await pool.render(f"blemishes {take_id} {request.auth.pk}", time.monotonic_ns(), work)


@router.get("/takes/{take_id}/steps/{index}/blemishes", auth=signed_in, response=BlemishSearch)
async def blemish_search(request: PersonRequest, take_id: uuid.UUID, index: int) -> BlemishSearch:
    """How far the person's own search in a take is."""
    return BlemishSearch(share=_going_on.get((request.auth.pk, take_id)))


def _proposed(found: Blemish, to_source: Mapping) -> Proposed:
    xs, ys = to_source.to_source(*np.asarray(found.points, np.float64).T)
    points = [(round(float(x), 1), round(float(y), 1)) for x, y in zip(xs, ys, strict=True)]
    stroke = Stroke(points=points, size=max(1.0, round(found.size * to_source.scale, 1)), softness=15)
    return Proposed(patch=OnePatch(stroke=stroke, way="fill"), kind=found.kind, sure=round(found.sure, 3))


def _covers(stroke: Stroke, found: Blemish, to_source: Mapping) -> bool:
    """Whether the middle of a blemish lies under a stroke."""
    xs, ys = to_source.to_source(*np.asarray(found.points, np.float64).T)
    middle = len(xs) // 2
    points = np.asarray(stroke.points, np.float64)
    return bool(np.hypot(points[:, 0] - xs[middle], points[:, 1] - ys[middle]).min() < stroke.size / 2)
