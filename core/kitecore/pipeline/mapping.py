"""Mappings: where in the upright source the pixels of a picture come from, through turns, crops, enlargings and bent lenses."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple, TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Place, Size

Floats: TypeAlias = npt.NDArray[np.float64]


#: What has no place, as beyond the horizon of a projection, lies there, px.
_FAR = -1e7


class Affine(NamedTuple):
    """x, y to a·x + b·y + c, d·x + e·y + f; pixels from the upper left corner."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 0.0
    e: float = 1.0
    f: float = 0.0

    @property
    def area(self) -> float:
        """What one square pixel becomes; below 0 if the picture is mirrored."""
        return self.a * self.e - self.b * self.d

    def moved(self, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        return self.a * x + self.b * y + self.c, self.d * x + self.e * y + self.f

    def inverse(self) -> Affine:
        a, b, d, e = self.e / self.area, -self.b / self.area, -self.d / self.area, self.a / self.area
        return Affine(a, b, -a * self.c - b * self.f, d, e, -d * self.c - e * self.f)

    def then(self, other: Affine) -> Affine:
        """Both, one after the other.

        >>> Affine(2, 0, 1, 0, 2, 0).then(Affine(c=5))
        Affine(a=2.0, b=0.0, c=6.0, d=0.0, e=2.0, f=0.0)
        """
        a, b, c, d, e, f = other
        return Affine(
            float(a * self.a + b * self.d), float(a * self.b + b * self.e), float(a * self.c + b * self.f + c),
            float(d * self.a + e * self.d), float(d * self.b + e * self.e), float(d * self.c + e * self.f + f),
        )  # fmt: skip


@dataclass(frozen=True)
class Warp:
    """A picture with perspective and distortion undone, and the one with them: from pixels of the first to those of the second.

    First the plane projective map ``matrix`` (rows of 3×3), then radial distortion about ``middle`` by the division model
    (A. Fitzgibbon, 2001): seen at a distance r, a place should be at ``gain``·r ÷ (1 − ``bend``·(r ÷ ``radius``)²), px. Both
    ways are exact.
    """

    middle: tuple[float, float]
    radius: float
    bend: float = 0.0
    gain: float = 1.0
    matrix: tuple[float, ...] = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)

    def moved(self, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        """Into the picture as it came; NaN where it cannot come from: beyond the horizon, or where no ray is bent to."""
        x, y = _projected(self.matrix, x, y)
        if not self.bend:
            return x, y
        across, down = (x - self.middle[0]) / self.gain, (y - self.middle[1]) / self.gain
        square = 1 + 4 * self.bend * (across**2 + down**2) / self.radius**2
        root = 1 + np.sqrt(np.where(square >= 0, square, np.nan))
        return self.middle[0] + 2 * across / root, self.middle[1] + 2 * down / root

    def unmoved(self, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        """The other way."""
        if self.bend:
            across, down = x - self.middle[0], y - self.middle[1]
            gain = self.gain / (1 - self.bend * (across**2 + down**2) / self.radius**2)
            x, y = self.middle[0] + gain * across, self.middle[1] + gain * down
        return _projected(self._inverse, x, y)

    @cached_property
    def _inverse(self) -> tuple[float, ...]:
        return tuple(np.linalg.inv(np.reshape(self.matrix, (3, 3))).ravel().tolist())


def _somewhere(values: Floats) -> Floats:
    return np.asarray(np.nan_to_num(values, nan=_FAR), np.float64)


def _projected(matrix: tuple[float, ...], x: Floats, y: Floats) -> tuple[Floats, Floats]:
    a, b, c, d, e, f, g, h, i = matrix
    depth = g * x + h * y + i
    depth = np.where(depth > 1e-6, depth, np.nan)
    return (a * x + b * y + c) / depth, (d * x + e * y + f) / depth


@dataclass(frozen=True)
class Mapping:
    """From pixels of a picture to those of the upright source: ``parts`` one after the other."""

    parts: tuple[Affine | Warp, ...] = (Affine(),)

    def then(self, other: Mapping) -> Mapping:
        """Both, one after the other; affine parts that meet become one."""
        parts = list(self.parts)
        for part in other.parts:
            last = parts[-1] if parts else None
            if isinstance(part, Affine) and isinstance(last, Affine):
                parts[-1] = last.then(part)
            else:
                parts.append(part)
        return Mapping(tuple(parts))

    def reduced(self, size: Size, reduced: Size) -> Mapping:
        """The mapping of a picture of ``size`` for its version of the size ``reduced``."""
        return Mapping((Affine(a=size.width / reduced.width, e=size.height / reduced.height),)).then(self)

    def to_source(self, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        """Where in the source places of the picture come from; far outside it where that is nowhere."""
        for part in self.parts:
            x, y = part.moved(x, y)
        return _somewhere(x), _somewhere(y)

    def from_source(self, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        """Where places of the source lie in the picture; outside it, if they were cut off."""
        for part in reversed(self.parts):
            x, y = part.inverse().moved(x, y) if isinstance(part, Affine) else part.unmoved(x, y)
        return _somewhere(x), _somewhere(y)

    def place_in_source(self, place: Place) -> Place:
        x, y = self.to_source(np.float64(place.x), np.float64(place.y))  # type: ignore[arg-type]
        return Place(float(x), float(y))

    def place_from_source(self, place: Place) -> Place:
        x, y = self.from_source(np.float64(place.x), np.float64(place.y))  # type: ignore[arg-type]
        return Place(float(x), float(y))

    @property
    def scale(self) -> float:
        """Source pixels for one of the picture, a side, in the middle of what is bent."""
        return math.sqrt(abs(math.prod(part.area for part in self.parts if isinstance(part, Affine))))

    @property
    def mirrors(self) -> bool:
        return math.prod(math.copysign(1, part.area) for part in self.parts if isinstance(part, Affine)) < 0
