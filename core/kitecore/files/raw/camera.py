"""White balance and colours of a camera: multipliers of its sensor, temperatures of light, the way to a wide space and back."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal, TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.colour.spaces import SPACES, adaptation, profile_of
from kitecore.files.raw.unpacking import Sensor

#: The spaces raws are developed to, the usual one first: nearly everything that is seen lies inside it. The other one's primaries
#: are colours of the spectrum, and screens for film come near them.
WideSpace: TypeAlias = Literal["prophoto-rgb", "rec2020-rgb"]
WIDE: WideSpace = "prophoto-rgb"
COOLEST, WARMEST = 15_000, 2_000
MOST_TINT = 60

Multipliers = tuple[float, float, float]
_Vector = npt.NDArray[np.float64]


def wide_profile(space: WideSpace = WIDE) -> bytes:
    """The ICC profile of developed raws."""
    return profile_of(space)


def chromaticity(kelvin: float, tint: float) -> tuple[float, float]:
    """x, y of a white: that of a black body (M. Krystek, 1985, 1000 K to 15000 K), then ``tint`` thousandths of u, v 1960 towards
    green, across the line of temperatures."""
    u, v = _black_body(kelvin)
    ahead = np.subtract(_black_body(kelvin * 1.001), (u, v))
    across = np.array([-ahead[1], ahead[0]]) / np.hypot(*ahead)
    if across[1] < 0:
        across = -across
    u, v = np.array([u, v]) + tint / 1000 * across
    return 3 * u / (2 * u - 8 * v + 4), 2 * v / (2 * u - 8 * v + 4)


def _black_body(kelvin: float) -> tuple[float, float]:
    t = kelvin
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t**2) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t**2)
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t**2) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t**2)
    return u, v


@dataclass(frozen=True)
class Camera:
    """How a camera sees colours. “Balanced” colours are those of its sensor with white as it was shot, green as it is."""

    as_shot: Multipliers
    daylight: Multipliers
    #: From balanced colours to linear sRGB.
    matrix: npt.NDArray[np.float64]
    #: The wide space.
    space: WideSpace = WIDE

    @classmethod
    def of(cls, sensor: Sensor, space: WideSpace = WIDE) -> Camera:
        return cls(sensor.as_shot, sensor.daylight, sensor.matrix, space)

    @cached_property
    def to_wide(self) -> npt.NDArray[np.float64]:
        """From balanced colours to linear light in the wide space, 3×3."""
        wide, srgb = SPACES[self.space].to_connection(), SPACES["srgb"].to_connection()
        whole = np.linalg.solve(wide, srgb) @ self.matrix
        # White stays white to the last digit.
        return np.asarray(whole / whole.sum(axis=1, keepdims=True))

    @cached_property
    def from_xyz(self) -> npt.NDArray[np.float64]:
        """From XYZ to what the sensor gives, 3×3; green of D65 gives 1."""
        srgb = SPACES["srgb"]
        to_xyz = np.linalg.solve(adaptation(srgb.white), srgb.to_connection())
        return np.asarray(np.linalg.inv(to_xyz @ self.matrix) / np.array(self.daylight)[:, None])

    def multipliers(self, kelvin: float, tint: float) -> Multipliers:
        """What balances the light of a temperature and tint."""
        x, y = chromaticity(kelvin, tint)
        seen = self.from_xyz @ np.array([x / y, 1.0, (1 - x - y) / y])
        red, green, blue = np.maximum(seen, 1e-4)
        return float(green / red), 1.0, float(green / blue)

    def multipliers_of(self, wide: tuple[float, float, float]) -> Multipliers | None:
        """What makes a colour, linear light in the wide space as it was shot, grey; None for one that has no such colours."""
        balanced = np.linalg.solve(self.to_wide, np.array(wide))
        if balanced.min() <= 1e-5:
            return None
        red, green, blue = balanced / self.as_shot
        return float(green / red), 1.0, float(green / blue)

    def temperature(self, multipliers: Multipliers) -> tuple[float, float]:
        """Kelvin and tint of the light that multipliers balance, as near as there is one."""
        xyz = np.linalg.solve(self.from_xyz, 1 / np.array(multipliers))
        total = xyz[0] + 15 * xyz[1] + 3 * xyz[2]
        seen: _Vector = np.array([4 * xyz[0] / total, 6 * xyz[1] / total])
        kelvins = 1e6 / np.linspace(1e6 / COOLEST, 1e6 / WARMEST, 600)
        line = np.array([_black_body(one) for one in kelvins])
        nearest = int(np.argmin(np.hypot(*(line - seen).T)))
        kelvin = float(kelvins[nearest])
        away = float(np.hypot(*(seen - line[nearest]))) * 1000
        tint = away if seen[1] > line[nearest][1] else -away
        return kelvin, float(np.clip(tint, -MOST_TINT, MOST_TINT))
