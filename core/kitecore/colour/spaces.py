"""RGB colour spaces by name, and their ICC profiles, made from the standards' own numbers.

sRGB (IEC 61966-2-1), Display P3 (SMPTE EG 432-1 primaries, D65, sRGB's curve), A98 RGB (as CSS Color 4 has it: the
primaries and the curve of 563/256 that many cameras write), Rec. 2020 (BT.2020's primaries, sRGB's curve), ProPhoto RGB
(ROMM, ISO 22028-2).
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import cache
from typing import Literal, TypeAlias

import numpy as np
import numpy.typing as npt

Matrix: TypeAlias = npt.NDArray[np.float64]
SpaceName: TypeAlias = Literal["srgb", "display-p3", "a98-rgb", "rec2020-rgb", "prophoto-rgb"]

_D65, _D50 = (0.3127, 0.3290), (0.3457, 0.3585)
#: What profiles are told in: ICC's D50, XYZ.
_CONNECTION = np.array([0.9642, 1.0, 0.8249])
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
#: As headers tell them.
_VERSIONS = {2: 0x02400000, 4: 0x04300000}
#: ICC parametric curve of type 3: gamma, a, b, c, d.
_SRGB_CURVE = (2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)
_ROMM_CURVE = (1.8, 1.0, 0.0, 1 / 16, 16 / 512)


@dataclass(frozen=True)
class Space:
    """Chromaticities x, y of red, green, blue and white, and the parameters of its curve (one: a plain gamma)."""

    name: SpaceName
    title: str
    primaries: tuple[tuple[float, float], tuple[float, float], tuple[float, float]]
    white: tuple[float, float]
    curve: tuple[float, ...]

    def linear(self, coded: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
        """Coded values 0..1 to linear light."""
        if len(self.curve) == 1:
            return np.asarray(coded ** self.curve[0])
        gamma, a, b, c, d = self.curve
        return np.where(coded >= d, np.maximum(a * coded + b, 0) ** gamma, c * coded)

    def to_connection(self) -> Matrix:
        """From linear RGB to XYZ relative to D50, 3×3."""
        columns = np.array([_xyz(place) for place in self.primaries]).T
        matrix = columns * np.linalg.solve(columns, _xyz(self.white))
        return np.asarray(adaptation(self.white) @ matrix)


SPACES: dict[SpaceName, Space] = {
    space.name: space
    for space in (
        Space("srgb", "sRGB", ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06)), _D65, _SRGB_CURVE),
        Space("display-p3", "Display P3", ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)), _D65, _SRGB_CURVE),
        Space("a98-rgb", "A98 RGB", ((0.64, 0.33), (0.21, 0.71), (0.15, 0.06)), _D65, (563 / 256,)),
        Space("rec2020-rgb", "Rec. 2020", ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046)), _D65, _SRGB_CURVE),
        Space(
            "prophoto-rgb", "ProPhoto RGB (ROMM)",
            ((0.734699, 0.265301), (0.159597, 0.840403), (0.036598, 0.000105)), _D50, _ROMM_CURVE,
        ),
    )
}  # fmt: skip


def _xyz(place: tuple[float, float]) -> npt.NDArray[np.float64]:
    x, y = place
    return np.array([x / y, 1.0, (1 - x - y) / y])


def adaptation(white: tuple[float, float]) -> Matrix:
    """Bradford's chromatic adaptation from a white to ICC's D50."""
    before, after = _BRADFORD @ _xyz(white), _BRADFORD @ _CONNECTION
    return np.asarray(np.linalg.inv(_BRADFORD) @ np.diag(after / before) @ _BRADFORD)


@cache
def profile_of(name: SpaceName) -> bytes:
    """An ICC profile (version 4, matrix and curves) of one of :data:`SPACES`."""
    space = SPACES[name]
    matrix = space.to_connection()
    curve = _curve(space.curve)
    tags = [
        (b"desc", _text(space.title)),
        (b"cprt", _text("No rights are claimed in this profile.")),
        (b"wtpt", _numbers(b"XYZ ", _CONNECTION)),
        (b"chad", _numbers(b"sf32", adaptation(space.white).ravel())),
        *((tag, _numbers(b"XYZ ", column)) for tag, column in zip((b"rXYZ", b"gXYZ", b"bXYZ"), matrix.T, strict=True)),
        *((tag, curve) for tag in (b"rTRC", b"gTRC", b"bTRC")),
    ]
    return assembled(tags)


@cache
def grey_profile() -> bytes:
    """An ICC profile (version 4) of grey with the tone curve of sRGB, for what has none of its own."""
    return assembled(
        [
            (b"desc", _text("Grey with the curve of sRGB")),
            (b"cprt", _text("No rights are claimed in this profile.")),
            (b"wtpt", _numbers(b"XYZ ", _CONNECTION)),
            (b"kTRC", _curve(_SRGB_CURVE)),
        ],
        b"GRAY",
    )


def _fixed(value: float) -> bytes:
    return struct.pack(">i", round(value * 65536))


def _numbers(kind: bytes, values: npt.NDArray[np.float64]) -> bytes:
    return kind + bytes(4) + b"".join(_fixed(float(value)) for value in values)


def _text(text: str) -> bytes:
    coded = text.encode("utf-16-be")
    return b"mluc" + bytes(4) + struct.pack(">II2s2sII", 1, 12, b"en", b"US", len(coded), 28) + coded


def _curve(parameters: tuple[float, ...]) -> bytes:
    kind = 0 if len(parameters) == 1 else 3
    return b"para" + bytes(4) + struct.pack(">HH", kind, 0) + b"".join(map(_fixed, parameters))


def assembled(
    tags: list[tuple[bytes, bytes]], colours: bytes = b"RGB ", kind: bytes = b"mntr", connection: bytes = b"XYZ ",
    version: int = 4,
) -> bytes:  # fmt: skip
    """A profile of header, table and bodies; equal bodies are stored once.

    ``colours``, ``kind`` and ``connection`` are the signatures of the device's colours, its class and the space its
    tables lead to.
    """
    place = 128 + 4 + 12 * len(tags)
    table, bodies = b"", b""
    stored: dict[bytes, int] = {}
    for tag, body in tags:
        if body not in stored:
            stored[body] = place + len(bodies)
            bodies += body + bytes(-len(body) % 4)
        table += tag + struct.pack(">II", stored[body], len(body))
    content = struct.pack(">I", len(tags)) + table + bodies
    header = struct.pack(
        ">I4sI4s4s4s12s4s4sI4s4sQI12s4s", 128 + len(content), bytes(4), _VERSIONS[version], kind, colours, connection,
        struct.pack(">6H", 2026, 1, 1, 0, 0, 0), b"acsp", bytes(4), 0, bytes(4), bytes(4), 0, 0,
        b"".join(map(_fixed, _CONNECTION)), bytes(4),
    )  # fmt: skip
    return header + bytes(128 - len(header)) + content
