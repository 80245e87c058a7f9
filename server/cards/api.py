"""Cards: save a take's steps, use them on other pictures, hand them on as files."""

from __future__ import annotations

import uuid
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Field, Router, Schema, Status

from cards.models import Card, steps_on
from common.errors import Refused
from common.names import file_name
from kitecore.errors import KiteError, TooLarge
from kitecore.steps import AnyStep
from kitecore.takes.card import Card as CoreCard
from kitecore.takes.card import card_of, card_schema, parse_card
from kitecore.values import Percent
from people.models import Person
from people.signed_in import PersonRequest
from pictures.models import Picture
from takes.finding import masks_found
from takes.models import Take

router = Router(tags=["cards"])

LARGEST_CARD = 1_000_000


class CardIn(Schema):
    take_id: uuid.UUID
    name: str = Field(min_length=1, max_length=60)
    note: str = Field(default="", max_length=2000)


class CardChange(Schema):
    """What is left out stays as it is."""

    name: str | None = Field(default=None, min_length=1, max_length=60)
    note: str | None = Field(default=None, max_length=2000)


class CardOut(Schema):
    id: uuid.UUID
    name: str
    note: str
    steps: list[AnyStep]


class Application(Schema):
    pictures: list[uuid.UUID] = Field(min_length=1, max_length=1000)
    strength: Percent = Field(default=100.0, description="How much of what the steps do, in percent.")


class Applied(Schema):
    """What became of one picture."""

    picture_id: uuid.UUID
    take_id: uuid.UUID
    problem: str | None = Field(description="Why the steps cannot be done on it as they are, if so.")


def _card(request: PersonRequest, card_id: uuid.UUID) -> Card:
    return get_object_or_404(Card.objects.of(request.auth), id=card_id)


def _kept(person: Person, card: CoreCard) -> Card:
    return Card.objects.create(
        owner=person, name=card.name, note=card.note, steps=[step.model_dump(mode="json") for step in card.steps]
    )  # fmt: skip


@router.get("/cards", response=list[CardOut])
def list_cards(request: PersonRequest) -> QuerySet[Card]:
    return Card.objects.of(request.auth)


@router.post("/cards", response={201: CardOut})
def save_card(request: PersonRequest, card: CardIn) -> Status[Card]:
    """Save a take's steps but for its frame, which belongs to its picture."""
    take = get_object_or_404(Take.objects.of(request.auth), id=card.take_id)
    if take.made_elsewhere:
        raise Refused(f"Take {take.name} was made elsewhere; it has no steps to be saved.")
    return Status(201, _kept(request.auth, card_of(card.name.strip(), take.core.steps, card.note)))


@router.post("/cards/file", response={201: CardOut})
def import_card(request: PersonRequest) -> Status[Card]:
    """A card from its file: the request's body, byte for byte."""
    content = request.read(LARGEST_CARD + 1)
    if len(content) > LARGEST_CARD:
        raise TooLarge("This file is far larger than any card; choose the JSON file that was exported.")
    return Status(201, _kept(request.auth, parse_card(content)))


@router.get("/cards/schema", include_in_schema=False)
def schema(request: PersonRequest) -> dict[str, Any]:
    """JSON Schema of the file."""
    return card_schema()


@router.patch("/cards/{card_id}", response=CardOut)
def change_card(request: PersonRequest, card_id: uuid.UUID, change: CardChange) -> Card:
    card = _card(request, card_id)
    for field, value in change.model_dump(exclude_none=True).items():
        setattr(card, field, value)
    card.save()
    return card


@router.delete("/cards/{card_id}", response={204: None})
def remove_card(request: PersonRequest, card_id: uuid.UUID) -> Status[None]:
    """Put a card away; ``restore`` brings it back. Takes made from it stay."""
    card = _card(request, card_id)
    card.soft_delete()
    return Status(204, None)


@router.post("/cards/{card_id}/restore", response=CardOut)
def restore_card(request: PersonRequest, card_id: uuid.UUID) -> Card:
    card = get_object_or_404(Card, id=card_id, owner=request.auth)
    card.restore()
    return card


@router.get("/cards/{card_id}/file", include_in_schema=False)
def export_card(request: PersonRequest, card_id: uuid.UUID) -> HttpResponse:
    card = _card(request, card_id)
    response = HttpResponse(card.core.model_dump_json(indent=2), content_type="application/json")
    name = f"{file_name(card.name, 'card')}.json"
    response["Content-Disposition"] = content_disposition_header(True, name) or "attachment"
    return response


@router.post("/cards/{card_id}/apply", response={201: list[Applied]})
def apply_card(request: PersonRequest, card_id: uuid.UUID, wanted: Application) -> Status[list[Applied]]:
    """A new take on each of the pictures, named after the card; the takes they have stay as they are."""
    card = _card(request, card_id)
    return Status(201, _applied(request.auth, card.core, wanted, card.name))


@router.post("/takes/{take_id}/copies", response={201: list[Applied]})
def copy_steps(request: PersonRequest, take_id: uuid.UUID, wanted: Application) -> Status[list[Applied]]:
    """A new take on each of the pictures, with the steps of this one but for its frame, which belongs to its picture."""
    take = get_object_or_404(Take.objects.of(request.auth), id=take_id)
    if take.made_elsewhere:
        raise Refused(f"Take {take.name} was made elsewhere; it has no steps to be copied.")
    name = f"{take.name} of {Path(take.picture.name).stem}"[:60]
    return Status(201, _applied(request.auth, card_of(name, take.core.steps), wanted, name))


def _applied(person: Person, card: CoreCard, wanted: Application, name: str) -> list[Applied]:
    """New takes under ``name``, on all of the wanted pictures or on none. Raises Refused."""
    mine = Picture.objects.of(person).in_bulk(wanted.pictures)
    if len(mine) < len(set(wanted.pictures)):
        raise Refused("Some of these pictures are not here any more; reload the page and choose again.")
    done = []
    with transaction.atomic():
        for picture in mine.values():
            steps = masks_found(picture, steps_on(card, picture, wanted.strength))
            take = Take.objects.begin(picture, steps, name)
            done.append(Applied(picture_id=picture.id, take_id=take.id, problem=_problem(take)))
    return done


def _problem(take: Take) -> str | None:
    try:
        take.plan()
    except KiteError as error:
        return str(error)
    return None
