"""Crops that suit a picture: of a wanted shape, around what matters in it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from kitecore.filters.guided import Plane
from kitecore.pipeline.geometry import Region, Size

#: Steps of size and of place that are tried, as shares of what there is room for.
_SIZES = np.linspace(0.4, 1.0, 16)
_PLACES = 24
#: Two crops that overlap by more than this are the same one.
_SAME = 0.86
#: How broad the rim of a crop is, as a share of its shorter side, on which nothing that matters should lie.
_RIM = 0.05


class SuggestedCrop(NamedTuple):
    """``region`` in pixels of the picture that was looked at."""

    region: Region
    reason: str


class _Candidate(NamedTuple):
    region: Region
    #: Share of what matters that lies inside, that lies on the rim, and share of the largest crop's area.
    inside: float
    rim: float
    area: float
    #: How far the middle of what matters inside is from the nearest third, in shares of width and height.
    off_thirds: float


def suggest_crops(matters: Plane, ratio: float, whole: Sequence[Region] = ()) -> list[SuggestedCrop]:
    """Up to three crops of width ÷ height ``ratio``: all that matters, closer, and with it at a third.

    Parameters
    ----------
    matters
        H×W, at least 0: how much each place matters.
    whole
        What must not be cut: faces, check spots. Parts that no crop of this shape holds together may be left out whole.

    >>> plane = np.zeros((40, 60), np.float32)
    >>> plane[10:20, 5:15] = 1
    >>> all(one.region.inside(Size(60, 40)) for one in suggest_crops(plane, 1.0))
    True
    """
    candidates = _candidates(np.asarray(matters, np.float64) + 1e-9, ratio, whole)
    wishes: list[tuple[str, Callable[[_Candidate], float]]] = [
        ("all that matters", lambda one: 4 * one.inside - one.rim + 0.4 * one.area),
        ("closer", lambda one: 2 * one.inside - 2 * one.rim - 1.5 * max(0.0, one.area - 0.3) - one.off_thirds * 0.3),
        ("at a third", lambda one: 2 * one.inside - 2 * one.rim - 4 * one.off_thirds - 0.6 * abs(one.area - 0.7)),
    ]
    chosen: list[SuggestedCrop] = []
    for reason, wish in wishes:
        for one in sorted(candidates, key=wish, reverse=True):
            if all(_overlap(one.region, other.region) < _SAME for other in chosen):
                chosen.append(SuggestedCrop(one.region, reason))
                break
    return chosen


def _candidates(matters: np.ndarray, ratio: float, whole: Sequence[Region]) -> list[_Candidate]:
    height, width = matters.shape
    sums = np.pad(matters.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    weighed_x = np.pad((matters * np.arange(width)).cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    weighed_y = np.pad((matters * np.arange(height)[:, None]).cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))

    def over(table: np.ndarray, region: Region) -> float:
        top, bottom, left, right = region.y, region.bottom, region.x, region.right
        return float(table[bottom, right] - table[top, right] - table[bottom, left] + table[top, left])

    total = float(sums[-1, -1])
    largest = Size(max(1, round(min(width, height * ratio))), max(1, round(min(height, width / ratio))))
    found = []
    for share in _SIZES:
        size = largest.scaled(float(share))
        for region in _places(Size(width, height), size):
            if any(_cuts(region, part) for part in whole):
                continue
            inside = over(sums, region)
            rim = max(1, round(_RIM * min(size.width, size.height)))
            inner = Region.between(region.x + rim, region.y + rim, region.right - rim, region.bottom - rim)
            core = over(sums, inner) if inner.width > 0 and inner.height > 0 else inside
            middle = over(weighed_x, region) / inside - region.x, over(weighed_y, region) / inside - region.y
            off = min(
                abs((middle[0] + 0.5) / size.width - across) + 0.5 * abs((middle[1] + 0.5) / size.height - down)
                for across in (1 / 3, 2 / 3)
                for down in (1 / 3, 0.5, 2 / 3)
            )
            found.append(_Candidate(region, inside / total, (inside - core) / total, size.pixels / largest.pixels, off))
    return found


def _places(canvas: Size, size: Size) -> list[Region]:
    across, down = canvas.width - size.width, canvas.height - size.height
    xs = sorted({round(across * index / _PLACES) for index in range(_PLACES + 1)})
    ys = sorted({round(down * index / _PLACES) for index in range(_PLACES + 1)})
    return [Region(x, y, size.width, size.height) for y in ys for x in xs]


def _cuts(region: Region, part: Region) -> bool:
    common = region.intersection(part)
    return common is not None and common != part


def _overlap(one: Region, other: Region) -> float:
    common = one.intersection(other)
    if common is None:
        return 0.0
    shared = common.size.pixels
    return shared / (one.size.pixels + other.size.pixels - shared)
