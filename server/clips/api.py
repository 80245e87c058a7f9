"""Clips: bring them in, look at their frames, take stills from them."""

from __future__ import annotations

import time
import uuid
from datetime import datetime
from typing import Annotated, Literal

import cv2
import numpy as np
from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Query, Router, Schema, Status

from clips.decoders import decoders
from clips.models import Clip, Curve, Moments
from clips.receiving import take_in_clip
from clips.stills import fused_still, pulled
from clips.tasks import looks_path, order_curve, order_moments
from common.errors import Refused
from common.store import store
from jobs.models import Job
from kitecore.colour.screen import screen_image, screen_samples
from kitecore.files.clip.facts import ClipFacts
from kitecore.files.clip.looks import look_near
from kitecore.pipeline.run import Run
from people.signed_in import PersonRequest, signed_in
from pictures.models import Picture
from pictures.schemas import PictureOut
from rendering.pool import pool

router = Router(tags=["clips"])

MOST_PULLED, MOST_FUSED = 40, 24
#: Frames of a film strip, and how high they are.
_STRIP, _STRIP_HEIGHT = 24, 54

Frame = Annotated[int, Field(ge=0, description="From 0.")]


class ClipOut(Schema):
    id: uuid.UUID
    job_id: uuid.UUID
    name: str
    facts: ClipFacts
    created: datetime


class TimesOut(Schema):
    times: list[float] = Field(description="When each frame begins, seconds from the first.")
    codes: list[str] = Field(description="Its time code.")


class CurveOut(Schema):
    state: str
    progress: float
    message: str
    curve: Curve | None


class MomentsOut(Schema):
    state: str = Field(description="“waiting” while the curve is being made, which comes first.")
    progress: float
    message: str
    moments: Moments | None


class PullIn(Schema):
    frames: list[Frame] = Field(min_length=1, max_length=MOST_PULLED)


class FuseIn(Schema):
    first: Frame
    last: Frame
    best: Frame = Field(description="The one the result lies upon.")
    factor: Literal[1, 2] = Field(default=1, description="2: on a grid twice as fine.")


class LookIn(Schema):
    side: int = Field(default=1280, ge=16, le=8192, description="Longest side, px.")


def _own(request: PersonRequest, clip_id: uuid.UUID) -> Clip:
    return get_object_or_404(Clip.objects.of(request.auth), id=clip_id)


@router.post("/jobs/{job_id}/clips", response={201: ClipOut})
def add_clip(request: PersonRequest, job_id: uuid.UUID, name: str = Query(max_length=1000)) -> Status[Clip]:
    """Add a clip: the request's body is the file, byte for byte."""
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    return Status(201, take_in_clip(job, name, request.read))


@router.get("/jobs/{job_id}/clips", response=list[ClipOut])
def list_clips(request: PersonRequest, job_id: uuid.UUID) -> QuerySet[Clip]:
    return Clip.objects.of(request.auth).filter(job=get_object_or_404(Job.objects.of(request.auth), id=job_id))


@router.get("/clips/{clip_id}", response=ClipOut)
def get_clip(request: PersonRequest, clip_id: uuid.UUID) -> Clip:
    return _own(request, clip_id)


@router.delete("/clips/{clip_id}", response={204: None})
def remove_clip(request: PersonRequest, clip_id: uuid.UUID) -> Status[None]:
    """Take a clip out of its job; ``restore`` brings it back. Stills that were taken from it stay."""
    _own(request, clip_id).soft_delete()
    return Status(204, None)


@router.post("/clips/{clip_id}/restore", response=ClipOut)
def restore_clip(request: PersonRequest, clip_id: uuid.UUID) -> Clip:
    clip = get_object_or_404(Clip, id=clip_id, job__owner=request.auth)
    clip.restore()
    return clip


@router.get("/clips/{clip_id}/times", response=TimesOut)
def times(request: PersonRequest, clip_id: uuid.UUID) -> TimesOut:
    """When each frame begins."""
    with decoders.of(_own(request, clip_id)) as opened:
        codes = [opened.code(index) for index in range(opened.facts.frames)]
        return TimesOut(times=[float(time) for time in opened.times], codes=codes)


@router.get("/clips/{clip_id}/curve", response=CurveOut)
def curve(request: PersonRequest, clip_id: uuid.UUID) -> CurveOut:
    """How sharp each frame is; made by a worker when it is first asked for."""
    row = order_curve(_own(request, clip_id))
    return CurveOut(state=row.state, progress=row.progress, message=row.message, curve=row.curve)


@router.get("/clips/{clip_id}/moments", response=MomentsOut)
def moments(request: PersonRequest, clip_id: uuid.UUID) -> MomentsOut:
    """Moments in which people look well; looked for by a worker when they are first asked for."""
    row = order_moments(_own(request, clip_id))
    if row is None:
        return MomentsOut(state="waiting", progress=0, message="", moments=None)
    return MomentsOut(state=row.state, progress=row.progress, message=row.message, moments=row.moments)


