"""What a step is given: its tones, and where it would begin by them."""

from __future__ import annotations

import math
import time
import uuid

import numpy as np
from ninja import Field, Query, Router, Schema

from common.errors import Refused
from kitecore.colour.oklab import cones_of, to_oklab
from kitecore.colour.primaries import primaries_of
from kitecore.colour.transfer import transfer_of
from kitecore.comparison.difference import Histogram, histogram
from kitecore.pipeline.geometry import Place, Region
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.reading.tones import read_tones
from kitecore.steps import AnyStep, Faces
from kitecore.takes.departures import departures
from kitecore.takes.plan import Plan
from people.signed_in import PersonRequest, signed_in
from rendering.pool import pool
from rendering.regions import Opened, opened
from takes.access import own_take, step_given

router = Router(tags=["viewing"])

#: What a step is given is read in at most about this many pixels.
READ_PIXELS = 400_000
#: Half the side of the square that stands for a picked place, in pixels of what the step is given.
_PICKED = 2


class PlaceIn(Schema):
    x: float = Field(description="Pixels of the upright source.", allow_inf_nan=False)
    y: float = Field(allow_inf_nan=False)


class StartIn(Schema):
    place: PlaceIn | None = Field(
        default=None, description="A place that should be grey; null: the whole picture tells."
    )


class StartOut(Schema):
    """A step as the picture suggests it."""

    step: AnyStep
    reasons: list[str]


class ColourOut(Schema):
    """The colour of a place."""

    oklab: tuple[float, float, float] = Field(description="L 0..1, a and b about −0.4..0.4.")
    hue: float = Field(description="Degrees.")


def _overview(picture: Opened, given: Plan, run: Run) -> Pixels:
    level = given.size.halved_until(READ_PIXELS)
    return picture.region(given, level, given.size.reduced(level).region, run)


@router.get("/takes/{take_id}/steps/{index}/departures", auth=signed_in, response=list[float | None])
async def face_departures(request: PersonRequest, take_id: uuid.UUID, index: int) -> list[float | None]:
    """How far each face of a step of that kind departs from what it was, at the size of the source: means, of 255.

    Null for faces that are left as they are.
    """

    def work(run: Run) -> list[float | None]:
        take = own_take(request, take_id)
        step, given = step_given(take, index)
        if not isinstance(step, Faces):
            raise Refused("This step has no faces.")
        if not step.on:
            return [None] * len(step.faces)
        with opened(take.picture) as picture:
            found = departures(take.plan(), len(given.steps), picture.source.stage(), run, picture.cache)
        return [None if one is None else round(255 * one, 2) for one in found]

    return await pool.render_beside(work)


@router.get("/takes/{take_id}/steps/{index}/tones", auth=signed_in, response=Histogram)
async def tones_given(request: PersonRequest, take_id: uuid.UUID, index: int) -> Histogram:
    """The histogram of what a step of a take is given; of large pictures, of a reduced view."""

    def work(run: Run) -> Histogram:
        take = own_take(request, take_id)
        _, given = step_given(take, index)
        with opened(take.picture) as picture:
            return histogram(_overview(picture, given, run))

    return await pool.render(f"tones given {take_id} {request.auth.pk}", time.monotonic_ns(), work)


@router.get("/takes/{take_id}/steps/{index}/colour", auth=signed_in, response=ColourOut)
async def colour(
    request: PersonRequest, take_id: uuid.UUID, index: int, place: Query[PlaceIn], original: bool = False
) -> ColourOut:
    """The colour of a place in what a step is given, or in the framed original."""

    def work(run: Run) -> ColourOut:
        take = own_take(request, take_id)
        _, given = step_given(take, index)
        with opened(take.picture) as picture:
            plan = given.framed if original else given
            light = np.array(_light_at(picture, plan, Place(place.x, place.y), run), np.float32)
            lab = to_oklab(light.reshape(1, 1, 3), cones_of(primaries_of(picture.profile)))[0, 0]
        tone, a, b = (float(value) for value in lab)
        return ColourOut(oklab=(tone, a, b), hue=math.degrees(math.atan2(b, a)) % 360)

    return await pool.render(f"colour {take_id} {request.auth.pk}", time.monotonic_ns(), work)


@router.post("/takes/{take_id}/steps/{index}/start", auth=signed_in, response=StartOut)
async def start(request: PersonRequest, take_id: uuid.UUID, index: int, body: StartIn) -> StartOut:
    """The step as the picture it is given suggests it, with reasons; nothing is changed."""

    def work(run: Run) -> StartOut:
        take = own_take(request, take_id)
        step, given = step_given(take, index)
        if ("grey" if body.place else "picture") not in step.starts_from:
            raise Refused(f"A {step.title} is not set from the picture in this way.")
        with opened(take.picture) as picture:
            place = _light_at(picture, given, Place(body.place.x, body.place.y), run) if body.place else None
            seen = read_tones(_overview(picture, given, run), picture.profile)
        started, reasons = step.started(seen, place)
        return StartOut(step=started, reasons=reasons)  # type: ignore[arg-type]  # it is of the kind that it was

    return await pool.render(f"start {take_id} {request.auth.pk}", time.monotonic_ns(), work)


def _light_at(picture: Opened, given: Plan, place: Place, run: Run) -> tuple[float, float, float]:
    """Linear light around a place of the source, in what a step is given. Raises Refused where it has been cut off."""
    at = given.place_in_result(place)
    if not at.inside(given.size):
        raise Refused("That place has been cut off by the frame; pick one inside it.")
    around = Region(int(at.x) - _PICKED, int(at.y) - _PICKED, 2 * _PICKED + 1, 2 * _PICKED + 1)
    region = around.intersection(given.size.region)
    assert region is not None  # the place lies inside
    light = transfer_of(picture.profile).light(colours_of(picture.region(given, 0, region, run)))
    mean = light.reshape(-1, light.shape[2]).mean(axis=0)
    red, green, blue = (float(value) for value in (mean if len(mean) == 3 else mean.repeat(3)))
    return red, green, blue
