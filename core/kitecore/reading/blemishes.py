"""Dust, hairs, scratches and creases, found in a picture and traced as strokes that can be painted over.

A network of our own tells of every pixel how likely it is damaged (``lab/recipes/blemishes.py``); what hangs together is
a blemish.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import Literal, NamedTuple

import cv2
import numpy as np
import numpy.typing as npt
import onnxruntime

from kitecore.engines.engine import session_of
from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Kind = Literal["speck", "line"]
Plane = npt.NDArray[np.float32]
Where = npt.NDArray[np.bool_]

_NETWORK = Path(__file__).parent / "blemishes.onnx"
#: Side of what the network is given, pixels around it that it looks at, and what sides divide by.
_TILE, _AROUND, _STRIDE = 512, 64, 8
#: Of the time a search takes, for progress; the rest is for the picture at half its size.
_SHARE_OF_WHOLE = 0.8
#: A pixel belongs to a blemish from this chance on; a blemish is told of from this one on: the mean of its surest third.
_PIXEL, _LEAST = 0.35, 0.5
#: Smallest blemish, px; wider than that it is no dust, hair or scratch.
_SMALLEST, _WIDEST = 3, 60.0
#: A blemish so many times as long as wide is a line.
_LINE = 3.5
#: How much wider than itself what covers it is, px.
_MARGIN = 1.5
_MOST_POINTS = 60
#: What goes on farther away than that, px, is another branch.
_PARTED = 6.0


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

        Seen as it is and mirrored, of which the mean is taken; and the same at half the size, where large crumbs are small.
        """
        with self._lock:
            if self._session is None:
                self._session = session_of(_NETWORK.read_bytes())
        height, width = pixels.shape[:2]
        colours = np.clip(pixels if pixels.shape[2] >= 3 else pixels[..., :1].repeat(3, axis=2), 0, 1)[..., :3]
        whole = self._seen(colours, run, lambda share: progress(_SHARE_OF_WHOLE * share))
        if min(height, width) < 2 * _STRIDE:
            return whole
        small = np.asarray(cv2.resize(colours, (width // 2, height // 2), interpolation=cv2.INTER_AREA), np.float32)
        half = self._seen(small, run, lambda share: progress(_SHARE_OF_WHOLE + (1 - _SHARE_OF_WHOLE) * share))
        return np.maximum(whole, cv2.resize(half, (width, height), interpolation=cv2.INTER_LINEAR))

    def _seen(self, colours: Pixels, run: Run, progress: Callable[[float], None]) -> Plane:
        """At one size, H×W×3."""
        height, width = colours.shape[:2]
        bottom, right = -height % _STRIDE, -width % _STRIDE
        padded = np.pad(colours, ((_AROUND, _AROUND + bottom), (_AROUND, _AROUND + right), (0, 0)), "reflect" if min(
            height, width) > _AROUND + _STRIDE else "edge")  # fmt: skip
        result = np.zeros((height + bottom, width + right), np.float32)
        tiles = list(grid(Size(width + right, height + bottom), Size(_TILE, _TILE)))
        for number, tile in enumerate(tiles):
            run.check()
            given = padded[tile.y : tile.bottom + 2 * _AROUND, tile.x : tile.right + 2 * _AROUND]
            chance = self._chance(given)
            # Where nothing is suspected, another look is of no use.
            if chance[_AROUND:-_AROUND, _AROUND:-_AROUND].max() > _PIXEL:
                chance = np.float32(0.5) * (chance + self._chance(given[:, ::-1])[:, ::-1])
            result[tile.y : tile.bottom, tile.x : tile.right] = chance[_AROUND:-_AROUND, _AROUND:-_AROUND]
            progress((number + 1) / len(tiles))
        return result[:height, :width]

    def _chance(self, given: Pixels) -> Plane:
        assert self._session is not None
        planes = np.ascontiguousarray(given.transpose(2, 0, 1)[None], np.float32)
        return np.asarray(self._session.run(["chance"], {"picture": planes})[0][0, 0], np.float32)


finder = BlemishFinder()


def find_blemishes(
    pixels: Pixels, run: Run, progress: Callable[[float], None] = lambda _: None, least: float = _LEAST
) -> list[Blemish]:
    """The blemishes of H×W×1 or 3 pixels coded in 0..1, the surest first; none below ``least``. Raises Cancelled."""
    return blemishes_in(finder.chances(pixels, run, progress), run, least)


def blemishes_in(chance: Plane, run: Run, least: float = _LEAST) -> list[Blemish]:
    """What hangs together where pixels are likely damaged, the surest first."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats((chance > _PIXEL).astype(np.uint8), connectivity=8)
    found = []
    for label in range(1, count):
        x, y, width, height, area = (int(value) for value in stats[label])
        if area < _SMALLEST:
            continue
        if label % 200 == 0:
            run.check()
        box = Region(x, y, width, height).slices(Region(0, 0, chance.shape[1], chance.shape[0]))
        inside = labels[box] == label
        surest = np.sort(chance[box][inside])[-max(_SMALLEST, area // 3) :]
        if (sure := float(surest.mean())) >= least and (one := _traced(inside, sure)).size <= _WIDEST:
            found.append(one._replace(points=[(across + x, down + y) for across, down in one.points]))
    return sorted(found, key=lambda one: -one.sure)


def _traced(inside: Where, sure: float) -> Blemish:
    """One connected shape as a stroke along it."""
    padded = np.pad(inside, 1).astype(np.uint8)
    depth = np.asarray(cv2.distanceTransform(padded, cv2.DIST_L2, 3), np.float32)[1:-1, 1:-1]
    path = _longest_path(inside, depth)
    length = float(np.hypot(*np.diff(path, axis=0).T).sum()) if len(path) > 1 else 0.0
    thick = 2 * float(depth.max())
    line = length > _LINE * thick
    if not line:
        ys, xs = np.nonzero(inside)
        middle = np.array([xs.mean(), ys.mean()]) + 0.5
        reach = float(np.hypot(xs + 0.5 - middle[0], ys + 0.5 - middle[1]).max())
        return Blemish("speck", sure, [(float(middle[0]), float(middle[1]))], 2 * (reach + _MARGIN))
    # As wide as all of it lies from the line that was traced.
    off = _farthest(inside, path)
    points = path[:: max(1, -(-len(path) // _MOST_POINTS))]
    points = np.vstack([points, path[-1:]]) if not np.array_equal(points[-1], path[-1]) else points
    return Blemish("line", sure, [(float(x), float(y)) for x, y in points], 2 * (off + _MARGIN))


def _farthest(inside: Where, path: npt.NDArray[np.float64]) -> float:
    """How far the pixels of a shape lie from a path through it, at most."""
    canvas = np.ones(inside.shape, np.uint8)
    corners = np.rint(path - 0.5).astype(np.int32).reshape(-1, 1, 2)
    cv2.polylines(canvas, [corners], False, 0, 1)
    away = cv2.distanceTransform(canvas, cv2.DIST_L2, 3)
    return float(away[inside].max()) + 0.5


def _longest_path(inside: Where, depth: Plane) -> npt.NDArray[np.float64]:
    """The middle of a shape from one end to the other, N×2 places: the longest of the shortest ways through it.

    Told by fronts that spread from one pixel to its neighbours: the farthest pixel from anywhere is one end, the farthest from
    there the other.
    """
    start = np.unravel_index(int(np.argmax(np.where(inside, depth, -1))), inside.shape)
    end = np.unravel_index(int(np.argmax(_fronts(inside, start))), inside.shape)
    fronts = _fronts(inside, end)
    last = int(fronts.max())
    # The middle of each front; one that parts goes on where it is nearest to what came before.
    path: list[tuple[float, float]] = []
    for front in range(0, last + 1, 2):
        ys, xs = np.nonzero((fronts == front) | (fronts == front + 1))
        if path:
            near = np.hypot(xs + 0.5 - path[-1][0], ys + 0.5 - path[-1][1]) < _PARTED
            xs, ys = (xs[near], ys[near]) if near.any() else (xs, ys)
        path.append((float(xs.mean()) + 0.5, float(ys.mean()) + 0.5))
    return np.asarray(path, np.float64)


def _fronts(inside: Where, start: tuple[np.intp, ...]) -> npt.NDArray[np.int32]:
    """How many steps each pixel of a shape lies from one of them; −1 outside."""
    steps = np.full(inside.shape, -1, np.int32)
    front = np.zeros(inside.shape, np.uint8)
    front[start] = 1
    seen, step = front.astype(bool), 0
    cross = np.ones((3, 3), np.uint8)
    while front.any():
        steps[front.astype(bool)] = step
        grown = cv2.dilate(front, cross).astype(bool) & inside & ~seen
        seen |= grown
        front, step = grown.astype(np.uint8), step + 1
    return steps
