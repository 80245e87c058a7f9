"""How far a result's tones and colours are from its source's, detail left aside."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, Field

from kitecore.colour.conversion import to_lab
from kitecore.pipeline.area_means import brought_back
from kitecore.pipeline.geometry import Region, Size, evenly_spread
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Areas compared, in source pixels a side, and how many a side of the picture.
_AREA, _AREAS = 24, 5


class ColourShift(BaseModel):
    """Colour differences between areas of the source and what became of them, as ΔE2000."""

    mean: float
    most: float
    x: int = Field(description="Middle of the area that differs most, in pixels of the result.")
    y: int
    areas: int = Field(description="How many areas were compared.")


def _areas(size: Size) -> list[Region]:
    """Evenly spread areas of a picture, at most 5×5."""
    columns, rows = (max(1, min(_AREAS, length // _AREA)) for length in (size.width, size.height))
    return evenly_spread(size, Size(_AREA, _AREA), columns, rows)


def measure_colour_shift(source: Stage, result: Stage, profile: bytes | None, run: Run) -> ColourShift:
    """Compare ``result`` with the picture it was made from (after frame), both in the colour space of ``profile``."""
    scale_x, scale_y = result.size.width / source.size.width, result.size.height / source.size.height
    areas = _areas(source.size)
    before, after = [], []
    for area in areas:
        run.check()
        place = area.scaled(scale_x, scale_y).intersection(result.size.region)
        assert place is not None
        back = brought_back(result.render(place, run), place, area, scale_x, scale_y)
        before.append(source.render(area, run).mean(axis=(0, 1), dtype=np.float64))
        after.append(back.mean(axis=(0, 1), dtype=np.float64))
    first, second = (to_lab(np.array([means], np.float32), profile) for means in (before, after))
    difference = first.dE00(second).numpy().reshape(-1)
    worst = areas[int(difference.argmax())]
    return ColourShift(
        mean=round(float(difference.mean()), 3), most=round(float(difference.max()), 3),
        x=round((worst.x + worst.width / 2) * scale_x), y=round((worst.y + worst.height / 2) * scale_y), areas=len(areas),
    )  # fmt: skip
