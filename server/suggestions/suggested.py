"""The start that is suggested for a picture."""

from __future__ import annotations

from kitecore.reading import Reading
from kitecore.steps import Enlarge, Frame
from kitecore.takes.suggestion import Suggestion, suggest
from kitecore.takes.take import Take as CoreTake
from pictures.models import Picture
from takes.models import default_steps

#: What a take made of a suggestion is called.
SUGGESTED = "Suggested"


def suggestion_for(picture: Picture, reading: Reading) -> Suggestion:
    """What is suggested for a picture, at the size a new take of it would have."""
    usual = CoreTake.model_validate({"steps": default_steps(picture)}).steps
    target = next(step.target for step in usual if isinstance(step, Enlarge))
    return suggest(reading, target, next((step for step in usual if isinstance(step, Frame)), None))
