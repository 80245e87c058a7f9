"""What the viewer sees: tiles of a take's result, exact at full size, and single pixels."""

from __future__ import annotations

import math
import time
import uuid
from collections.abc import Callable
from typing import Literal

from django.db import connection
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Header, Query, Router, Schema

from kitecore.cache import region_key
from kitecore.colour import Intent, png_of, screen_png
from kitecore.comparison import Histogram, clipping_marked, histogram, signed_difference, weights_marked
from kitecore.geometry import Region, Size
from kitecore.pixels import Pixels
from kitecore.preview import preview
from kitecore.proof import Proof, outside_gamut, proof_image
from kitecore.run import Run
from kitecore.source import Source
from kitecore.stage import ResampledStage
from kitecore.steps import AnyStep
from kitecore.take import MOST_STEPS, Plan
from kitecore.take import Take as CoreTake
from kitecore.take import plan as resolve
from kiteglass.errors import Conflict, Refused
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from printers.shelf import SHIPPED, printer_named
from takes.models import Take
from viewing.desk import desk
from viewing.memory import kept, region_cache
from viewing.sources import sources

router = Router(tags=["viewing"])

TILE_SIDE = 512
#: Pixels a tile shares with each neighbour, so that viewers can lay them down unstretched.
TILE_OVERLAP = 1
SCREEN_SIDE = 2048
LARGEST_CUT = 2048
#: Histograms and shares are of at most about this many pixels.
HISTOGRAM_PIXELS = 600_000


def _plan_of_chain(take: Take, chain: str) -> Plan:
    """The take's plan, its plain one or that of its first steps, whichever has this chain. Raises Conflict if none has."""
    whole = take.plan()
    if whole.plain.chain == chain:
        return whole.plain
    for count in range(len(whole.steps), -1, -1):
        part = whole.until(count)
        if part.chain == chain:
            return part
    raise Conflict("The take has changed since; look again.")


def _take(request: PersonRequest, take_id: uuid.UUID) -> Take:
    """A take of the person's; the connection of this thread is given back at once, since rendering may take long."""
    try:
        return get_object_or_404(Take.objects.of(request.auth), id=take_id)
    finally:
        connection.close()


def _kept_for_ever(content: bytes, content_type: str) -> HttpResponse:
    """A picture whose address names everything that decides its pixels."""
    response = HttpResponse(content, content_type=content_type)
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


def tile_region(size: Size, column: int, row: int) -> Region | None:
    """The pixels of one tile, overlap included; None outside a picture of ``size``."""
    if column * TILE_SIDE >= size.width or row * TILE_SIDE >= size.height:
        return None
    return Region.between(
        max(0, column * TILE_SIDE - TILE_OVERLAP),
        max(0, row * TILE_SIDE - TILE_OVERLAP),
        min(size.width, (column + 1) * TILE_SIDE + TILE_OVERLAP),
        min(size.height, (row + 1) * TILE_SIDE + TILE_OVERLAP),
    )


def _region(source: Source, resolved: Plan, sha256: str, level: int, region: Region, run: Run) -> Pixels:
    def render() -> Pixels:
        stage = resolved.stage(source.stage(resolved.source_reduction(level)), level, kept().of(sha256))
        return stage.render(region, run)

    return region_cache().get_or_render(region_key(sha256, resolved.chain, level, region), render, run.cancelled)


class Show(Schema):
    """What is shown of a result."""

    show: Literal["pixels", "clipping", "difference", "mask", "proof"] = "pixels"
    gain: float = Field(default=4.0, ge=1, le=64)
    step: int = Field(default=0, ge=0, description="Among the steps that are on, for masks.")
    against: str = Field(default="original", pattern=r"^(original|[0-9a-f-]{36})$")
    printer: str = Field(default=SHIPPED, max_length=36)
    intent: Intent = "relative"
    black_point: bool = True
    paper: bool = Field(default=False, description="Whether the paper is shown in its own white.")
    warn: bool = Field(default=False, description="Whether colours outside the printer's gamut are painted grey.")


