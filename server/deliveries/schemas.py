"""Deliveries as the API speaks of them."""

from __future__ import annotations

import uuid
from datetime import datetime

from ninja import Field, Schema

from deliveries.models import State
from kitecore.output import OutputSpec


class DeliveryIn(Schema):
    spec: OutputSpec
    name: str = Field(default="", max_length=255, description="Empty: made from the picture's name and size.")


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
    bytes: int | None
    sha256: str
    seconds: float | None
    created: datetime
    started: datetime | None
    finished: datetime | None
