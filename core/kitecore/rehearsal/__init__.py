"""Rehearsal: what might be done to a picture is tried on a smaller copy of itself, worn alike, whose truth is known."""

from __future__ import annotations

from kitecore.rehearsal.rehearse import (
    CELL,
    REHEARSAL_REVISION,
    Candidate,
    Rehearsal,
    Rehearsed,
    rehearse,
    tried_factor,
)
from kitecore.rehearsal.suggested import suggest_rehearsed

__all__ = [
    "CELL", "REHEARSAL_REVISION", "Candidate", "Rehearsal", "Rehearsed", "rehearse", "suggest_rehearsed", "tried_factor",
]  # fmt: skip
