"""Pictures: bring them in, see their facts, take them out again."""

from __future__ import annotations

import uuid

from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Status

from common.store import store
from jobs.models import Job
from people.signed_in import PersonRequest
from pictures.models import Picture
from pictures.schemas import PictureOut

router = Router(tags=["pictures"])


@router.get("/jobs/{job_id}/pictures", response=list[PictureOut])
def list_pictures(request: PersonRequest, job_id: uuid.UUID) -> QuerySet[Picture]:
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    return Picture.objects.of(request.auth).filter(job=job).prefetch_related("takes")


@router.get("/pictures/{picture_id}", response=PictureOut)
def get_picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    return get_object_or_404(Picture.objects.of(request.auth).prefetch_related("takes"), id=picture_id)


@router.get("/pictures/{picture_id}/preview", include_in_schema=False)
def preview(request: PersonRequest, picture_id: uuid.UUID) -> HttpResponse:
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    try:
        content = store().read(picture.original.preview_path)
    except FileNotFoundError:
        raise Http404 from None
    response = HttpResponse(content, content_type="image/webp")
    # A camera raw shows its camera's picture until it has been read.
    lasting = "max-age=10" if picture.facts.get("raw") else "max-age=31536000, immutable"
    response["Cache-Control"] = f"private, {lasting}"
    return response


@router.delete("/pictures/{picture_id}", response={204: None})
def remove_picture(request: PersonRequest, picture_id: uuid.UUID) -> Status[None]:
    """Take a picture out of its job. Its original and takes stay; ``restore`` brings it back."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    picture.soft_delete()
    return Status(204, None)


@router.post("/pictures/{picture_id}/restore", response=PictureOut)
def restore_picture(request: PersonRequest, picture_id: uuid.UUID) -> Picture:
    picture = get_object_or_404(Picture, id=picture_id, job__owner=request.auth)
    picture.restore()
    return picture