@router.get("/takes/{take_id}/tiles/{chain}/{level}/{column}_{row}.png", auth=signed_in, include_in_schema=False)
async def tile(
    request: PersonRequest,
    take_id: uuid.UUID,
    chain: str,
    level: int,
    column: int,
    row: int,
    show: Query[Show],
    view: str = Header(default="", alias="X-Kite-View", max_length=100),
) -> HttpResponse:
    """One tile of 512×512 px (and a pixel of its neighbours) as lossless PNG in sRGB.

    ``chain`` is that of the take's result or of one of its first steps. ``level`` 0 is exact; level k is halved k
    times and approximate. The header ``X-Kite-View: viewer number`` says who looks: a later request of the same
    viewer with a higher number makes this one moot (409).
    ``show=mask`` tells where the step ``step`` works and how strongly; ``show=clipping`` paints what is clipped; ``show=difference`` tells how the result differs from another take of the
    same frame, or from the original plainly enlarged (``against=original``); ``show=proof`` how a printer would print it.
    """
    viewer, _, number = view.partition(" ")
    if not 0 <= level <= 16 or column < 0 or row < 0:
        raise Http404

    def work(run: Run) -> bytes:
        return _png(request, take_id, chain, level, lambda size: tile_region(size, column, row), run, show)

    content = await desk.render(viewer or uuid.uuid4().hex, int(number) if number.isdigit() else 0, work)
    return _picture(content, exact=level == 0)


@router.get("/takes/{take_id}/cuts/{chain}/{x}_{y}_{width}_{height}.png", auth=signed_in, include_in_schema=False)
async def cut(
    request: PersonRequest, take_id: uuid.UUID, chain: str, x: int, y: int, width: int, height: int
) -> HttpResponse:
    """Any region of at most 2048×2048 px, exact, as lossless PNG in sRGB; ``chain`` as for tiles, or the plain one."""
    region = Region(x, y, width, height)
    if max(width, height) > LARGEST_CUT:
        raise Http404

    def work(run: Run) -> bytes:
        return _png(request, take_id, chain, 0, lambda size: region if region.inside(size) else None, run)

    return _picture(await desk.render(uuid.uuid4().hex, 0, work), exact=True)


class Trial(Schema):
    """Steps to be looked at without being saved, and where: the middle of a cut of their result."""

    steps: list[AnyStep] = Field(max_length=MOST_STEPS)
    x: float = Field(description="Of the middle, as a share of the result's width, 0..1.", ge=0, le=1)
    y: float = Field(description="Of the middle, as a share of the result's height, 0..1.", ge=0, le=1)
    width: int = Field(ge=1, le=512, description="px of the result; less if the result is smaller.")
    height: int = Field(ge=1, le=512)


@router.post("/takes/{take_id}/trial", auth=signed_in, include_in_schema=False)
async def trial(request: PersonRequest, take_id: uuid.UUID, trial: Trial) -> HttpResponse:
    """A cut of what other steps would make of the take's picture, exact, as lossless PNG in sRGB. Nothing is saved."""

    def work(run: Run) -> bytes:
        take = _take(request, take_id)
        with sources.of(take.picture) as source:
            tried = resolve(CoreTake(steps=trial.steps), source.size)
            region = cut_around(tried.size, trial.x, trial.y, trial.width, trial.height)
            pixels = _region(source, tried, take.picture.original_id, 0, region, run)
            return screen_png(pixels, source.header.profile)

    content = await desk.render(uuid.uuid4().hex, 0, work)
    response = HttpResponse(content, content_type="image/png")
    response["Cache-Control"] = "no-store"
    return response


def cut_around(size: Size, x: float, y: float, width: int, height: int) -> Region:
    """A region of at most ``width``×``height`` px around a place (shares of the size), moved so that it lies inside."""
    width, height = min(width, size.width), min(height, size.height)
    left = min(max(0, round(x * size.width - width / 2)), size.width - width)
    top = min(max(0, round(y * size.height - height / 2)), size.height - height)
    return Region(left, top, width, height)


def _png(
    request: PersonRequest,
    take_id: uuid.UUID,
    chain: str,
    level: int,
    region_in: Callable[[Size], Region | None],
    run: Run,
    show: Show | None = None,
) -> bytes:
    """The region that ``region_in`` gives for a picture of that size, as PNG; Http404 where it gives none."""
    try:
        take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
        other = _compared_with(request, take, show.against) if show and show.show == "difference" else None
        printer = printer_named(request.auth, show.printer) if show and show.show == "proof" else None
    finally:
        connection.close()
    resolved = _plan_of_chain(take, chain)
    region = region_in(resolved.size.reduced(level))
    if region is None:
        raise Http404
    with sources.of(take.picture) as source:
        pixels = _region(source, resolved, take.picture.original_id, level, region, run)
        if show and printer:
            proof = Proof(show.intent, show.black_point, show.paper, show.warn)
            return png_of(proof_image(pixels, source.header.profile, printer, proof))
        if show and show.show == "clipping":
            return screen_png(clipping_marked(pixels), None)
        if show and show.show == "mask":
            if show.step >= len(resolved.steps):
                raise Http404
            reduced = source.stage(resolved.source_reduction(level))
            weights = resolved.weights(show.step, reduced, level, kept().of(take.picture.original_id))
            return screen_png(weights_marked(pixels, weights.render(region, run)), None)
        if show and other:
            reduced = source.stage(other.source_reduction(level))
            beneath = other.stage(reduced, level, kept().of(take.picture.original_id))
            below = ResampledStage(beneath, resolved.size.reduced(level))
            return screen_png(signed_difference(pixels, below.render(region, run), show.gain), None)
        return screen_png(pixels, source.header.profile)


