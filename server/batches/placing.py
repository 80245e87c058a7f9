"""From what was wanted to deliveries in the queue, picture by picture; one that cannot be done stops none of the others."""

from __future__ import annotations

import uuid

from django.db import transaction
from django.http import Http404
from django.shortcuts import get_object_or_404
from ninja import Field, Schema

from batches.models import Batch
from batches.treatment import By, Treatment
from cards.models import Card
from common.errors import Refused
from deliveries.models import Delivery
from deliveries.orders import fitted_to, order_delivery
from kitecore.delivery.encode import encoder_for
from kitecore.delivery.spec import OutputSpec
from kitecore.errors import KiteError
from kitecore.takes.plan import plan
from kitecore.takes.take import Take as CoreTake
from kitecore.values import Percent
from people.models import Person
from pictures.models import Picture
from rendering.speed import seconds_for


class BatchIn(Schema):
    pictures: list[uuid.UUID] = Field(min_length=1, max_length=1000)
    by: By = Field(
        default="take", description="The chosen take (or the first), a new take of what is suggested, or one of a card."
    )
    card_id: uuid.UUID | None = None
    strength: Percent = 100.0
    spec: OutputSpec


class Planned(Schema):
    """What will become of one picture."""

    picture_id: uuid.UUID
    picture_name: str
    width: int = 0
    height: int = 0
    bytes: int = 0
    seconds: float = 0
    problem: str | None = Field(default=None, description="Why nothing can be delivered of it as things are.")


class Wanted:
    """What a person wants of some of their pictures. Raises Refused, or Http404, if that names what is not there."""

    def __init__(self, person: Person, wanted: BatchIn) -> None:
        self._spec = wanted.spec
        mine = Picture.objects.of(person).select_related("job").in_bulk(wanted.pictures)
        if len(mine) < len(set(wanted.pictures)):
            raise Refused("Some of these pictures are not here any more; reload the page and choose again.")
        # In the order they were asked for: that is the order in which they are made.
        self.pictures = [mine[key] for key in dict.fromkeys(wanted.pictures)]
        card = None
        if wanted.by == "card":
            if wanted.card_id is None:
                raise Refused("Choose the card these pictures are to be treated with.")
            card = get_object_or_404(Card.objects.of(person), id=wanted.card_id)
        self.treatment = Treatment(wanted.by, card, wanted.strength)

    def planned(self, picture: Picture) -> Planned:
        try:
            return self._planned(picture)
        except KiteError as error:
            return Planned(picture_id=picture.id, picture_name=picture.name, problem=str(error))

    def _planned(self, picture: Picture) -> Planned:
        resolved = plan(CoreTake.model_validate({"steps": self.treatment.steps(picture)}), picture.size)
        spec = fitted_to(picture, resolved, self._spec)
        size = spec.final_size(resolved.size, picture.facts["ppi"])
        encoder = encoder_for(spec)
        encoder.check(size)
        return Planned(
            picture_id=picture.id, picture_name=picture.name, width=size.width, height=size.height,
            bytes=encoder.estimated_bytes(size, picture.bands), seconds=seconds_for(resolved),
        )  # fmt: skip

    def order(self, picture: Picture, batch: Batch) -> None:
        """Raises a KiteError if it cannot be done; then nothing was made of it. Takes seconds, where steps are suggested."""
        self.treatment.prepare(picture)
        self._planned(picture)
        with transaction.atomic():
            take = self.treatment.take(picture)
            order_delivery(take, fitted_to(picture, take.plan(), self._spec), batch_id=batch.id)


def begin_batch(person: Person, wanted: BatchIn) -> Batch:
    """Keep what is wanted; a worker places it, whatever becomes of the page. Raises what :class:`Wanted` does."""
    asked = Wanted(person, wanted)
    return Batch.objects.create(
        job=asked.pictures[0].job, treatment=asked.treatment.title, wanted=wanted.model_dump(mode="json"),
        count=len(asked.pictures), placed=False,
    )  # fmt: skip


def place(batch: Batch) -> None:
    """Order a file of every picture of a batch that has none yet; what cannot be done is left out, and why. Safe to run again."""
    try:
        asked = Wanted(batch.job.owner, BatchIn.model_validate(batch.wanted))
    except (KiteError, Http404):
        problem = "A picture or the card it was ordered with was taken away before it began; order it again."
        batch.left_out = [{"picture_id": None, "name": batch.treatment, "problem": problem}]
    else:
        _place_each(asked, batch)
    batch.placed = True
    batch.save(update_fields=["left_out", "placed", "heard"])


def _place_each(asked: Wanted, batch: Batch) -> None:
    placed = set(Delivery.objects.filter(batch=batch).values_list("picture_id", flat=True))
    left_out = {one["picture_id"] for one in batch.left_out}
    for picture in asked.pictures:
        if picture.id in placed or str(picture.id) in left_out:
            continue
        try:
            asked.order(picture, batch)
        except KiteError as error:
            told = {"picture_id": str(picture.id), "name": picture.name, "problem": str(error)}
            batch.left_out = [*batch.left_out, told]
        # Says as well that somebody is at it.
        batch.save(update_fields=["left_out", "heard"])
