from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import models

from common.soft_delete import SoftDeleted
from kitecore.faces import FaceFound
from kitecore.steps import Frame
from kitecore.takes.card import CARD_VERSION
from kitecore.takes.card import Card as CoreCard
from people.models import Person
from pictures.models import Picture
from readings.models import NotReadYet, PictureReading


def steps_on(card: CoreCard, picture: Picture, strength: float) -> list[dict[str, Any]]:
    """What a card does to a picture at a strength (0..100), as a new take's steps.

    Raises NotReadYet if it must be told what was read in the picture, and that has not been done.
    """
    faces: list[FaceFound] = []
    if card.asks_reading:
        row = PictureReading.objects.filter(original=picture.original).first()
        if row is None or row.reading is None:
            raise NotReadYet(f"{picture.name} has not been read yet; wait for its reading and try again.")
        faces = [FaceFound(face.eyes, face.mouth, face.sure) for face in row.reading.faces]
    steps = [Frame(), *card.steps_for(picture.facts.get("quality"), strength, faces)]
    return [step.model_dump(mode="json") for step in steps]


class CardQuerySet(models.QuerySet["Card"]):
    def of(self, person: Person) -> CardQuerySet:
        """A person's cards that have not been put away."""
        return self.filter(owner=person, removed=None)


class Card(SoftDeleted):
    """A take's steps, saved by a person to be used on other pictures."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="cards")
    name = models.CharField(max_length=60)
    note = models.TextField(blank=True, default="")
    #: kitecore.takes.card.Card.steps
    steps = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)
    modified = models.DateTimeField(auto_now=True)

    objects = CardQuerySet.as_manager()

    class Meta:
        ordering = ["name", "created"]

    def __str__(self) -> str:
        return self.name

    @property
    def core(self) -> CoreCard:
        content = {"kite_glass_card": CARD_VERSION, "name": self.name, "note": self.note, "steps": self.steps}
        return CoreCard.model_validate(content)

    def steps_on(self, picture: Picture, strength: float) -> list[dict[str, Any]]:
        """What it does to a picture at a strength (0..100), as a new take's steps."""
        return steps_on(self.core, picture, strength)
