"""What the viewer sees: tiles of a take's result, exact at full size; cuts; trials; the whole picture as it came."""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Header, Query, Router, Schema

from common.addresses import is_here
from common.errors import Conflict
from kitecore.colour.screen import png_of, screen_image, screen_png
from kitecore.files.preview import preview
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.steps import AnyStep
from kitecore.takes.plan import Plan
from kitecore.takes.plan import plan as resolve
from kitecore.takes.take import MOST_STEPS
from kitecore.takes.take import Take as CoreTake
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from rendering.pool import pool
from rendering.regions import opened
from rendering.sources import sources
from takes.access import own_take
from takes.models import Take
from viewing.looks import Show, View, look_for, striped_image
from viewing.tiles import cut_around, seen_around, tile_region, tile_side

router = Router(tags=["viewing"])

SCREEN_SIDE = 2048
LARGEST_CUT = 2048
#: Longest side of what follows a control that is dragged, and most that may be asked for, px.
LIVE_SIDE, LARGEST_LIVE = 640, 1600
DEEPEST_LEVEL = 32


def _plan_of_chain(take: Take, chain: str) -> Plan:
    """Of the take's plans, its plain ones and those of its first steps, the one that has this chain.

    Raises Conflict if none has.
    """
    for whole in take.plans():
        if whole.plain.chain == chain:
            return whole.plain
        for count in range(len(whole.steps), -1, -1):
            part = whole.until(count)
            if part.chain == chain:
                return part
    raise Conflict("The take has changed since; look again.")


def _kept_for_ever(content: bytes, content_type: str) -> HttpResponse:
    """A picture whose address names everything that decides its pixels."""
    response = HttpResponse(content, content_type=content_type)
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


def _picture(content: bytes, exact: bool) -> HttpResponse:
    response = _kept_for_ever(content, "image/png")
    response["X-Kite-Exact"] = "yes" if exact else "no"
    return response


def _png(
    request: PersonRequest, take_id: uuid.UUID, chain: str, level: int, region_in: Callable[[Size], Region | None],
    show: Show, run: Run,
) -> bytes:  # fmt: skip
    """The region that ``region_in`` gives for a picture of that size, as PNG; Http404 where it gives none."""
    take, look = own_take(request, take_id), look_for(show)
    resolved = _plan_of_chain(take, chain)
    look.prepare(request.auth, take, resolved)
    region = region_in(resolved.size.reduced(level))
    if region is None:
        raise Http404
    with opened(take.picture) as picture:
        pixels = picture.region(resolved, level, region, run)
        if level:
            sources.decode_soon(take.picture, lambda: pool.busy)
        painted = look.paint(pixels, View(picture, resolved, level, region, run))
    return png_of(painted, packed=not is_here(request))


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
    ahead: bool = Header(default=False, alias="X-Kite-Ahead"),
    seen: str = Header(default="", alias="X-Kite-Seen", max_length=60),
) -> HttpResponse:
    """One tile of 512×512 px, of 256×256 px at full size (and a pixel of its neighbours), as lossless PNG in sRGB.

    ``chain`` is that of the take's result or of one of its first steps. ``level`` 0 is exact; at
    the others one pixel stands for 2, 3, 4, 6, 8, 12 … a side, and they are approximate. The header ``X-Kite-View: viewer
    number`` says who looks: a later request of the same viewer with a higher number makes this one moot (409). With
    ``X-Kite-Ahead: true`` nobody waits for it yet: it gives way to everything else (409).
    ``X-Kite-Seen: left top right bottom`` tells what is in view, in pixels of the level: what slow steps compute there is
    computed together.
    ``show=mask`` tells where the step ``step`` works and how strongly; ``show=clipping`` paints what is clipped;
    ``show=difference`` tells how the result differs from another take of the same frame, or from the original plainly
    enlarged (``against=original``); ``show=proof`` how a printer would print it.
    """
    viewer, _, number = view.partition(" ")
    if not 0 <= level <= DEEPEST_LEVEL or column < 0 or row < 0:
        raise Http404

    def work(run: Run) -> bytes:
        return _png(request, take_id, chain, level, lambda size: tile_region(size, level, column, row), show, run)

    if ahead:
        return _picture(await pool.render_ahead(work), exact=level == 0)
    side = tile_side(level)
    around = seen_around(Region(column * side, row * side, side, side), seen)
    turn = int(number) if number.isdigit() else 0
    content = await pool.render(viewer or uuid.uuid4().hex, turn, work, around)
    return _picture(content, exact=level == 0)


