"""How far a result's tones and colours are from its source's, detail left aside."""

from __future__ import annotations

import math

import numpy as np
from pydantic import BaseModel, Field

from kitecore.areas import brought_back
from kitecore.colour import to_lab
from kitecore.geometry import Region, Size
from kitecore.run import Run
from kitecore.stage import Stage

#: Areas compared, in source pixels a side, and how many a side of the picture.
_AREA, _AREAS = 24, 5


class Drift(BaseModel):
    """Colour differences between areas of the source and what became of them, as ΔE2000."""

    mean: float
    most: float
    x: int = Field(description="Middle of the area that differs most, in pixels of the result.")
    y: int
    areas: int = Field(description="How many areas were compared.")


def _areas(size: Size) -> list[Region]:
    """Evenly spread areas of a picture, at most 5×5."""
    width, height = min(_AREA, size.width), min(_AREA, size.height)

    def starts(length: int, side: int) -> list[int]:
        count = min(_AREAS, length // side)
        return [round(step * (length - side) / max(1, count - 1)) for step in range(count)] if count > 1 else [0]

    return [Region(x, y, width, height) for y in starts(size.height, height) for x in starts(size.width, width)]


def measure_drift(source: Stage, result: Stage, profile: bytes | None, run: Run) -> Drift:
    """Compare ``result`` with the picture it was made from (after frame), both in the colour space of ``profile``."""
    scale_x, scale_y = result.size.width / source.size.width, result.size.height / source.size.height
    areas = _areas(source.size)
    before, after = [], []
    for area in areas:
        run.check()
        place = Region.between(
            math.floor(area.x * scale_x), math.floor(area.y * scale_y),
            min(result.size.width, math.ceil(area.right * scale_x)),
            min(result.size.height, math.ceil(area.bottom * scale_y)),
        )  # fmt: skip
        back = brought_back(result.render(place, run), place, area, scale_x, scale_y)
        before.append(source.render(area, run).mean(axis=(0, 1), dtype=np.float64))
        after.append(back.mean(axis=(0, 1), dtype=np.float64))
    first, second = (to_lab(np.array([means], np.float32), profile) for means in (before, after))
    difference = first.dE00(second).numpy().reshape(-1)
    worst = areas[int(difference.argmax())]
    return Drift(
        mean=round(float(difference.mean()), 3), most=round(float(difference.max()), 3),
        x=round((worst.x + worst.width / 2) * scale_x), y=round((worst.y + worst.height / 2) * scale_y), areas=len(areas),
    )  # fmt: skip
