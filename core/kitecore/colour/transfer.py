"""Transfer curves: between the coded values of a colour space and linear light, below black and above white too."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import cached_property, lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.colour.icc import tag_of
from kitecore.pipeline.evenly import read_evenly
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
        """Linear light of coded values, any shape, to 4e-6 of itself."""
        size = np.abs(coded)
        if self.table:
            inside = read_evenly(np.asarray(self.table, np.float32), size)
            return np.asarray(np.copysign(np.where(size > 1, _power(size, self.gamma), inside), coded), np.float32)
        power = _power(np.maximum(_f32(self.a) * size + _f32(self.b), 0), self.gamma) + _f32(self.e)
        below = _f32(self.c) * size + _f32(self.f)
        return np.asarray(np.copysign(np.where(size >= self.d, power, below), coded), np.float32)

    def coded(self, light: Pixels) -> Pixels:
        """The inverse of :meth:`light`."""
        size = np.abs(light)
        if self.table:
            root = _power(size, 1 / self.gamma)
            inside = read_evenly(self._coded_by_root, root)
            return np.asarray(np.copysign(np.where(size > 1, root, inside), light), np.float32)
        power = (_power(np.maximum(size - _f32(self.e), 0), 1 / self.gamma) - _f32(self.b)) / _f32(self.a)
        below = (size - _f32(self.f)) / _f32(self.c) if self.c else np.zeros_like(size)
        return np.asarray(np.copysign(np.where(power >= self.d, power, below), light), np.float32)

    @cached_property
    def _coded_by_root(self) -> npt.NDArray[np.float32]:
        """Of a measured curve, the coded value for light^(1/gamma) in equal steps of 0..1: nearly a straight line."""
        roots = np.linspace(0, 1, _ROOTS) ** self.gamma
        return np.interp(roots, self.table, np.linspace(0, 1, len(self.table))).astype(np.float32)


#: Steps of what a measured curve is read backwards by.
_ROOTS = 1 << 14
#: Plain numbers as they meet pixels.
_f32 = np.float32


def _power(base: Pixels, exponent: float) -> Pixels:
    """``base``, at least 0, any shape, to a power: ten times as quick as numpy's, the same wherever a value stands."""
    return np.asarray(cv2.pow(np.ascontiguousarray(base, np.float32).reshape(-1, 1), exponent), np.float32).reshape(
        base.shape
    )


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
