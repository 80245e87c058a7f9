"""Jobs: the shelf, and what was ordered."""

from __future__ import annotations

import uuid
from datetime import datetime

from django.db.models import Count, Prefetch, Q, QuerySet
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from common.errors import Refused
from jobs.models import Job
from jobs.orders import PrintOrder
from kitecore.colour.spaces import SPACES
from kitecore.files.raw.camera import WIDE, WideSpace
from people.signed_in import PersonRequest

router = Router(tags=["jobs"])


class JobIn(Schema):
    title: str = Field(min_length=1, max_length=120)
    client: str = Field(default="", max_length=120)
    note: str = Field(default="", max_length=4000)
    order: PrintOrder | None = None
    space: WideSpace = Field(default=WIDE, description="What camera raws are developed to; once for all of a job's.")


class JobOut(JobIn):
    id: uuid.UUID
    created: datetime
    modified: datetime
    picture_count: int = 0
    delivery_count: int = 0
    done_count: int = Field(default=0, description="Pictures of which a file was delivered.")
    cover: uuid.UUID | None = Field(default=None, description="A picture to show on the shelf.")

    @staticmethod
    def resolve_cover(job: Job) -> uuid.UUID | None:
        first = next(iter(getattr(job, "shown_pictures", [])), None)
        return first.id if first else None


def _listed(request: PersonRequest) -> QuerySet[Job]:
    # Pictures stand above jobs; what is asked of them here goes by the relation.
    pictures = Job._meta.get_field("pictures").related_model
    shown = Prefetch("pictures", queryset=pictures._default_manager.filter(removed=None), to_attr="shown_pictures")
    return Job.objects.of(request.auth).prefetch_related(shown).annotate(
        picture_count=Count("pictures", filter=Q(pictures__removed=None), distinct=True),
        delivery_count=Count("deliveries", filter=Q(deliveries__state="done"), distinct=True),
        done_count=Count(
            "deliveries__picture", filter=Q(deliveries__state="done", deliveries__picture__removed=None), distinct=True
        ),
    )  # fmt: skip


@router.get("/jobs", response=list[JobOut])
def list_jobs(request: PersonRequest) -> QuerySet[Job]:
    return _listed(request)


@router.post("/jobs", response={201: JobOut})
def create_job(request: PersonRequest, job: JobIn) -> Status[Job]:
    created = Job.objects.create(owner=request.auth, **job.model_dump(mode="json"))
    return Status(201, _listed(request).get(id=created.id))


@router.get("/jobs/{job_id}", response=JobOut)
def get_job(request: PersonRequest, job_id: uuid.UUID) -> Job:
    return get_object_or_404(_listed(request), id=job_id)


@router.put("/jobs/{job_id}", response=JobOut)
def change_job(request: PersonRequest, job_id: uuid.UUID, job: JobIn) -> Job:
    changed = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    if (
        job.space != changed.space
        and changed.pictures.filter(facts__raw__isnull=False).exclude(facts__raw=None).exists()
    ):
        raise Refused(
            f"Raws of {changed.title} are developed to {SPACES[changed.wide].title} already, and their treatments rest on that. "
            "Begin another job for another space."
        )
    for name, value in job.model_dump(mode="json").items():
        setattr(changed, name, value)
    changed.save()
    return _listed(request).get(id=job_id)


@router.delete("/jobs/{job_id}", response={204: None})
def remove_job(request: PersonRequest, job_id: uuid.UUID) -> Status[None]:
    """Put a job away. Its files stay; ``restore`` brings it back."""
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    job.soft_delete()
    return Status(204, None)


@router.post("/jobs/{job_id}/restore", response=JobOut)
def restore_job(request: PersonRequest, job_id: uuid.UUID) -> Job:
    job = get_object_or_404(Job, id=job_id, owner=request.auth)
    job.restore()
    return _listed(request).get(id=job_id)
