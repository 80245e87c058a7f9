"""Deliveries as the API speaks of them."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated

from ninja import Field, Schema
from pydantic import StringConstraints

from deliveries.models import State
from kitecore.delivery.spec import OutputSpec


class DeliveryIn(Schema):
    spec: OutputSpec
    name: str = Field(default="", max_length=255, description="Empty: made from the picture's name and size.")


class FilesIn(DeliveryIn):
    """One file or its panels, and files by saved outputs besides."""

    outputs: list[uuid.UUID] = Field(default=[], max_length=20, description="Saved outputs that are made as well.")
    after_approval: bool = Field(
        default=False, description="Whether they wait until the client approves of the take as it is."
    )


class OutputIn(Schema):
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
    spec: OutputSpec


class OutputOut(Schema):
    id: uuid.UUID
    name: str
    spec: OutputSpec


class Which(Schema):
    """Which of the queue: all of it unless one of these is given."""

    batch_id: uuid.UUID | None = None
    ids: list[uuid.UUID] | None = Field(default=None, max_length=1000)


class Estimate(Schema):
    """What the file will be like, before it is made."""

    name: str
    width: int
    height: int
    bytes: int
    seconds: float
    bits: int


class DeliveryOut(Schema):
    id: uuid.UUID
    job_id: uuid.UUID
    batch_id: uuid.UUID | None
    picture_id: uuid.UUID
    picture_name: str = Field(alias="picture.name")
    take_name: str
    spec: OutputSpec
    name: str
    width: int
    height: int
    state: State
    progress: float
    message: str
    awaits_approval: bool
    bytes: int | None
    sha256: str
    seconds: float | None
    expected_seconds: float = Field(description="As was thought when it was ordered.")
    position: int = Field(description="In the queue: the lowest is made first.")
    worker: str
    created: datetime
    started: datetime | None
    finished: datetime | None
