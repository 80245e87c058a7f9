"""The start that is suggested for a picture."""

from __future__ import annotations

from kitecore.reading import Reading
from kitecore.rehearsal import suggest_rehearsed
from kitecore.takes.suggestion import Suggestion
from pictures.models import Picture
from rehearsals.models import Wanted, rehearsal_row

#: What a take made of a suggestion is called.
SUGGESTED = "Suggested"


def suggestion_for(picture: Picture, reading: Reading) -> Suggestion:
    """What is suggested for a picture, at the size a new take of it would have: as it was rehearsed, if it was."""
    row = rehearsal_row(picture)
    wanted = Wanted.of(picture)
    return suggest_rehearsed(reading, row.rehearsal if row else None, wanted.target, wanted.frame)
