"""The run of one piece of work: whether it is still wanted, and how far it is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from kitecore.errors import Cancelled


def _wanted() -> bool:
    return False


def _unheard(fraction: float) -> None:
    return None


@dataclass(frozen=True, slots=True)
class Run:
    """``cancelled`` is asked between regions; ``progress`` is told a fraction 0..1 that never falls."""

    cancelled: Callable[[], bool] = field(default=_wanted)
    progress: Callable[[float], None] = field(default=_unheard)

    def check(self) -> None:
        """Raise :class:`Cancelled` if the work is no longer wanted."""
        if self.cancelled():
            raise Cancelled
