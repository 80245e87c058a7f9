"""Scores of what came out of a rehearsal, against the truth."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.comparison.fidelity import structural_similarity
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels

Plane = npt.NDArray[np.float32]

#: What is nearer than this to a border, in pixels of the worn picture, is left out: it has been seen from one side only.
_BORDER = 6
#: RMS of fine texture below which a place of the truth is flat, 0..1.
_FLAT = 1.5 / 255


class Scores(NamedTuple):
    """Peak signal-to-noise ratio of all channels in dB; structure 0..1; fine texture as shares of the truth's."""

    psnr: float
    structure: float
    #: Where the truth has texture.
    kept: float
    #: Where the truth is flat, RMS of 255.
    invented: float


def scores_of(made: Pixels, truth: Pixels, factor: int) -> Scores:
    """How near ``made`` is to ``truth``, both H×W×C, 0..1."""
    edge = _BORDER * factor
    middle = (slice(edge, -edge), slice(edge, -edge))
    made, truth = np.clip(made[middle], 0, 1), truth[middle]
    error = float(np.mean((made - truth) ** 2))
    grey, true_grey = luma(made), luma(truth)
    fine, true_fine = _texture(grey), _texture(true_grey)
    textured, flat = true_fine > max(2 * _FLAT, float(np.median(true_fine))), true_fine < _FLAT
    kept = float(fine[textured].mean() / true_fine[textured].mean()) if textured.any() else 1.0
    more = float((fine[flat] ** 2).mean() - (true_fine[flat] ** 2).mean()) if flat.any() else 0.0
    return Scores(
        -10 * float(np.log10(max(error, 1e-10))), structural_similarity(grey, true_grey), kept,
        255 * float(np.sqrt(max(0.0, more))),
    )  # fmt: skip


def _texture(plane: Plane) -> Plane:
    """Local RMS of what is finer than about four pixels."""
    fine = plane - cv2.GaussianBlur(plane, (0, 0), 2.0)
    return np.asarray(np.sqrt(np.maximum(cv2.blur(fine**2, (9, 9)), 0)), np.float32)