@router.get("/takes/{take_id}/cuts/{chain}/{x}_{y}_{width}_{height}.png", auth=signed_in, include_in_schema=False)
async def cut(
    request: PersonRequest, take_id: uuid.UUID, chain: str, x: int, y: int, width: int, height: int, show: Query[Show],
    ahead: bool = Header(default=False, alias="X-Kite-Ahead"),
) -> HttpResponse:  # fmt: skip
    """Any region of at most 2048×2048 px, exact, as lossless PNG in sRGB; ``chain`` and ``show`` as for tiles."""
    region = Region(x, y, width, height)
    if max(width, height) > LARGEST_CUT:
        raise Http404

    def work(run: Run) -> bytes:
        return _png(request, take_id, chain, 0, lambda size: region if region.inside(size) else None, show, run)

    rendering = pool.render_ahead(work) if ahead else pool.render(uuid.uuid4().hex, 0, work)
    return _picture(await rendering, exact=True)


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
        take = own_take(request, take_id)
        with opened(take.picture) as picture:
            tried = resolve(CoreTake(steps=trial.steps), picture.source.size)
            region = cut_around(tried.size, trial.x, trial.y, trial.width, trial.height)
            return screen_png(picture.region(tried, 0, region, run), picture.profile)

    content = await pool.render_beside(work)
    response = HttpResponse(content, content_type="image/png")
    response["Cache-Control"] = "no-store"
    return response


class Live(Schema):
    """Steps that are being changed, to be seen at once."""

    steps: list[AnyStep] = Field(max_length=MOST_STEPS)
    side: int = Field(
        default=LIVE_SIDE, ge=16, le=LARGEST_LIVE, description="Most that the result's longer side is, px."
    )
    stripes: bool = Field(default=False, description="Whether stripes lie over what is clipped.")


@router.post("/takes/{take_id}/live", auth=signed_in, include_in_schema=False)
async def live(request: PersonRequest, take_id: uuid.UUID, wanted: Live) -> HttpResponse:
    """All of what other steps would make of the take's picture, small and approximate, as PNG in sRGB.

    For as long as a control is dragged: a newer request of the same person makes an older one moot. Nothing is saved or kept.
    """

    def work(run: Run) -> bytes:
        take = own_take(request, take_id)
        with opened(take.picture) as picture:
            tried = resolve(CoreTake(steps=wanted.steps), picture.source.size)
            level = tried.size.level_within(wanted.side)
            stage = picture.stage_of(tried, level)
            whole = stage.size.region
            pixels = stage.render(whole, run)
            if wanted.stripes:
                shown = striped_image(pixels, picture.profile, whole)
            else:
                shown = screen_image(pixels, picture.profile)
            return png_of(shown, packed=not is_here(request))

    content = await pool.render(f"live {take_id} {request.auth.pk}", time.monotonic_ns(), work)
    response = HttpResponse(content, content_type="image/png")
    response["Cache-Control"] = "no-store"
    return response


@router.get("/pictures/{picture_id}/screen", auth=signed_in, include_in_schema=False)
async def screen(request: PersonRequest, picture_id: uuid.UUID) -> HttpResponse:
    """The whole picture as it came, at most 2048 px long: what a crop is drawn on."""

    def work(run: Run) -> bytes:
        picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
        with sources.of(picture) as source:
            return preview(source, SCREEN_SIDE)

    return _kept_for_ever(await pool.render(uuid.uuid4().hex, 0, work), "image/webp")
