"""How sharp the frames of a clip are, and which of them to take."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.files.clip.clip import Clip
from kitecore.files.clip.looks import LOOK_SIDE, Add, looks_step
from kitecore.pipeline.run import Run

#: Frames are looked at about so long, px: noise is gone, focus and movement are not.
_LOOK_SIDE = 960
_CALM = 1.2
#: The sharpest share of the squares tells: the rest is sky, or was never in focus.
_SQUARE, _SHARPEST = 24, 0.15
#: Peaks this many seconds apart are two moments.
_APART_SECONDS = 0.3


def sharpness_of(luma: npt.NDArray[np.float32]) -> float:
    """How sharp the sharpest parts of a frame are: mean second differences of luma, H×W, of 255."""
    long_side = max(luma.shape)
    if long_side > _LOOK_SIDE:
        share = _LOOK_SIDE / long_side
        luma = np.asarray(cv2.resize(luma, None, fx=share, fy=share, interpolation=cv2.INTER_AREA), np.float32)
    edges = cv2.Laplacian(cv2.GaussianBlur(luma, (0, 0), _CALM), cv2.CV_32F) ** 2
    rows, columns = max(1, luma.shape[0] // _SQUARE), max(1, luma.shape[1] // _SQUARE)
    squares = np.sort(cv2.resize(edges, (columns, rows), interpolation=cv2.INTER_AREA).ravel())
    return float(np.sqrt(squares[-max(1, round(_SHARPEST * len(squares))) :].mean()))


def sharpness_curve(clip: Clip, run: Run, add: Add | None = None) -> list[float]:
    """The sharpness of all frames; the looks of those that are kept go to ``add``.

    Raises Cancelled, and PictureError where a frame is broken.
    """
    curve, frames = [], clip.facts.frames
    step = looks_step(frames)
    for index in range(frames):
        run.check()
        curve.append(round(sharpness_of(clip.luma(index)), 3))
        if add and index % step == 0:
            add(index, clip.look(index, LOOK_SIDE))
        run.progress((index + 1) / frames)
    return curve


def peaks(curve: Sequence[float], rate: float, most: int = 5) -> list[int]:
    """The places of the sharpest moments of a curve, sharpest first, none close to another.

    >>> peaks([1, 5, 4, 1, 1, 1, 1, 1, 1, 3, 1], rate=10)
    [1, 9]
    """
    apart = max(1, round(_APART_SECONDS * rate))
    middle = float(np.median(curve)) if curve else 0.0
    found: list[int] = []
    for place in np.argsort(curve, kind="stable")[::-1].tolist():
        around = curve[max(0, place - apart) : place + apart + 1]
        if curve[place] <= middle or curve[place] < max(around):
            continue
        if all(abs(place - other) > apart for other in found):
            found.append(place)
    return found[:most]