def _compared_with(request: PersonRequest, take: Take, against: str) -> Plan:
    """The plan a take is compared with. Raises Refused if it does not show the same part of the picture."""
    resolved = take.plan()
    if against == "original":
        return resolved.plain
    other_take = get_object_or_404(Take.objects.of(request.auth), id=against, picture=take.picture)
    other = other_take.plan()
    if not other.framed_like(resolved):
        raise Refused(f"Take {other_take.name} is framed differently; a difference needs the same frame.")
    return other


def _picture(content: bytes, exact: bool) -> HttpResponse:
    response = _kept_for_ever(content, "image/png")
    response["X-Kite-Exact"] = "yes" if exact else "no"
    return response


@router.get("/pictures/{picture_id}/screen", auth=signed_in, include_in_schema=False)
async def screen(request: PersonRequest, picture_id: uuid.UUID) -> HttpResponse:
    """The whole picture as it came, at most 2048 px long: what a crop is drawn on."""

    def work(run: Run) -> bytes:
        try:
            picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
        finally:
            connection.close()
        with sources.of(picture) as source:
            return preview(source, SCREEN_SIDE)

    return _kept_for_ever(await desk.render(uuid.uuid4().hex, 0, work), "image/webp")


def _overview(take: Take, run: Run) -> tuple[Pixels, bytes | None]:
    """All of the result in at most about HISTOGRAM_PIXELS pixels, and their profile."""
    resolved = take.plan()
    level = max(0, math.ceil(math.log(resolved.size.pixels / HISTOGRAM_PIXELS, 4)))
    with sources.of(take.picture) as source:
        region = resolved.size.reduced(level).region
        return _region(source, resolved, take.picture.original_id, level, region, run), source.header.profile


@router.get("/takes/{take_id}/histogram", auth=signed_in, response=Histogram)
async def tones(request: PersonRequest, take_id: uuid.UUID) -> Histogram:
    """The result's histogram; of large results, of a reduced view."""

    def work(run: Run) -> Histogram:
        return histogram(_overview(_take(request, take_id), run)[0])

    return await desk.render(f"histogram {take_id} {request.auth.pk}", time.monotonic_ns(), work)


class GamutOut(Schema):
    """How much of a result a printer cannot print."""

    outside: float = Field(description="Share of its pixels, 0..1.")


@router.get("/takes/{take_id}/gamut", auth=signed_in, response=GamutOut)
async def gamut(request: PersonRequest, take_id: uuid.UUID, printer: str = SHIPPED) -> GamutOut:
    """The share of the result's pixels that lie outside a printer's gamut; of large results, of a reduced view."""

    def work(run: Run) -> GamutOut:
        take = _take(request, take_id)
        chosen = printer_named(request.auth, printer)
        connection.close()
        pixels, profile = _overview(take, run)
        return GamutOut(outside=float(outside_gamut(pixels, profile, chosen).mean()))

    return await desk.render(f"gamut {take_id} {request.auth.pk}", time.monotonic_ns(), work)


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
        take = _take(request, take_id)
        resolved = take.plan()
        if not (0 <= x < resolved.size.width and 0 <= y < resolved.size.height):
            raise Refused(f"There is no pixel at {x}, {y}; the result is {resolved.size} px.")
        framed = resolved.framed
        below_x = min(framed.size.width - 1, int((x + 0.5) * framed.size.width / resolved.size.width))
        below_y = min(framed.size.height - 1, int((y + 0.5) * framed.size.height / resolved.size.height))
        region = tile_region(resolved.size, x // TILE_SIDE, y // TILE_SIDE)
        assert region is not None
        with sources.of(take.picture) as source:
            pixels = _region(source, resolved, take.picture.original_id, 0, region, run)
            below = framed.stage(source.stage()).render(Region(below_x, below_y, 1, 1), run)[0, 0]
            bits = source.facts.bits
            top_value = 1.0 if bits == 32 else float((1 << bits) - 1)
        value = pixels[y - region.y, x - region.x]
        return PixelOut(
            x=x, y=y, bits=16, result=[round(float(sample) * 65535) for sample in value],
            source_x=below_x, source_y=below_y, source_bits=bits,
            source=[round(float(sample) * top_value, 4 if bits == 32 else 0) for sample in below],
        )  # fmt: skip

    return await desk.render(uuid.uuid4().hex, 0, work)
