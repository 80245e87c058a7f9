"""Showings as the API speaks of them: to the retoucher, and to the client, who is told less."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated, Literal

from ninja import Field, Schema
from pydantic import StringConstraints, field_validator

from common.background import State
from kitecore.comparison.fidelity import Finding
from showings.links import path_of
from showings.models import Answer, Note, Showing, ShownPicture

Verdict = Literal["approved", "changes"]
Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]

#: Long sides that may be shown, px, and for how many days.
SHORTEST, LONGEST, MOST_DAYS = 400, 4096, 365


class PictureIn(Schema):
    """A picture to be shown, and by which of its takes."""

    picture_id: uuid.UUID
    take_id: uuid.UUID


class ShowingIn(Schema):
    title: str = Field(min_length=1, max_length=120)
    words: Words = ""
    email: str = Field(default="", max_length=200, description="Where the link is sent; empty: nowhere.")
    pictures: list[PictureIn] = Field(min_length=1, max_length=60)
    days: int = Field(default=14, ge=1, le=MOST_DAYS, description="For how long the link opens it.")
    passphrase: str = Field(default="", max_length=100, description="Asked for before anything is seen; empty: none.")
    longest: int = Field(default=1600, ge=SHORTEST, le=LONGEST, description="Long side of what is shown, px.")
    mark: str = Field(default="", max_length=60, description="Words written across; empty: none.")
    with_spots: bool = Field(default=True, description="Whether check spots are shown, at full size.")
    follows: uuid.UUID | None = Field(default=None, description="The showing that this is the next round of.")

    @field_validator("email")
    @classmethod
    def _plausible(cls, email: str) -> str:
        if email and ("@" not in email[1:-1] or any(letter.isspace() for letter in email)):
            raise ValueError("this is no address of an email")
        return email


class AnswerOut(Schema):
    verdict: Verdict
    name: str
    words: str
    created: datetime


class NotePlace(Schema):
    x: float
    y: float


class NoteOut(Schema):
    """A client's note on a place of the upright source, in its pixels."""

    id: int
    x: float
    y: float
    words: str
    name: str
    done: bool
    created: datetime
    round: int = Field(alias="shown.showing.round")
    showing: str = Field(alias="shown.showing.title")


class PlacedNoteOut(NoteOut):
    places: dict[str, NotePlace | None] = Field(
        description="By take of its picture: where it lies in the result, in pixels; null where that has been cropped off."
    )


class ShownPictureOut(Schema):
    """What is shown of a picture, as its retoucher sees it."""

    position: int
    picture_id: uuid.UUID
    name: str = Field(alias="picture.name")
    take_name: str
    state: State
    progress: float
    message: str
    answer: AnswerOut | None
    notes: list[NoteOut]

    @staticmethod
    def resolve_notes(shown: ShownPicture) -> list[Note]:
        return list(shown.notes.select_related("shown__showing"))


class ShowingOut(Schema):
    id: uuid.UUID
    job_id: uuid.UUID
    title: str
    words: str
    email: str
    round: int
    follows_id: uuid.UUID | None
    followed: bool
    path: str = Field(description="The address of its page, from the root of the site: whoever has it can open it.")
    open: bool
    expires: datetime
    revoked: datetime | None
    has_passphrase: bool
    longest: int
    mark: str
    with_spots: bool
    seen: datetime | None
    created: datetime
    pictures: list[ShownPictureOut]

    @staticmethod
    def resolve_path(showing: Showing) -> str:
        return path_of(showing)

    @staticmethod
    def resolve_has_passphrase(showing: Showing) -> bool:
        return bool(showing.passphrase)

    @staticmethod
    def resolve_pictures(showing: Showing) -> list[ShownPicture]:
        return list(showing.pictures.select_related("picture"))


class NoteDone(Schema):
    done: bool


# --- what the client is told and tells


class Passphrase(Schema):
    passphrase: str = Field(max_length=100)


class ClientNote(Schema):
    """A note on a place, in shares of the picture that is shown, 0..1 from its upper left corner."""

    x: float
    y: float
    words: str
    name: str


class ClientNoteIn(Schema):
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    words: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]
    name: Name


class ClientAnswerIn(Schema):
    verdict: Verdict
    name: Name
    words: Words = ""


class ClientFinding(Schema):
    title: str
    value: float
    unit: str
    word: str
    says: str

    @classmethod
    def of(cls, found: Finding) -> ClientFinding:
        return cls(title=found.title, value=round(found.value, 2), unit=found.unit, word=found.word, says=found.says)


class ClientPicture(Schema):
    """What a client sees of a picture."""

    position: int
    name: str
    ready: bool = Field(description="Whether it can be looked at yet.")
    failed: bool
    shown_width: int
    shown_height: int
    width: int = Field(description="Of the finished file, px.")
    height: int
    ppi: float | None
    done: list[str] = Field(description="What was done to it, in plain words.")
    measured: list[ClientFinding]
    spots: list[str]
    answer: AnswerOut | None
    notes: list[ClientNote]


class ClientShowing(Schema):
    """A showing as the client sees it: nothing else of the job or of anybody."""

    title: str
    words: str
    round: int
    expires: datetime
    closed_to_answers: str = Field(description="Why nothing can be answered any more; empty while it can.")
    pictures: list[ClientPicture]


def told(answer: Answer | None) -> AnswerOut | None:
    return AnswerOut.from_orm(answer) if answer else None
