"""Dust, hairs, scratches and creases, found in a picture and traced as strokes that can be painted over.

A network of our own tells of every pixel how likely it is damaged (``lab/recipes/blemishes.py``); what hangs together is
a blemish.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import onnxruntime

from kitecore.engines.engine import session_of
from kitecore.pipeline.geometry import Size, grid
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.reading.tracing import SMALLEST, Kind, shapes_in, strokes_over

Plane = npt.NDArray[np.float32]

_NETWORK = Path(__file__).parent / "blemishes.onnx"
#: Side of what the network is given, pixels around it that it looks at, and what sides divide by.
_TILE, _AROUND, _STRIDE = 512, 64, 8
#: Where no pixel is more likely damaged than that, one look is enough; and nobody is surer than so far from 0 and 1.
_SUSPECTED, _SUREST = 0.1, 1e-4
_BACKWARDS = slice(None, None, -1)
_MIRRORINGS = ((slice(None), _BACKWARDS), (_BACKWARDS, slice(None)), (_BACKWARDS, _BACKWARDS))
#: A pixel belongs to a blemish from this chance on; a blemish is told of from this one on: the mean of its surest third.
_PIXEL, _LEAST = 0.35, 0.5
#: Wider than that, px, it is no dust, hair or scratch.
_WIDEST = 60.0


class Blemish(NamedTuple):
    """One, in pixels of what was looked at: a line through it, and how wide a brush covers it."""

    kind: Kind
    sure: float
    points: list[tuple[float, float]]
    size: float


class BlemishFinder:
    """The network, loaded when it is first needed."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._session: onnxruntime.InferenceSession | None = None

    def chances(self, pixels: Pixels, run: Run, progress: Callable[[float], None] = lambda _: None) -> Plane:
        """How likely each pixel is damaged, H×W in 0..1, of H×W×1 or 3 coded in 0..1. Raises Cancelled.

        Where anything is suspected, seen as it is, mirrored, and both upside down, of which the mean is taken.
        """
        with self._lock:
            if self._session is None:
                self._session = session_of(_NETWORK.read_bytes())
        height, width = pixels.shape[:2]
        colours = np.clip(pixels if pixels.shape[2] >= 3 else pixels[..., :1].repeat(3, axis=2), 0, 1)[..., :3]
        bottom, right = -height % _STRIDE, -width % _STRIDE
        padded = np.pad(colours, ((_AROUND, _AROUND + bottom), (_AROUND, _AROUND + right), (0, 0)), "reflect" if min(
            height, width) > _AROUND + _STRIDE else "edge")  # fmt: skip
        result = np.zeros((height + bottom, width + right), np.float32)
        tiles = list(grid(Size(width + right, height + bottom), Size(_TILE, _TILE)))
        for number, tile in enumerate(tiles):
            run.check()
            given = padded[tile.y : tile.bottom + 2 * _AROUND, tile.x : tile.right + 2 * _AROUND]
            result[tile.y : tile.bottom, tile.x : tile.right] = self._seen(given)[_AROUND:-_AROUND, _AROUND:-_AROUND]
            progress((number + 1) / len(tiles))
        return result[:height, :width]

    def _seen(self, given: Pixels) -> Plane:
        first = self._chance(given)
        if first[_AROUND:-_AROUND, _AROUND:-_AROUND].max() <= _SUSPECTED:
            return first
        others = (self._chance(given[down, across])[down, across] for down, across in _MIRRORINGS)
        # Of odds, not of chances: whoever is sure counts for more than who is in doubt.
        odds = np.mean([_odds(first), *map(_odds, others)], axis=0, dtype=np.float32)
        return np.asarray(1 / (1 + np.exp(-odds)), np.float32)

    def _chance(self, given: Pixels) -> Plane:
        assert self._session is not None
        planes = np.ascontiguousarray(given.transpose(2, 0, 1)[None], np.float32)
        return np.asarray(self._session.run(["chance"], {"picture": planes})[0][0, 0], np.float32)


def _odds(chance: Plane) -> Plane:
    """Their logarithm."""
    known = np.clip(chance, _SUREST, 1 - _SUREST)
    return np.asarray(np.log(known / (1 - known)), np.float32)


finder = BlemishFinder()


def find_blemishes(
    pixels: Pixels, run: Run, progress: Callable[[float], None] = lambda _: None, least: float = _LEAST
) -> list[Blemish]:
    """The blemishes of H×W×1 or 3 pixels coded in 0..1, the surest first; none below ``least``. Raises Cancelled."""
    return blemishes_in(finder.chances(pixels, run, progress), run, least)


def blemishes_in(chance: Plane, run: Run, least: float = _LEAST) -> list[Blemish]:
    """What hangs together where pixels are likely damaged, as strokes that cover it, the surest first."""
    found = []
    for number, (box, shape) in enumerate(shapes_in(chance > _PIXEL)):
        if number % 200 == 0:
            run.check()
        down, across = box[0].start, box[1].start
        chances = chance[box]
        for covered, stroke in strokes_over(shape):
            surest = np.sort(chances[covered])[-max(SMALLEST, int(covered.sum()) // 3) :]
            if (sure := float(surest.mean())) >= least and stroke.size <= _WIDEST:
                points = [(x + across, y + down) for x, y in stroke.points]
                found.append(Blemish(stroke.kind, sure, points, stroke.size))
    return sorted(found, key=lambda one: -one.sure)
