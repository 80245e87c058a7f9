"""Pictures: bring them in, see their facts, take them out again."""

from __future__ import annotations

import uuid
from datetime import datetime

from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, Query, Router, Schema, Status

from jobs.models import Job
from kitecore.reading import Reading
from kitecore.source import Facts
from people.signed_in import PersonRequest
from pictures.intake import take_in
from pictures.models import Picture

router = Router(tags=["pictures"])


class TakeSummary(Schema):
    id: uuid.UUID
    name: str
    chosen: bool


class PictureOut(Schema):
    id: uuid.UUID
    job_id: uuid.UUID
    name: str
    facts: Facts
    sha256: str
    created: datetime
    takes: list[TakeSummary]
    reading: Reading | None = Field(description="What was measured; null until the worker has done so.")

    @staticmethod
    def resolve_sha256(picture: Picture) -> str:
        return picture.original_id

    @staticmethod
    def resolve_reading(picture: Picture) -> Reading | None:
        row = getattr(picture.original, "reading", None)
        return row.reading if row else None

    @staticmethod
    def resolve_takes(picture: Picture) -> list[object]:
        return [take for take in picture.takes.all() if take.removed is None]


@router.get("/jobs/{job_id}/pictures", response=list[PictureOut])
def list_pictures(request: PersonRequest, job_id: uuid.UUID) -> QuerySet[Picture]:
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    return Picture.objects.of(request.auth).filter(job=job).prefetch_related("takes")


@router.post("/jobs/{job_id}/pictures", response={201: PictureOut})
def add_picture(request: PersonRequest, job_id: uuid.UUID, name: str = Query(max_length=1000)) -> Status[Picture]:
    """Add a picture: the request's body is the file, byte for byte."""
    from takes.models import Take

    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    picture = take_in(job, name, request.read)
    Take.objects.begin(picture)
    return Status(201, picture)


@router.get("/pictures/{picture_id}", response=PictureOut)
def get_picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    return get_object_or_404(Picture.objects.of(request.auth).prefetch_related("takes"), id=picture_id)


@router.get("/pictures/{picture_id}/preview", include_in_schema=False)
def preview(request: PersonRequest, picture_id: uuid.UUID) -> HttpResponse:
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    try:
        content = picture.original.preview_path.read_bytes()
    except FileNotFoundError:
        raise Http404 from None
    response = HttpResponse(content, content_type="image/webp")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@router.delete("/pictures/{picture_id}", response={204: None})
def remove_picture(request: PersonRequest, picture_id: uuid.UUID) -> Status[None]:
    """Take a picture out of its job. Its original and takes stay; ``restore`` brings it back."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    picture.put_away()
    return Status(204, None)


@router.post("/pictures/{picture_id}/restore", response=PictureOut)
def restore_picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    picture = get_object_or_404(Picture, id=picture_id, job__owner=request.auth)
    picture.bring_back()
    return picture
