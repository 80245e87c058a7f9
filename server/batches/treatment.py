"""What is done to each of many pictures: their own takes, what is suggested for each, or one card."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

from cards.models import Card
from common.errors import Refused
from pictures.models import Picture
from readings.models import NotReadYet, PictureReading
from rehearsals.tasks import rehearsed_now
from suggestions.suggested import SUGGESTED, suggestion_for
from takes.finding import masks_found
from takes.models import Take

By: TypeAlias = Literal["take", "suggestion", "card"]


@dataclass(frozen=True)
class Treatment:
    """``card`` and its ``strength`` (0..100) are used where it goes by a card."""

    by: By
    card: Card | None = None
    strength: float = 100.0

    @property
    def title(self) -> str:
        """What it is, in a few words."""
        if self.card:
            return f"Card {self.card.name}"
        return "Their takes" if self.by == "take" else "As suggested"

    def existing_take(self, picture: Picture) -> Take | None:
        """The take that is there already; None where a new one is to be made. Raises Refused if there is none."""
        if self.by != "take":
            return None
        takes = Take.objects.filter(picture=picture, removed=None, outside=None)
        take = takes.filter(chosen=True).first() or takes.first()
        if take is None:
            raise Refused(f"{picture.name} has no take yet; open it on the bench first.")
        return take

    def prepare(self, picture: Picture) -> None:
        """What takes seconds, before the picture is ordered; for workers. Raises NotReadYet if it has not been read."""
        if self.by == "suggestion":
            rehearsed_now(picture)

    def steps(self, picture: Picture) -> list[dict[str, Any]]:
        """The steps it means for a picture. Raises Refused, or NotReadYet, if that cannot be told."""
        if take := self.existing_take(picture):
            return [step.model_dump(mode="json") for step in take.core.steps]
        if self.card:
            return self.card.steps_on(picture, self.strength)
        row = PictureReading.objects.filter(original=picture.original).first()
        reading = row.reading if row else None
        if reading is None:
            raise NotReadYet(f"{picture.name} has not been read yet; wait for its reading and plan again.")
        return [step.model_dump(mode="json") for step in suggestion_for(picture, reading).steps]

    def take(self, picture: Picture) -> Take:
        """The take to deliver: the one there is, or a new one."""
        return self.existing_take(picture) or Take.objects.begin(
            picture, masks_found(picture, self.steps(picture)), self.card.name if self.card else SUGGESTED
        )
