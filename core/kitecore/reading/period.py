"""How a texture repeats: its period, the crop that holds whole periods, and how far its ends should lie over each other."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Plane = npt.NDArray[np.float32]

#: What changes more slowly than this share of a side is light, not texture.
_LIGHT = 0.08
#: A period is at least so many pixels, fits in so many times, and its copies are so alike (correlation); a shorter one counts if
#: it is nearly as good as the best.
_LEAST, _TIMES, _ALIKE, _NEARLY = 6, 2, 0.3, 0.85
#: Ends lie over each other by something between these shares of a side.
_OVER, _LITTLE = (0.08, 0.34), 0.05
#: A whole number of periods may end so far from a whole pixel.
_OFF = 0.2


class Repeats(NamedTuple):
    """Along one side, in pixels: its period, None if it has none; the longest part that holds whole periods; the best overlap."""

    period: float | None
    whole: int
    overlap: int


def repeats_of(pixels: Pixels, run: Run) -> tuple[Repeats, Repeats]:
    """How H×W×C, coded 0..1, repeats across and down. Raises Cancelled."""
    texture = _texture(luma(pixels))
    across = _along(texture, run)
    return across, _along(np.ascontiguousarray(texture.T), run)


def _texture(plane: Plane) -> Plane:
    light = cv2.GaussianBlur(plane, (0, 0), max(2.0, _LIGHT * min(plane.shape)))
    fine = cv2.GaussianBlur(plane, (0, 0), 0.7) - light
    # Its contrast is made even, so that one end of it does not speak for the whole.
    strength = np.sqrt(cv2.GaussianBlur(fine * fine, (0, 0), max(2.0, _LIGHT * min(plane.shape)))) + 1e-3
    return np.asarray(fine / strength, np.float32)


def _along(texture: Plane, run: Run) -> Repeats:
    length = texture.shape[1]
    run.check()
    likeness = _likeness(texture)
    period = _period(likeness, length)
    low, high = (max(2, round(share * length)) for share in _OVER)
    overlap = low
    if high > low:
        lags = np.arange(length - high, length - low + 1)
        alike = likeness[lags]
        # The least that is nearly as good as the best: what lies over is lost.
        overlap = length - int(lags[np.flatnonzero(alike >= alike.max() - _LITTLE * abs(alike.max()))[-1]])
    return Repeats(period, _whole(period, length), overlap)


def _likeness(texture: Plane) -> npt.NDArray[np.float64]:
    """The correlation of a texture with itself moved by 0, 1, 2 … columns, of the columns that meet."""
    length = texture.shape[1]
    spectrum = np.fft.rfft(texture.astype(np.float64), 2 * length, axis=1)
    products = np.fft.irfft((np.abs(spectrum) ** 2).sum(axis=0), 2 * length)[:length]
    energy = np.concatenate([[0.0], np.cumsum(np.square(texture, dtype=np.float64).sum(axis=0))])
    lags = np.arange(length)
    left, right = energy[length - lags], energy[length] - energy[lags]
    return np.asarray(products / np.sqrt(np.maximum(left * right, 1e-12)))


def _period(likeness: npt.NDArray[np.float64], length: int) -> float | None:
    most = length // _TIMES
    inner = likeness[1:most]
    if len(inner) < _LEAST + 2:
        return None
    peaks = 2 + np.flatnonzero((inner[1:-1] >= inner[:-2]) & (inner[1:-1] > inner[2:]))
    peaks = peaks[(peaks >= _LEAST) & (likeness[peaks] > _ALIKE)]
    if not len(peaks):
        return None
    first = peaks[likeness[peaks] >= _NEARLY * likeness[peaks].max()][0]
    period = _summit(likeness, int(first))
    # The farther copy tells it the finer.
    times = 1
    while (times + 1) * period < 0.85 * length:
        times += 1
        near = round(times * period)
        around = np.arange(max(1, near - 2), min(length - 1, near + 3))
        best = int(around[np.argmax(likeness[around])])
        if likeness[best] > _ALIKE:
            period = _summit(likeness, best) / times
    return round(float(period), 3)


def _summit(values: npt.NDArray[np.float64], place: int) -> float:
    """Where a parabola through a peak and its neighbours is highest."""
    before, here, after = values[place - 1], values[place], values[min(place + 1, len(values) - 1)]
    bend = before - 2 * here + after
    return place + (0.5 * (before - after) / bend if bend < 0 else 0.0)


def _whole(period: float | None, length: int) -> int:
    """The longest part that is whole periods, as nearly as pixels allow."""
    if period is None:
        return length
    most = int(length / period + 1e-6)
    counts = np.arange(most, 0, -1)
    off = np.abs(counts * period - np.rint(counts * period))
    fitting = np.flatnonzero(off <= _OFF)
    # Of a part far shorter than it could be nobody is glad.
    chosen = (
        counts[fitting[0]]
        if len(fitting) and counts[fitting[0]] > most / 2
        else counts[int(np.argmin(off[: max(1, most // 2)]))]
    )
    return round(float(chosen) * period)
