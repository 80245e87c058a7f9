"""Cards: a take's steps kept to be used on other pictures, and the file they are handed on in."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from kitecore.errors import TakeError
from kitecore.faces import FaceFound
from kitecore.masks.parts import FaceArea, Found
from kitecore.steps import AnyStep
from kitecore.takes.take import MOST_STEPS, sentence_for

CARD_VERSION: Literal[1] = 1


class Card(BaseModel):
    """As a file: JSON of this form; see ``python -m kitecore schema card``. Serves ``render --take`` as it stands."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    kite_glass_card: Annotated[Literal[1], Field(description="Version of this form.")]
    name: Annotated[str, Field(min_length=1, max_length=60)]
    note: Annotated[str, Field(max_length=2000)] = ""
    steps: Annotated[list[AnyStep], Field(min_length=1, max_length=MOST_STEPS)]

    @property
    def asks_reading(self) -> bool:
        """Whether it must be told what was read in a picture."""
        parts = [part for step in self.steps if step.mask is not None for part in step.mask.parts]
        faces = any(isinstance(part, FaceArea) or (isinstance(part, Found) and part.what == "skin") for part in parts)
        return faces or any(step.asks_reading for step in self.steps)

    def steps_for(
        self, quality: int | None = None, strength: float = 100.0, faces: Sequence[FaceFound] = ()
    ) -> list[AnyStep]:
        """The steps for one picture.

        Parameters
        ----------
        quality
            JPEG quality the picture's file was written at, if it tells; for repairs that were told none.
        strength
            0..100: how much of what the steps do is wanted. Size and engine of an enlargement stay as they are.
        faces
            Those of the picture, for steps that work on faces.
        """
        return [step.at(strength / 100).suited_to(quality, faces) for step in self.steps]


_CARD: TypeAdapter[Card] = TypeAdapter(Card)


def card_of(name: str, steps: list[AnyStep], note: str = "") -> Card:
    """A card of a take's steps, without what belongs to its picture: the frame, and the quality of its file.

    Raises TakeError with a sentence if nothing is left.
    """
    kept: list[AnyStep] = [_unmasked(portable) for step in steps if (portable := step.portable()) is not None]
    if not kept:
        raise TakeError("There is nothing to keep: a card holds the steps after the frame. Add one first.")
    return Card(kite_glass_card=CARD_VERSION, name=name, note=note, steps=kept)


def _unmasked(step: AnyStep) -> AnyStep:
    """The step without what its mask found in this picture."""
    return step if step.mask is None else step.model_copy(update={"mask": step.mask.portable()})


def parse_card(text: str | bytes) -> Card:
    """A card from its file, without what belongs to a picture, whoever wrote it. Raises TakeError with a sentence."""
    try:
        card = _CARD.validate_json(text)
        return card_of(card.name, card.steps, card.note)
    except ValidationError as error:
        fault = error.errors(include_url=False)[0]
        if fault["type"] == "json_invalid" or fault["loc"] in (("kite_glass_card",), ()):
            raise TakeError(
                "This is not a card: it is not JSON of the form that “python -m kitecore schema card” tells."
            ) from None
        raise TakeError(sentence_for(error)) from error


def card_schema() -> dict[str, Any]:
    """JSON Schema of a card's file."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **_CARD.json_schema()}
