"""Several frames of one thing become one that is cleaner: aligned by optical flow, merged where they show the same.

What moved between them, or cannot be aligned, is taken from the reference alone: nothing is smeared.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Plane: TypeAlias = npt.NDArray[np.float32]
Factor: TypeAlias = Literal[1, 2]

#: Side of the squares by which frames are compared.
_SIDE = 7
#: From how many times the difference that noise makes on a frame is not believed, and how fast.
_NOISE_ALONE, _DOUBT = 1.3, 5.0
#: Least noise that is reckoned with, of 1.
_LEAST_NOISE = 0.002
#: Most, by what is in the reference: compression makes it smoother than it is.
_MOST_OF_OWN = 6.0
#: Softens frames before they are aligned, px.
_CALM = 1.0


@dataclass(frozen=True)
class Fused:
    """What frames became: H×W×3, and how many of them were merged in the mean."""

    pixels: Pixels
    merged: float


def fused(
    frame: Callable[[int], Pixels], frames: Sequence[int], reference: int, factor: Factor = 1, run: Run | None = None
) -> Fused:
    """Merge ``frames``, told by their numbers, onto the grid of the ``reference`` (one of them), or one ``factor`` times as fine.

    ``frame`` gives one as H×W×3, 0..1 in any coding; one beside the reference is held at a time. Raises Cancelled.
    """
    run = run or Run()
    fixed = frame(reference)
    aligner = _Aligner(fixed)
    height, width = fixed.shape[:2]
    sums = _larger(fixed, factor)
    weights = np.ones((height * factor, width * factor), np.float32)
    others = [number for number in frames if number != reference]
    for done, number in enumerate(others):
        run.check()
        moving = frame(number)
        if moving.shape != fixed.shape:
            continue
        across, down = aligner.places(moving)
        weight = aligner.likeness(_read(moving, across, down))
        if factor > 1:
            across, down = (_finer(places, factor) for places in (across, down))
            weight = np.asarray(cv2.resize(weight, weights.shape[::-1], interpolation=cv2.INTER_LINEAR), np.float32)
        sums += weight[..., None] * _read(moving, across, down)
        weights += weight
        run.progress((done + 1) / len(others))
    return Fused(np.asarray(sums / weights[..., None], np.float32), float(weights.mean()))


class _Aligner:
    """Where pixels of a reference lie in other frames, and how alike what lies there is."""

    def __init__(self, fixed: Pixels) -> None:
        self._fixed = fixed
        self._grey = _eight(fixed)
        self._flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
        # Single pixels too: half a pixel is much here.
        self._flow.setFinestScale(0)
        # What differs more than noise does in the reference itself shows something else.
        self._most_noise = _LEAST_NOISE + _MOST_OF_OWN * _noise_of(luma(fixed))
        self._y, self._x = np.mgrid[: fixed.shape[0], : fixed.shape[1]].astype(np.float32)

    def places(self, moving: Pixels) -> tuple[Plane, Plane]:
        """Columns and rows in ``moving`` of the reference's pixels."""
        none: Any = None
        flow = self._flow.calc(self._grey, _eight(moving), none)
        return self._x + flow[..., 0], self._y + flow[..., 1]

    def likeness(self, read: Pixels) -> Plane:
        """How far what was read shows the same as the reference, H×W, 0..1, but for noise."""
        difference = read - self._fixed
        noise = np.clip(float(np.median(np.abs(difference))) * 1.4826, _LEAST_NOISE, self._most_noise)
        around = cv2.boxFilter((difference**2).mean(axis=2), cv2.CV_32F, (_SIDE, _SIDE)) / noise**2
        return np.asarray(np.exp(-_DOUBT * np.maximum(around - _NOISE_ALONE, 0)), np.float32)


def _noise_of(grey: Plane) -> float:
    """σ of what is noise in a plane, by second differences both ways, which hardly see what lies behind it."""
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32) / 6
    return float(np.median(np.abs(cv2.filter2D(grey, cv2.CV_32F, kernel)))) * 1.4826


def _eight(pixels: Pixels) -> npt.NDArray[np.uint8]:
    """Luma, calmed, as the flow takes it."""
    grey = cv2.GaussianBlur(luma(pixels), (0, 0), _CALM)
    return np.clip(np.rint(grey * 255), 0, 255).astype(np.uint8)


def _read(pixels: Pixels, across: Plane, down: Plane) -> Pixels:
    read = cv2.remap(pixels, across, down, cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT_101)
    return np.asarray(read, np.float32)


def _finer(places: Plane, factor: int) -> Plane:
    """Places of a grid that is ``factor`` times as fine."""
    size = (places.shape[1] * factor, places.shape[0] * factor)
    return np.asarray(cv2.resize(places, size, interpolation=cv2.INTER_LINEAR), np.float32)


def _larger(pixels: Pixels, factor: int) -> Pixels:
    if factor == 1:
        return pixels.copy()
    y, x = np.mgrid[: pixels.shape[0] * factor, : pixels.shape[1] * factor].astype(np.float32)
    return _read(pixels, (x + 0.5) / factor - 0.5, (y + 0.5) / factor - 0.5)
