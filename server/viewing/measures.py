"""What is measured in a result while it is looked at: its histogram, its gamut, single pixels."""

from __future__ import annotations

import time
import uuid

from ninja import Field, Router, Schema

from common.errors import Refused
from kitecore.colour.soft_proof import outside_gamut
from kitecore.comparison.colour_shift import ColourShift, measure_colour_shift
from kitecore.comparison.difference import Histogram, histogram
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from people.signed_in import PersonRequest, signed_in
from printers.shelf import SHIPPED, printer_named
from rendering.pool import pool
from rendering.regions import opened
from takes.access import own_take
from takes.models import Take
from viewing.tiles import tile_of_pixel

router = Router(tags=["viewing"])

#: Histograms and shares are of at most about this many pixels.
HISTOGRAM_PIXELS = 600_000


def _overview(take: Take, run: Run) -> tuple[Pixels, bytes | None]:
    """All of the result in at most about HISTOGRAM_PIXELS pixels, and their profile."""
    resolved = take.plan()
    level = resolved.size.halved_until(HISTOGRAM_PIXELS)
    with opened(take.picture) as picture:
        return picture.region(resolved, level, resolved.size.reduced(level).region, run), picture.profile


@router.get("/takes/{take_id}/histogram", auth=signed_in, response=Histogram)
async def tones(request: PersonRequest, take_id: uuid.UUID) -> Histogram:
    """The result's histogram; of large results, of a reduced view."""

    def work(run: Run) -> Histogram:
        return histogram(_overview(own_take(request, take_id), run)[0])

    return await pool.render(f"histogram {take_id} {request.auth.pk}", time.monotonic_ns(), work)


@router.get("/takes/{take_id}/colour-shift", auth=signed_in, response=ColourShift)
async def colour_shift(request: PersonRequest, take_id: uuid.UUID) -> ColourShift:
    """How far tones and colours of the result are from those of the framed picture, measured on up to 25 areas."""

    def work(run: Run) -> ColourShift:
        take = own_take(request, take_id)
        resolved = take.plan()
        with opened(take.picture) as picture:
            framed, result = picture.stage_of(resolved.framed), picture.stage_of(resolved)
            return measure_colour_shift(framed, result, picture.profile, run)

    return await pool.render(f"colour shift {take_id} {request.auth.pk}", time.monotonic_ns(), work)


class GamutOut(Schema):
    """How much of a result a printer cannot print."""

    outside: float = Field(description="Share of its pixels, 0..1.")


@router.get("/takes/{take_id}/gamut", auth=signed_in, response=GamutOut)
async def gamut(request: PersonRequest, take_id: uuid.UUID, printer: str = SHIPPED) -> GamutOut:
    """The share of the result's pixels that lie outside a printer's gamut; of large results, of a reduced view."""

    def work(run: Run) -> GamutOut:
        take = own_take(request, take_id)
        chosen = printer_named(request.auth, printer)
        pixels, profile = _overview(take, run)
        return GamutOut(outside=float(outside_gamut(pixels, profile, chosen).mean()))

    return await pool.render(f"gamut {take_id} {request.auth.pk}", time.monotonic_ns(), work)


class PixelOut(Schema):
    """The samples under the pointer."""

    x: int
    y: int
    bits: int
    result: list[int] = []
    source_x: int
    source_y: int
    source_bits: int
    source: list[float]


@router.get("/takes/{take_id}/pixel", auth=signed_in, response=PixelOut)
async def pixel(request: PersonRequest, take_id: uuid.UUID, x: int, y: int) -> PixelOut:
    """A pixel of the result in 16 bits, and the framed source's pixel below it in the file's own depth."""

    def work(run: Run) -> PixelOut:
        take = own_take(request, take_id)
        resolved = take.plan()
        if not (0 <= x < resolved.size.width and 0 <= y < resolved.size.height):
            raise Refused(f"There is no pixel at {x}, {y}; the result is {resolved.size} px.")
        framed = resolved.framed
        below_x = min(framed.size.width - 1, int((x + 0.5) * framed.size.width / resolved.size.width))
        below_y = min(framed.size.height - 1, int((y + 0.5) * framed.size.height / resolved.size.height))
        region = tile_of_pixel(resolved.size, x, y)
        with opened(take.picture) as picture:
            pixels = picture.region(resolved, 0, region, run)
            below = picture.stage_of(framed).render(Region(below_x, below_y, 1, 1), run)[0, 0]
            bits = picture.source.facts.bits
            top_value = 1.0 if bits == 32 else float((1 << bits) - 1)
        value = pixels[y - region.y, x - region.x]
        return PixelOut(
            x=x, y=y, bits=16, result=[round(float(sample) * 65535) for sample in value],
            source_x=below_x, source_y=below_y, source_bits=bits,
            source=[round(float(sample) * top_value, 4 if bits == 32 else 0) for sample in below],
        )  # fmt: skip

    return await pool.render(uuid.uuid4().hex, 0, work)
