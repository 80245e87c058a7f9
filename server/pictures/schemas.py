"""Pictures as the API speaks of them."""

from __future__ import annotations

import uuid
from datetime import datetime

from ninja import Field, Schema

from kitecore.files.source import Facts
from kitecore.reading import Reading
from pictures.models import Picture


class TakeSummary(Schema):
    id: uuid.UUID
    name: str
    chosen: bool
    verdict: str


class PictureOut(Schema):
    id: uuid.UUID
    job_id: uuid.UUID
    name: str
    facts: Facts
    sha256: str
    created: datetime
    takes: list[TakeSummary]
    beside_id: uuid.UUID | None = Field(
        default=None, description="Another picture of the same, whose takes stand on its check board as well."
    )
    reading: Reading | None = Field(description="What was measured; null until the worker has done so.")

    @staticmethod
    def resolve_sha256(picture: Picture) -> str:
        return picture.original_id

    @staticmethod
    def resolve_reading(picture: Picture) -> Reading | None:
        row = getattr(picture.original, "reading", None)
        return row.reading if row else None

    @staticmethod
    def resolve_takes(picture: Picture) -> list[object]:
        return [take for take in picture.takes.all() if take.removed is None]
