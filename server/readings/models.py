from __future__ import annotations

from django.db import models

from common.background import BackgroundMeasurement, State
from common.errors import Refused
from kitecore.reading import READING_REVISION, Reading
from pictures.models import Original


class NotReadYet(Refused):
    """A picture's reading is not done; asked again later, it may be."""


def current_revision() -> int:
    """Of the way of measuring; a function, so that a new way needs no migration."""
    return READING_REVISION


class PictureReading(BackgroundMeasurement):
    """What was measured in a file: a Reading, kept however many pictures are made of it."""

    original = models.OneToOneField(Original, on_delete=models.CASCADE, primary_key=True, related_name="reading")
    #: The way of measuring; readings made by an earlier one are made again.
    revision = models.PositiveIntegerField(default=current_revision)

    def __str__(self) -> str:
        return f"reading of {self.original_id[:8]}: {self.state}"

    @property
    def outdated(self) -> bool:
        return self.revision != READING_REVISION

    @property
    def reading(self) -> Reading | None:
        """The reading, once there is one of the present way of measuring."""
        return Reading.model_validate(self.found) if self.state == State.DONE and not self.outdated else None
