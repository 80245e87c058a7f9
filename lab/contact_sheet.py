"""Sheets of crops to be looked at: every engine on the same places, beside the input, the classic method and the truth.

PYTHONPATH=core .venv-lab/bin/python lab/contact_sheet.py      # into lab/sheets
"""

from __future__ import annotations

from pathlib import Path

import classic
import damage
import numpy as np
from judged import by, enlarged
from PIL import Image, ImageDraw
from reserved import LETTERING, grey_pictures, reserved_pictures
from watch import worn

from kitecore.engines import engines
from kitecore.steps import Deblur, Denoise, Repair
from kitecore.steps.deblur import FocusBlur, MotionBlur

SHEETS = Path(__file__).parent / "sheets"
CELL = 168
#: Picture, left and top in the truth: an eye, a badge, cloth, a rim, an eye and fur, a lattice and sky, lettering.
PLACES = (
    ("astronaut", 168, 72),
    ("astronaut", 24, 312),
    ("coffee", 240, 120),
    ("chelsea", 96, 72),
    ("rocket", 288, 96),
    ("text", 24, 24),
)

Column = tuple[str, np.ndarray]


def sheet(rows: list[list[Column]], path: Path) -> None:
    width, height = len(rows[0]) * (CELL + 4), len(rows) * (CELL + 22)
    image = Image.new("RGB", (width, height), (90, 90, 90))
    pen = ImageDraw.Draw(image)
    for y, row in enumerate(rows):
        for x, (name, pixels) in enumerate(row):
            pen.text((x * (CELL + 4) + 3, y * (CELL + 22) + 4), name, (255, 255, 255))
            image.paste(
                Image.fromarray(damage.eight(pixels)).crop((0, 0, CELL, CELL)), (x * (CELL + 4), y * (CELL + 22) + 20)
            )
    image.save(path)


def truth_at(name: str, left: int, top: int, around: int) -> tuple[np.ndarray, slice, slice]:
    """A piece of the truth with surroundings, and where the cell lies in it."""
    picture = (reserved_pictures() | grey_pictures(LETTERING))[name]
    y, x = max(0, top - around), max(0, left - around)
    piece = np.ascontiguousarray(picture[y : top + CELL + around, x : left + CELL + around])
    height, width = (length // 24 * 24 for length in piece.shape[:2])
    return piece[:height, :width], slice(top - y, top - y + CELL), slice(left - x, left - x + CELL)


def enlarging(path: Path, is_worn: bool) -> None:
    random = np.random.default_rng(2)
    names = [name for name, engine in engines().items() if engine.manifest.kind == "enlarge"]
    names.sort(key=lambda name: (name != "plain", engines()[name].manifest.order))
    rows = []
    for name, left, top in PLACES:
        truth, down, across = truth_at(name, left, top, 48)
        small = worn(truth, 4, random) if is_worn else damage.shrink(truth, 4)
        columns = [(engine, enlarged(engine, small, 4)[down, across]) for engine in names]
        rows.append([*columns, (f"truth: {name}", truth[down, across])])
    sheet(rows, path)


def restoring(path: Path) -> None:
    random = np.random.default_rng(2)
    rows: list[list[Column]] = []
    for name, left, top in (PLACES[0], PLACES[3], PLACES[4]):
        truth, down, across = truth_at(name, left, top, 96)

        def row(
            what: str, given: np.ndarray, usual: np.ndarray, ours: np.ndarray, truth: np.ndarray = truth
        ) -> list[Column]:
            columns = [(what, given), ("classic", usual), ("ours", ours), ("truth", truth)]
            return [(label, pixels[down, across]) for label, pixels in columns]  # noqa: B023

        noisy = damage.add_noise(truth, 25, random)
        clean = by([Denoise(luminance=100, colour=100)], noisy)
        sensed = damage.eight(damage.sensor(truth, 260, 0.012, random))
        calm = by([Denoise(luminance=100, colour=100)], sensed)
        packed = damage.jpeg(truth, 15)
        mended = by([Repair(strength=100)], packed)
        focus, motion = FocusBlur(radius=2.5), MotionBlur(angle=30, length=10)
        soft = damage.add_noise(damage.blurred(truth, focus.psf()), 1.5, random)
        drawn_out = damage.add_noise(damage.blurred(truth, motion.psf()), 1.5, random)
        first = row("noise, sigma 25", noisy, classic.non_local_means(noisy, truth), clean)
        second = row("sensor noise", sensed, classic.non_local_means(sensed, truth), calm)
        third = row("JPEG 15", packed, classic.smoothed(packed, truth), mended)
        fourth = row("focus 2.5", soft, classic.lucy(soft, focus.psf(), truth), by([Deblur(blur=focus)], soft))
        fifth = row(
            "motion 10", drawn_out, classic.lucy(drawn_out, motion.psf(), truth), by([Deblur(blur=motion)], drawn_out)
        )
        rows += [first + second, third + fourth, fifth + first]
    sheet(rows, path)


def main() -> None:
    SHEETS.mkdir(exist_ok=True)
    enlarging(SHEETS / "enlarge.png", is_worn=False)
    enlarging(SHEETS / "enlarge-worn.png", is_worn=True)
    restoring(SHEETS / "restore.png")


if __name__ == "__main__":
    main()
