"""Batches: one treatment and one output for many pictures; planned before anything starts, and none stops the rest."""

from __future__ import annotations

import uuid
from datetime import datetime

from django.db.models import Prefetch, QuerySet
from ninja import Field, Router, Schema, Status

from batches.models import Batch
from batches.placing import BatchIn, Planned, Wanted, begin_batch
from batches.tasks import have_placed, have_placed_what_was_lost
from deliveries.models import Delivery
from deliveries.schemas import DeliveryOut
from people.signed_in import PersonRequest

router = Router(tags=["batches"])


class LeftOut(Schema):
    picture_id: uuid.UUID | None = None
    name: str
    problem: str


class BatchOut(Schema):
    """How far a batch is, and in the end what became of it."""

    id: uuid.UUID
    job_id: uuid.UUID
    job_title: str = Field(alias="job.title")
    treatment: str
    created: datetime
    count: int = Field(description="Pictures that were ordered; 0 where that was not told.")
    placed: bool = Field(description="Whether every picture has its place in the queue, or is left out.")
    left_out: list[LeftOut]
    deliveries: list[DeliveryOut]


@router.post("/batch/plan", response=list[Planned])
def plan_batch(request: PersonRequest, wanted: BatchIn) -> list[Planned]:
    """What would be made of each picture: size, bytes, time, or why not. Nothing is changed."""
    asked = Wanted(request.auth, wanted)
    return [asked.planned(picture) for picture in asked.pictures]


@router.post("/batch", response={201: BatchOut})
def order_batch(request: PersonRequest, wanted: BatchIn) -> Status[Batch]:
    """Order a file of every picture, in the order given.

    A worker puts them into the queue, and tells those that cannot be done.
    """
    batch = begin_batch(request.auth, wanted)
    have_placed(batch)
    return Status(201, batch)


@router.get("/batches", response=list[BatchOut])
def list_batches(request: PersonRequest) -> QuerySet[Batch]:
    """The newest twenty."""
    have_placed_what_was_lost()
    files = Delivery.objects.select_related("picture__original", "job").order_by("position", "created")
    return Batch.objects.of(request.auth).prefetch_related(Prefetch("deliveries", files))[:20]
