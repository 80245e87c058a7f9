"""Cutting a picture in two by its colours, from marks that say what is sure and what is likely.

C. Rother, V. Kolmogorov, A. Blake, “GrabCut: interactive foreground extraction using iterated graph cuts” (2004).
"""

from __future__ import annotations

from typing import TypeAlias

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.run import Run

#: H×W×3, sRGB as a screen shows it.
Seen: TypeAlias = npt.NDArray[np.uint8]
Where: TypeAlias = npt.NDArray[np.bool_]
Marks: TypeAlias = npt.NDArray[np.uint8]
Values: TypeAlias = npt.NDArray[np.float32]

SURE_NOT, SURE, LIKELY_NOT, LIKELY = 0, 1, 2, 3


def cut_out(seen: Seen, marks: Marks, rounds: int, run: Run) -> Where | None:
    """What belongs to what is marked (changed in place); None if nothing does, or everything."""
    models = np.zeros((1, 65)), np.zeros((1, 65))
    for turn in range(rounds):
        run.check()
        if not 0 < (marks & 1).sum() < marks.size:
            return None
        mode = cv2.GC_INIT_WITH_MASK if turn == 0 else cv2.GC_EVAL
        cv2.grabCut(seen, marks, (0, 0, 1, 1), models[0], models[1], 1, mode)
        run.progress((turn + 1) / rounds)
    return np.asarray(marks & 1 > 0)


def lab_of(seen: Seen) -> Values:
    """CIELAB as 8 bits hold it, H×W×3."""
    return np.asarray(cv2.cvtColor(seen, cv2.COLOR_RGB2LAB), np.float32)


def grey_of(seen: Seen) -> Values:
    """Luma, H×W, 0..1."""
    return np.asarray(cv2.cvtColor(seen, cv2.COLOR_RGB2GRAY), np.float32) / np.float32(255)


def main_colours(colours: Values, count: int) -> tuple[Values, Values]:
    """Up to ``count`` colours that stand for N×3, and the share of each."""
    cv2.setRNGSeed(5)
    criteria = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5)
    chosen = np.ascontiguousarray(colours[:: max(1, len(colours) // 6000)])
    count = min(count, len(chosen))
    given = np.zeros((len(chosen), 1), np.int32)
    _, labels, middles = cv2.kmeans(chosen, count, given, criteria, 2, cv2.KMEANS_PP_CENTERS)
    shares = np.bincount(np.asarray(labels).ravel(), minlength=count) / len(chosen)
    return np.asarray(middles, np.float32), np.asarray(shares, np.float32)


def away_from(lab: Values, middles: Values) -> Values:
    """Distance of every pixel from the nearest of some colours, H×W."""
    return np.asarray(np.min([np.linalg.norm(lab - middle, axis=2) for middle in middles], axis=0), np.float32)
