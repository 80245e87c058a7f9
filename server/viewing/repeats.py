"""How the texture that a step is given repeats."""

from __future__ import annotations

import time
import uuid

from ninja import Field, Router, Schema

from kitecore.pipeline.pixels import colours_of
from kitecore.pipeline.run import Run
from kitecore.reading.period import Repeats, repeats_of
from people.signed_in import PersonRequest, signed_in
from rendering.pool import pool
from rendering.regions import opened
from takes.access import own_take, step_given

router = Router(tags=["viewing"])

#: Textures are looked at in at most about this many pixels.
_LOOKED_AT = 4_000_000


class Side(Schema):
    """Along one side."""

    period: float | None = Field(description="Pixels after which it comes again; null if it does not.")
    whole: int = Field(description="The longest part that holds whole periods, pixels.")
    overlap: float = Field(description="How much of it best lies over its opposite end, percent.")


class RepeatsOut(Schema):
    across: Side
    down: Side


@router.get("/takes/{take_id}/steps/{index}/repeats", auth=signed_in, response=RepeatsOut)
async def repeats(request: PersonRequest, take_id: uuid.UUID, index: int) -> RepeatsOut:
    """How what a step of a take is given repeats; of large pictures, told by a reduced view."""

    def work(run: Run) -> RepeatsOut:
        take = own_take(request, take_id)
        _, given = step_given(take, index)
        level = given.size.halved_until(_LOOKED_AT)
        with opened(take.picture) as picture:
            size = given.size.reduced(level)
            across, down = repeats_of(colours_of(picture.region(given, level, size.region, run)), run)
        return RepeatsOut(
            across=_side(across, size.width, given.size.width), down=_side(down, size.height, given.size.height)
        )

    return await pool.render(f"repeats {take_id} {request.auth.pk}", time.monotonic_ns(), work)


def _side(found: Repeats, seen: int, full: int) -> Side:
    scale = full / seen
    period = None if found.period is None else round(found.period * scale, 2)
    return Side(
        period=period, whole=min(full, round(found.whole * scale)), overlap=round(100 * found.overlap / seen, 2)
    )
