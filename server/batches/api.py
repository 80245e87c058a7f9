"""Batches: one treatment and one output for many pictures; planned before anything starts, and none stops the rest."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from datetime import datetime

from django.db import transaction
from django.db.models import Prefetch, QuerySet
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from batches.models import Batch
from batches.treatment import By, Treatment
from cards.models import Card
from common.errors import Refused
from deliveries.models import Delivery
from deliveries.orders import fitted_to, order_delivery
from deliveries.schemas import DeliveryOut
from kitecore.delivery.encode import encoder_for
from kitecore.delivery.spec import OutputSpec
from kitecore.errors import KiteError
from kitecore.takes.plan import plan
from kitecore.takes.take import Take as CoreTake
from kitecore.values import Percent
from people.signed_in import PersonRequest
from pictures.models import Picture
from rendering.speed import seconds_for

router = Router(tags=["batches"])


class BatchIn(Schema):
    pictures: list[uuid.UUID] = Field(min_length=1, max_length=1000)
    by: By = Field(
        default="take", description="The chosen take (or the first), a new take of what is suggested, or one of a card."
    )
    card_id: uuid.UUID | None = None
    strength: Percent = 100.0
    spec: OutputSpec


class Planned(Schema):
    """What will become of one picture, or has: ``delivery_id`` once it is ordered."""

    picture_id: uuid.UUID
    picture_name: str
    width: int = 0
    height: int = 0
    bytes: int = 0
    seconds: float = 0
    delivery_id: uuid.UUID | None = None
    problem: str | None = Field(default=None, description="Why nothing can be delivered of it as things are.")


class _Batch:
    def __init__(self, request: PersonRequest, wanted: BatchIn) -> None:
        self._wanted = wanted
        mine = Picture.objects.of(request.auth).select_related("job").in_bulk(wanted.pictures)
        if len(mine) < len(set(wanted.pictures)):
            raise Refused("Some of these pictures are not here any more; reload the page and choose again.")
        # In the order they were asked for: that is the order in which they are made.
        self.pictures = [mine[key] for key in dict.fromkeys(wanted.pictures)]
        card = None
        if wanted.by == "card":
            if wanted.card_id is None:
                raise Refused("Choose the card these pictures are to be treated with.")
            card = get_object_or_404(Card.objects.of(request.auth), id=wanted.card_id)
        self.treatment = Treatment(wanted.by, card, wanted.strength)

    def planned(self, picture: Picture) -> Planned:
        """Raises a KiteError if it cannot be done."""
        resolved = plan(CoreTake.model_validate({"steps": self.treatment.steps(picture)}), picture.size)
        spec = fitted_to(picture, resolved, self._wanted.spec)
        size = spec.final_size(resolved.size, picture.facts["ppi"])
        encoder = encoder_for(spec)
        encoder.check(size)
        return Planned(
            picture_id=picture.id, picture_name=picture.name, width=size.width, height=size.height,
            bytes=encoder.estimated_bytes(size, picture.bands),
            seconds=seconds_for(resolved),
        )  # fmt: skip

    def ordered(self, picture: Picture, batch: Batch) -> Planned:
        """Raises a KiteError if it cannot be done; then nothing was made of it."""
        planned = self.planned(picture)
        with transaction.atomic():
            take = self.treatment.take(picture)
            planned.delivery_id = order_delivery(
                take, fitted_to(picture, take.plan(), self._wanted.spec), batch_id=batch.id
            ).id
        return planned


def _each(pictures: list[Picture], work: Callable[[Picture], Planned]) -> list[Planned]:
    done = []
    for picture in pictures:
        try:
            done.append(work(picture))
        except KiteError as error:
            done.append(Planned(picture_id=picture.id, picture_name=picture.name, problem=str(error)))
    return done


@router.post("/batch/plan", response=list[Planned])
def plan_batch(request: PersonRequest, wanted: BatchIn) -> list[Planned]:
    """What would be made of each picture: size, bytes, time, or why not. Nothing is changed."""
    asked = _Batch(request, wanted)
    return _each(asked.pictures, asked.planned)


@router.post("/batch", response={201: list[Planned]})
def order_batch(request: PersonRequest, wanted: BatchIn) -> Status[list[Planned]]:
    """Order a file of every picture that can be done, in the order given; the others say why not."""
    asked = _Batch(request, wanted)
    batch = Batch.objects.create(job=asked.pictures[0].job, treatment=asked.treatment.title)
    done = _each(asked.pictures, lambda picture: asked.ordered(picture, batch))
    batch.left_out = [{"name": one.picture_name, "problem": one.problem} for one in done if one.problem]
    batch.save(update_fields=["left_out"])
    return Status(201, done)


class LeftOut(Schema):
    name: str
    problem: str


class BatchOut(Schema):
    """How far a batch is, and in the end what became of it."""

    id: uuid.UUID
    job_id: uuid.UUID
    job_title: str = Field(alias="job.title")
    treatment: str
    created: datetime
    left_out: list[LeftOut]
    deliveries: list[DeliveryOut]


@router.get("/batches", response=list[BatchOut])
def list_batches(request: PersonRequest) -> QuerySet[Batch]:
    """The newest twenty."""
    files = Delivery.objects.select_related("picture__original", "job").order_by("position", "created")
    return Batch.objects.of(request.auth).prefetch_related(Prefetch("deliveries", files))[:20]
