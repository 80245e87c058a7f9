"""The run of one piece of work: whether it is still wanted, and how far it is."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from kitecore.errors import Cancelled
from kitecore.pipeline.geometry import Region


def _wanted() -> bool:
    return False


def _unheard(fraction: float) -> None:
    return None


class Around(NamedTuple):
    """How far beside a region others of the same view will be asked for, as shares of the region's width and height."""

    left: float
    top: float
    right: float
    bottom: float

    @classmethod
    def beside(cls, region: Region, seen: Region) -> Around:
        """How far ``seen`` reaches beyond a region.

        >>> Around.beside(Region(10, 10, 4, 4), Region(8, 12, 10, 1))
        Around(left=0.5, top=0.0, right=1.0, bottom=0.0)
        """
        return cls(
            max(0, region.x - seen.x) / region.width, max(0, region.y - seen.y) / region.height,
            max(0, seen.right - region.right) / region.width, max(0, seen.bottom - region.bottom) / region.height,
        )  # fmt: skip

    def of(self, region: Region) -> Region:
        """The region, or a part of a picture that it is made of, with what lies beside it.

        >>> Around(0.5, 0, 1, 0).of(Region(10, 10, 4, 4))
        Region(x=8, y=10, width=10, height=4)
        """
        return Region.between(
            math.floor(region.x - self.left * region.width), math.floor(region.y - self.top * region.height),
            math.ceil(region.right + self.right * region.width), math.ceil(region.bottom + self.bottom * region.height),
        )  # fmt: skip


@dataclass(frozen=True, slots=True)
class Run:
    """``cancelled`` is asked between regions; ``progress`` is told a fraction 0..1 that never falls.

    ``around`` says what else will be wanted soon: where surroundings make single regions dear, they are computed together.
    ``block`` is the longest side in pixels of what slow steps compute at once, 0 if that is up to them: a small one is dearer,
    and sooner called off.
    """

    cancelled: Callable[[], bool] = field(default=_wanted)
    progress: Callable[[float], None] = field(default=_unheard)
    around: Around | None = None
    block: int = 0

    def between(self, start: float, end: float) -> Run:
        """The run of a part of this work, which is at ``start`` when that begins and at ``end`` when it is done.

        >>> Run(progress=print).between(0.5, 1).progress(0.5)
        0.75
        """
        return replace(self, progress=lambda fraction: self.progress(start * (1 - fraction) + end * fraction))

    def check(self) -> None:
        """Raise :class:`Cancelled` if the work is no longer wanted."""
        if self.cancelled():
            raise Cancelled
