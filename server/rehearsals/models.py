from __future__ import annotations

from typing import NamedTuple

from django.db import models

from common.background import BackgroundMeasurement, State
from kitecore.reading import READING_REVISION
from kitecore.rehearsal import REHEARSAL_REVISION, Rehearsal, tried_factor
from kitecore.steps import Enlarge, Frame
from kitecore.steps.enlarge import Target
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.take import Take as CoreTake
from pictures.models import Original, Picture
from takes.models import default_steps


class Wanted(NamedTuple):
    """What a new take of a picture is to become: how it is framed, and how large."""

    frame: Frame | None
    target: Target
    #: What it is enlarged by in a rehearsal.
    factor: int

    @classmethod
    def of(cls, picture: Picture) -> Wanted:
        usual = CoreTake.model_validate({"steps": default_steps(picture)}).steps
        frame = next((step for step in usual if isinstance(step, Frame)), None)
        target = next(step.target for step in usual if isinstance(step, Enlarge))
        framed = plan_of_steps([frame] if frame else [], picture.size).size
        return cls(frame, target, tried_factor(target.factor_for(framed)))


def current_revision() -> int:
    """Of the ways of rehearsing and of reading, which decides what is tried; a function, so that a new way needs no migration."""
    return 1000 * REHEARSAL_REVISION + READING_REVISION


class PictureRehearsal(BackgroundMeasurement):
    """What was tried on worn copies of a file for an enlargement: a Rehearsal, kept however many pictures are made of it.

    One that is taken away while it is made is called off.
    """

    original = models.ForeignKey(Original, on_delete=models.CASCADE, related_name="rehearsals")
    #: What is enlarged by in it.
    factor = models.PositiveSmallIntegerField()
    revision = models.PositiveIntegerField(default=current_revision)
    #: PNG: the truth and what each candidate made of it, side by side, squares as high as the picture.
    sheet = models.BinaryField(null=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["original", "factor"], name="one_rehearsal_per_factor")]

    def __str__(self) -> str:
        return f"rehearsal of {self.original_id[:8]} ×{self.factor}: {self.state}"

    @property
    def outdated(self) -> bool:
        return self.revision != current_revision()

    @property
    def rehearsal(self) -> Rehearsal | None:
        """The rehearsal, once there is one of the present way of rehearsing."""
        return Rehearsal.model_validate(self.found) if self.state == State.DONE and not self.outdated else None


def rehearsal_row(picture: Picture) -> PictureRehearsal | None:
    """The row for what a new take of a picture is to become, if there is one."""
    rows = PictureRehearsal.objects.filter(original=picture.original, factor=Wanted.of(picture).factor)
    return rows.defer("sheet").first()
