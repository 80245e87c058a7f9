"""Make the printer profile that ships: a made-up printer of four inks on matte cotton paper.

    PYTHONPATH=core .venv/bin/python lab/printer.py

Ink is modelled by Neugebauer's equations with Yule and Nielsen's factor over sixteen made-up solid colours; nothing was
measured on a real printer, and nothing of anybody's profile is in it. The profile is ICC version 2 with tables in Lab
(ICC.1:2001-04): inks to colour, and colour to inks for each intent.
"""

from __future__ import annotations

import itertools
import struct
from pathlib import Path

import numpy as np
import numpy.typing as npt
from scipy.spatial import cKDTree
from skimage.color import lab2xyz, xyz2lab

from kitecore.colour.spaces import assembled

Floats = npt.NDArray[np.float64]

TARGET = Path(__file__).parent.parent / "core/kitecore/printers/matte-cotton.icc"
NAME = "Matte cotton, a made-up printer"
WHITE = np.array([0.9642, 1.0, 0.8249])
PAPER = (95.5, 0.4, -1.6)
#: Lab of the solids by the inks on top of each other: cyan, magenta, yellow; black covers what is below it nearly.
SOLIDS = {
    (0, 0, 0): PAPER, (1, 0, 0): (56, -33, -45), (0, 1, 0): (49, 68, -5), (0, 0, 1): (88, -6, 84),
    (1, 1, 0): (28, 17, -42), (1, 0, 1): (50, -58, 27), (0, 1, 1): (48, 61, 41), (1, 1, 1): (26, 1, 1),
}  # fmt: skip
BLACK = (23.0, 0.8, 0.6)
BLACK_COVERS = 0.93
NIELSEN = 1.9
#: Ink spreads on cotton: a dot is larger than it was sent.
DOT_GAIN = 0.16
INKS_GRID, LAB_GRID, DENSE = 9, 27, 41


def _xyz(lab: Floats) -> Floats:
    return np.asarray(lab2xyz(lab, illuminant="D50", observer="2"))


def _lab(xyz: Floats) -> Floats:
    return np.asarray(xyz2lab(np.maximum(xyz, 0), illuminant="D50", observer="2"))


def printed(inks: Floats) -> Floats:
    """XYZ (D50) of paper printed with inks N×4, 0..1 in the order cyan, magenta, yellow, black."""
    dots = inks + DOT_GAIN * 4 * inks * (1 - inks) * 0.5
    total = np.zeros((len(inks), 3))
    for solid in itertools.product((0, 1), repeat=4):
        xyz = _xyz(np.array([[SOLIDS[solid[:3]]]], float))[0, 0]
        if solid[3]:
            black = _xyz(np.array([[BLACK]], float))[0, 0]
            # Black over colours is a little deeper than black on paper.
            xyz = black * BLACK_COVERS + np.minimum(xyz, black) * (1 - BLACK_COVERS)
        share = np.prod([dots[:, ink] if on else 1 - dots[:, ink] for ink, on in enumerate(solid)], axis=0)
        total += share[:, None] * xyz ** (1 / NIELSEN)
    return np.asarray(total**NIELSEN)


def relative_lab(inks: Floats) -> Floats:
    """Lab N×3 of printed inks relative to the paper, as the tables of a profile hold it."""
    paper = printed(np.zeros((1, 4)))
    return _lab(printed(inks) / paper * WHITE)


def separated(colours: Floats) -> Floats:
    """Inks N×4 for amounts of cyan, magenta and yellow N×3: what is grey among them is printed with black."""
    grey = colours.min(axis=1, keepdims=True)
    black = np.clip((grey - 0.35) / 0.65, 0, 1) ** 1.4
    return np.hstack([colours - 0.35 * black * grey, black])


def _inverse() -> tuple[Floats, cKDTree, Floats]:
    steps = np.linspace(0, 1, DENSE)
    colours = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(-1, 3)
    labs = relative_lab(separated(colours))
    return colours, cKDTree(labs), labs


