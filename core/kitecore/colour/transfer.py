"""Transfer curves: between the coded values of a colour space and linear light, below black and above white too."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from kitecore.colour.icc import tag_of
from kitecore.pipeline.pixels import Pixels


@dataclass(frozen=True)
class TransferCurve:
    """``light = (a·value + b)^gamma + e`` from ``d`` on and ``c·value + f`` below it, as ICC's parametric curves have it.

    Below 0 it is mirrored: a negative value is as much negative light. ``table`` (coded 0..1 in equal steps) is used within
    0..1 where a profile has measured points instead of a formula; beyond 1 it goes on as a power.
    """

    gamma: float
    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 0.0
    e: float = 0.0
    f: float = 0.0
    table: tuple[float, ...] = ()

    def light(self, coded: Pixels) -> Pixels:
        """Linear light of coded values, any shape, float64 inside; 1 stays 1."""
        size = np.abs(coded.astype(np.float64))
        return np.asarray(np.copysign(self._light(size), coded), np.float32)

    def coded(self, light: Pixels) -> Pixels:
        """The inverse of :meth:`light`."""
        size = np.abs(light.astype(np.float64))
        if self.table:
            inside = np.interp(size, self.table, np.linspace(0, 1, len(self.table)))
            value = np.where(size > 1, np.maximum(size, 1) ** (1 / self.gamma), inside)
        else:
            power = (np.maximum(size - self.e, 0) ** (1 / self.gamma) - self.b) / self.a
            value = np.where(power >= self.d, power, (size - self.f) / self.c if self.c else 0.0)
        return np.asarray(np.copysign(value, light), np.float32)

    def _light(self, size: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        if self.table:
            inside = np.interp(size, np.linspace(0, 1, len(self.table)), self.table)
            return np.asarray(np.where(size > 1, np.maximum(size, 1) ** self.gamma, inside))
        power = np.maximum(self.a * size + self.b, 0) ** self.gamma + self.e
        return np.asarray(np.where(size >= self.d, power, self.c * size + self.f))


#: IEC 61966-2-1.
SRGB = TransferCurve(2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)


@lru_cache(maxsize=16)
def transfer_of(profile: bytes | None) -> TransferCurve:
    """The curve of an ICC profile: its green or grey one. sRGB's for None, and for profiles that have tables alone."""
    if profile is None:
        return SRGB
    for name in (b"gTRC", b"kTRC"):
        content = tag_of(profile, name)
        if content:
            try:
                return _curve(content)
            except (struct.error, IndexError):
                break
    return SRGB


def _curve(content: bytes) -> TransferCurve:
    """A curve type of ICC.1:2022, 10.6 and 10.18."""
    kind = content[:4]
    if kind == b"para":
        form, *_ = struct.unpack(">H", content[8:10])
        count = (1, 3, 4, 5, 7)[form]
        values = [value / 65536 for value in struct.unpack(f">{count}i", content[12 : 12 + 4 * count])]
        gamma, a, b = (values[0], *values[1:3]) if form else (values[0], 1.0, 0.0)
        if form in (1, 2):
            e = values[3] if form == 2 else 0.0
            return TransferCurve(gamma, a, b, 0.0, -b / a, e, e)
        c, d = values[3:5] if form > 2 else (0.0, 0.0)
        e, f = values[5:7] if form == 4 else (0.0, 0.0)
        return TransferCurve(gamma, a, b, c, d, e, f)
    (count,) = struct.unpack(">I", content[8:12])
    if count == 0:
        return TransferCurve(1.0)
    points = struct.unpack(f">{count}H", content[12 : 12 + 2 * count])
    if count == 1:
        return TransferCurve(points[0] / 256)
    table = np.array(points, np.float64) / 65535
    # The power that it leaves 1 with.
    near = np.interp(0.95, np.linspace(0, 1, count), table)
    return TransferCurve(float(np.log(near) / np.log(0.95)), table=tuple(np.maximum.accumulate(table)))
