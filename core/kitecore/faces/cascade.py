"""Find faces of any size by three small networks, each of which looks closer at what the one before left over.

After K. Zhang and others, "Joint Face Detection and Alignment Using Multitask Cascaded Convolutional Networks", 2016.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
import onnxruntime

from kitecore.engines.engine import session_of
from kitecore.pipeline.geometry import Size, grid
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Array = npt.NDArray[np.float32]

_FOLDER = Path(__file__).parent
#: Side of the windows of each stage, in pixels; the first moves in steps of two.
_WINDOW, _REFINED, _DECIDED, _STRIDE = 12, 24, 48, 2
#: Narrowest face that is looked for, in pixels, and by how much each look at the picture is smaller than the one before.
_LEAST, _SMALLER = 11.0, 0.709
#: How sure each stage must be; the last one of a window and its mirror image together.
_SURE = (0.5, 0.6, 0.5)
#: Windows that share more than this of their area are one: within a look, between looks, at the end.
_SAME = (0.5, 0.7, 0.5)
#: Pixels of a part that the first stage is given at once, and windows that the others are.
_PART, _AT_ONCE = 768, 256
#: The last stage may look at so many windows; more than that in one picture is texture.
_MOST = 4000


@dataclass(frozen=True)
class Sighting:
    """A face as the last stage has it: its box (left, top, right, bottom), five places in it, and how sure it is, 0..1.

    The places are the eye farther left in the picture, the other one, the tip of the nose, and the corners of the mouth.
    """

    box: tuple[float, float, float, float]
    places: Array
    sure: float


def sightings(colours: Pixels, run: Run) -> list[Sighting]:
    """Faces of H×W×3, coded 0..1, surest first. Raises Cancelled through ``run``."""
    windows = np.concatenate([np.empty((0, 5), np.float32), *_proposed(colours, run)])
    windows = windows[_apart(windows, _SAME[1])]
    refined = _looked_at(colours, windows, "refine", _REFINED, _SURE[1], run)
    windows = refined[0][_apart(refined[0], _SAME[1])]
    boxes, places = _looked_at(colours, windows, "decide", _DECIDED, _SURE[2], run)
    kept = _apart(boxes, _SAME[2], of_smaller=True)
    return [
        Sighting((float(x0), float(y0), float(x1), float(y1)), places[index], float(sure))
        for index in kept for x0, y0, x1, y1, sure in [boxes[index]]
    ]  # fmt: skip


@cache
def _network(name: str) -> onnxruntime.InferenceSession:
    return session_of((_FOLDER / f"{name}.onnx").read_bytes(), plainly=True)


def _given(pictures: Array) -> Array:
    """N×H×W×3 in 0..1 as networks are given it: N×3×H×W in -1..1."""
    return np.ascontiguousarray((2 * np.clip(pictures, 0, 1) - 1).transpose(0, 3, 1, 2), np.float32)


def _proposed(colours: Pixels, run: Run) -> Iterator[Array]:
    """Windows x0, y0, x1, y1, sure, in pixels of the picture, of one look after the other."""
    height, width = colours.shape[:2]
    scale = _WINDOW / _LEAST
    while min(height, width) * scale >= _WINDOW:
        size = Size(max(_WINDOW, round(width * scale)), max(_WINDOW, round(height * scale)))
        how = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
        seen = np.asarray(cv2.resize(colours, (size.width, size.height), interpolation=how), np.float32)
        found = []
        for part in grid(size, Size(_PART, _PART)):
            run.check()
            # Windows that begin in the part.
            around = seen[part.y : part.bottom + _WINDOW, part.x : part.right + _WINDOW]
            if min(around.shape[:2]) < _WINDOW:
                continue
            sure, box = _network("propose").run(["sure", "box"], {"picture": _given(around[None])})
            rows, columns = np.nonzero(sure[0] > _SURE[0])
            corners = np.stack([columns, rows], 1) * _STRIDE + [part.x, part.y]
            moved = np.concatenate([corners, corners + _WINDOW], 1) + _WINDOW * box[0][:, rows, columns].T
            across, down = width / size.width, height / size.height
            found.append(np.column_stack([moved * [across, down, across, down], sure[0][rows, columns]]))
        windows = np.concatenate(found).astype(np.float32) if found else np.empty((0, 5), np.float32)
        yield windows[_apart(windows, _SAME[0])]
        scale *= _SMALLER


def _looked_at(colours: Pixels, windows: Array, name: str, side: int, least: float, run: Run) -> tuple[Array, Array]:
    """Those windows that a stage is sure of, their boxes corrected by it, and the five places in each, N×5×2."""
    squares = _squared(windows)[:_MOST]
    boxes, places = [np.empty((0, 5), np.float32)], [np.empty((0, 5, 2), np.float32)]
    for begin in range(0, len(squares), _AT_ONCE):
        run.check()
        some = squares[begin : begin + _AT_ONCE]
        cut = np.stack([_cut(colours, square, side) for square in some])
        sure, move, *marks = _network(name).run(None, {"picture": _given(cut)})
        if marks:
            # A face is one in the mirror, too; what is taken for one is mostly not.
            sure = (sure + _network(name).run(["sure"], {"picture": _given(cut[:, :, ::-1])})[0]) / 2
        sides = (some[:, 2] - some[:, 0])[:, None]
        box = np.column_stack([some[:, :4] + sides * move, sure])
        boxes.append(box[sure > least])
        if marks:
            across, down = marks[0][:, :5] * sides + some[:, :1], marks[0][:, 5:] * sides + some[:, 1:2]
            places.append(np.stack([across, down], 2)[sure > least])
    return np.concatenate(boxes).astype(np.float32), np.concatenate(places).astype(np.float32)


def _squared(windows: Array) -> Array:
    """The windows made square about their middles; surest first."""
    windows = windows[np.argsort(-windows[:, 4])]
    middle = (windows[:, :2] + windows[:, 2:4]) / 2
    half = np.maximum(windows[:, 2] - windows[:, 0], windows[:, 3] - windows[:, 1])[:, None] / 2
    return np.asarray(np.concatenate([middle - half, middle + half, windows[:, 4:]], 1), np.float32)


def _cut(colours: Pixels, square: Array, side: int) -> Array:
    """A window brought to ``side``×``side`` pixels; what lies outside the picture is grey."""
    left, top, right, bottom = (round(float(edge)) for edge in square[:4])
    length = max(1, right - left, bottom - top)
    window = np.full((length, length, 3), 0.5, np.float32)
    inside = colours[max(0, top) : top + length, max(0, left) : left + length]
    window[max(0, -top) :, max(0, -left) :][: inside.shape[0], : inside.shape[1]] = inside
    how = cv2.INTER_AREA if length > side else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(window, (side, side), interpolation=how), np.float32)


def _apart(windows: Array, most: float, of_smaller: bool = False) -> npt.NDArray[np.intp]:
    """Indices of windows that share at most ``most`` of their area with a surer one, surest first.

    The shared area is told in parts of both together, or of the smaller one.
    """
    order, kept = np.argsort(-windows[:, 4]), []
    areas = np.maximum(windows[:, 2] - windows[:, 0], 0) * np.maximum(windows[:, 3] - windows[:, 1], 0)
    while len(order):
        first, others = order[0], order[1:]
        kept.append(first)
        low, high = (
            np.maximum(windows[first, :2], windows[others, :2]),
            np.minimum(windows[first, 2:4], windows[others, 2:4]),
        )
        common = np.maximum(high - low, 0).prod(axis=1)
        whole = np.minimum(areas[first], areas[others]) if of_smaller else areas[first] + areas[others] - common
        order = others[common <= most * np.maximum(whole, 1e-6)]
    return np.array(kept, np.intp)
