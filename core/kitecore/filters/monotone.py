"""A curve through points that never swings beyond them: cubic, with the slopes of Fritsch and Carlson.

F. N. Fritsch, R. E. Carlson, “Monotone piecewise cubic interpolation”, SIAM J. Numer. Anal. 17 (1980); slopes as
F. N. Fritsch and J. Butland have them (1984).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.evenly import read_evenly
from kitecore.pipeline.pixels import Pixels

Values = npt.NDArray[np.float64]
Point = tuple[float, float]
#: The curve is read from a table of so many steps: to 1e-6.
_STEPS = 1 << 14
_f32 = np.float32


def curve_through(points: Sequence[Point], values: Pixels) -> Pixels:
    """``values``, any shape, sent through the curve; before the first and behind the last point it goes on straight.

    Parameters
    ----------
    points
        At least two, x rising strictly.

    >>> [round(float(value), 3) for value in curve_through([(0, 0), (0.5, 0.7), (1, 1)], np.array([0, 0.5, 1], np.float32))]
    [0.0, 0.7, 1.0]
    """
    x, y = np.asarray(points, np.float64).T
    slopes = _slopes(x, y)
    table = _between(x, y, slopes, np.linspace(x[0], x[-1], _STEPS + 1)).astype(np.float32)
    low, high = np.float32(slopes[0]), np.float32(slopes[-1])
    beyond = low * np.minimum(values - _f32(x[0]), 0) + high * np.maximum(values - _f32(x[-1]), 0)
    return np.asarray(read_evenly(table, values, x[0], x[-1]) + beyond, np.float32)


def _between(x: Values, y: Values, slopes: Values, values: Values) -> Values:
    place = np.clip(np.searchsorted(x, values, side="right") - 1, 0, len(x) - 2)
    width = x[place + 1] - x[place]
    share = (values - x[place]) / width
    rest = 1 - share
    return np.asarray(
        (1 + 2 * share) * rest**2 * y[place]
        + share * rest**2 * width * slopes[place]
        + share**2 * (3 - 2 * share) * y[place + 1]
        - share**2 * rest * width * slopes[place + 1]
    )


def _slopes(x: Values, y: Values) -> Values:
    width, rise = np.diff(x), np.diff(y) / np.diff(x)
    if len(x) == 2:
        return np.repeat(rise, 2)
    before, after = 2 * width[1:] + width[:-1], width[1:] + 2 * width[:-1]
    same_way = rise[:-1] * rise[1:] > 0
    with np.errstate(all="ignore"):
        mean = (before + after) / (before / rise[:-1] + after / rise[1:])
    inner = np.where(same_way, mean, 0.0)
    first = _end(width[0], width[1], rise[0], rise[1])
    last = _end(width[-1], width[-2], rise[-1], rise[-2])
    return np.concatenate([[first], inner, [last]])


def _end(width: float, next_width: float, rise: float, next_rise: float) -> float:
    """One-sided, kept within what leaves the curve monotone."""
    slope = ((2 * width + next_width) * rise - width * next_rise) / (width + next_width)
    if slope * rise <= 0:
        return 0.0
    return 3 * rise if rise * next_rise < 0 and abs(slope) > 3 * abs(rise) else float(slope)