@router.get("/clips/{clip_id}/looks/{index}", include_in_schema=False)
def look(request: PersonRequest, clip_id: uuid.UUID, index: int) -> HttpResponse:
    """A frame as a small JPEG, or in long clips one just before it, at once; there is none before the curve is made."""
    clip = _own(request, clip_id)
    try:
        content = look_near(store().here(looks_path(clip.original)), index, clip.facts["frames"])
    except FileNotFoundError:
        content = None
    if content is None:
        raise Http404
    return _jpeg(content)


@router.get("/clips/{clip_id}/frames/{index}", include_in_schema=False, auth=signed_in)
async def frame(request: PersonRequest, clip_id: uuid.UUID, index: int, look: Query[LookIn]) -> HttpResponse:
    """A frame as a JPEG, to be looked at; with a ``side`` at least as long as its own, pixel for pixel."""

    def work(run: Run) -> bytes:
        clip = _own(request, clip_id)
        if not 0 <= index < clip.facts["frames"]:
            raise Refused("The clip has no such frame.")
        with decoders.of(clip) as opened:
            image = screen_image(opened.look(index, look.side), opened.profile)
        content: bytes = image.jpegsave_buffer(Q=90, keep="none")
        return content

    return _jpeg(await pool.render(f"frame {clip_id} {request.auth.pk}", time.monotonic_ns(), work))


@router.get("/clips/{clip_id}/strip", include_in_schema=False, auth=signed_in)
async def strip(request: PersonRequest, clip_id: uuid.UUID) -> HttpResponse:
    """A film strip: frames from beginning to end, side by side, as a JPEG."""

    def work(run: Run) -> bytes:
        clip = _own(request, clip_id)
        with decoders.of(clip) as opened:
            facts, shown = opened.facts, []
            width = max(8, round(_STRIP_HEIGHT * facts.width / facts.height))
            for index in np.linspace(0, facts.frames - 1, _STRIP).astype(int):
                run.check()
                seen = screen_samples(opened.look(int(index), max(width, _STRIP_HEIGHT)), opened.profile)
                shown.append(cv2.resize(seen, (width, _STRIP_HEIGHT), interpolation=cv2.INTER_AREA))
        _, content = cv2.imencode(".jpg", np.hstack(shown)[..., ::-1])
        return content.tobytes()

    return _jpeg(await pool.render(f"strip {clip_id} {request.auth.pk}", time.monotonic_ns(), work))


@router.post("/clips/{clip_id}/pull", response={201: list[PictureOut]}, auth=signed_in)
async def pull(request: PersonRequest, clip_id: uuid.UUID, wanted: PullIn) -> Status[list[Picture]]:
    """Frames become pictures of the job, 16 bit, named by their time codes."""

    def work(run: Run) -> list[Picture]:
        clip = _own(request, clip_id)
        _check(clip, *wanted.frames)
        with decoders.of(clip) as opened:
            made = [pulled(clip, opened, index) for index in dict.fromkeys(wanted.frames)]
        return _whole(made)

    return Status(201, await pool.render_beside(work))


@router.post("/clips/{clip_id}/fuse", response={201: PictureOut}, auth=signed_in)
async def fuse(request: PersonRequest, clip_id: uuid.UUID, wanted: FuseIn) -> Status[Picture]:
    """A run of neighbouring frames becomes one cleaner picture of the job."""

    def work(run: Run) -> Picture:
        clip = _own(request, clip_id)
        _check(clip, wanted.first, wanted.last, wanted.best)
        if not wanted.first <= wanted.best <= wanted.last or wanted.first == wanted.last:
            raise Refused("Mark two frames or more, and one of them for the result to lie upon.")
        if wanted.last - wanted.first >= MOST_FUSED:
            raise Refused(f"At most {MOST_FUSED} neighbouring frames are fused; mark a shorter range.")
        with decoders.of(clip) as opened:
            made = fused_still(clip, opened, wanted.first, wanted.last, wanted.best, wanted.factor, run)
        return _whole([made])[0]

    return Status(201, await pool.render_beside(work))


def _whole(pictures: list[Picture]) -> list[Picture]:
    """With all that is told of them, so that telling it asks the database nothing more."""
    keys = [picture.pk for picture in pictures]
    found = Picture.objects.filter(pk__in=keys).select_related("original__reading").prefetch_related("takes").in_bulk()
    return [found[key] for key in keys]


def _check(clip: Clip, *frames: int) -> None:
    if any(index >= clip.facts["frames"] for index in frames):
        raise Refused(f"{clip.name} has {clip.facts['frames']} frames; one of those asked for is beyond them.")


def _jpeg(content: bytes) -> HttpResponse:
    response = HttpResponse(content, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response