def inks_for(labs: Floats) -> Floats:
    """Inks N×4 whose printed colour is nearest to Lab N×3."""
    colours, tree, _ = _inverse()
    found = colours[tree.query(labs)[1]].copy()
    for _ in range(12):
        now = relative_lab(separated(found))
        tiny = 1e-4
        slopes = np.stack(
            [
                (relative_lab(separated(np.clip(found + tiny * (np.arange(3) == axis), 0, 1))) - now) / tiny
                for axis in range(3)
            ],
            axis=2,
        )
        transposed = slopes.transpose(0, 2, 1)
        step = np.linalg.solve(transposed @ slopes + 4.0 * np.eye(3), (transposed @ (labs - now)[..., None]))[..., 0]
        better = np.clip(found + step, 0, 1)
        gains = np.linalg.norm(relative_lab(separated(better)) - labs, axis=1) < np.linalg.norm(now - labs, axis=1)
        found[gains] = better[gains]
    return separated(found)


def _table(grid: int, into: int, out_of: int, values: Floats) -> bytes:
    """A lut16Type: identity curves around a table of ``values`` 0..1, the first channel changing slowest."""
    identity = struct.pack(">9i", *(65536 * (row == column) for row in range(3) for column in range(3)))
    head = b"mft2" + bytes(4) + struct.pack(">BBBx", into, out_of, grid) + identity + struct.pack(">HH", 2, 2)
    curve = struct.pack(">HH", 0, 65535)
    body = np.clip(np.rint(values * 65535), 0, 65535).astype(">u2").tobytes()
    return head + curve * into + body + curve * out_of


def _coded(labs: Floats) -> Floats:
    """Lab as version 2 codes it in 16 bits, 0..1 of 65535: L 100 is 0xFF00, a and b are offset by 128."""
    codes = np.stack([labs[:, 0] * 652.8, (labs[:, 1] + 128) * 256, (labs[:, 2] + 128) * 256], axis=1)
    return np.asarray(codes / 65535)


def _tags() -> list[tuple[bytes, bytes]]:
    steps = np.linspace(0, 1, INKS_GRID)
    inks = np.stack(np.meshgrid(*[steps] * 4, indexing="ij"), axis=-1).reshape(-1, 4)
    to_colour = _table(INKS_GRID, 4, 3, _coded(relative_lab(inks)))

    codes = np.linspace(0, 65535, LAB_GRID)
    lightness, places = codes / 652.8, codes / 256 - 128
    labs = np.stack(np.meshgrid(lightness, places, places, indexing="ij"), axis=-1).reshape(-1, 3)
    colorimetric = _table(LAB_GRID, 3, 4, inks_for(labs))
    # Perceptual: black to black, and all colours a little nearer to grey, so that none are lost against each other.
    darkest = relative_lab(separated(np.ones((1, 3))))[0, 0]
    gentle = np.stack([darkest + labs[:, 0] * (100 - darkest) / 100, labs[:, 1] * 0.86, labs[:, 2] * 0.86], axis=1)
    perceptual = _table(LAB_GRID, 3, 4, inks_for(gentle))

    ascii_name = NAME.encode()
    description = b"desc" + bytes(4) + struct.pack(">I", len(ascii_name) + 1) + ascii_name + bytes(1 + 8 + 3 + 67)
    rights = b"text" + bytes(4) + b"No rights are claimed in this profile.\0"
    white = b"XYZ " + bytes(4) + struct.pack(">3i", *(round(value * 65536) for value in printed(np.zeros((1, 4)))[0]))
    return [
        (b"desc", description), (b"cprt", rights), (b"wtpt", white), (b"A2B0", to_colour), (b"A2B1", to_colour),
        (b"A2B2", to_colour), (b"B2A0", perceptual), (b"B2A1", colorimetric), (b"B2A2", perceptual),
    ]  # fmt: skip


if __name__ == "__main__":
    TARGET.write_bytes(assembled(_tags(), b"CMYK", b"prtr", b"Lab ", version=2))
