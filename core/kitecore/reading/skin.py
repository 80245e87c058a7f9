"""Skin: colours like those of the faces that were found; without faces, colours that skin has in ordinary light."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.colour.oklab import cones_of, to_oklab
from kitecore.colour.primaries import primaries_of
from kitecore.colour.transfer import SRGB
from kitecore.faces import FaceFound
from kitecore.faces.square import FACE_SHARE, FaceSquare
from kitecore.filters.guided import Plane, guided
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.run import Run
from kitecore.reading.cut import Seen

#: Middle and spread of a and b of skin of every tone in daylight and lamplight, in Oklab.
_USUAL, _USUAL_SPREAD = np.array([0.045, 0.05]), np.array([[5e-4, 1e-4], [1e-4, 5e-4]])
#: Lightness differs more than colour on one face: shade, shine.
_LIGHTNESS = 0.16
_LEAST = 0.0008


class Model(NamedTuple):
    """Lightness (None: any), middle and spread of the colours of one person's skin."""

    tone: float | None
    middle: npt.NDArray[np.float64]
    spread: npt.NDArray[np.float64]


def find_skin(seen: Seen, faces: Sequence[FaceFound], share: float, run: Run) -> Plane | None:
    """How far each pixel is skin, H×W, 0..1; None if there is none.

    Parameters
    ----------
    seen
        H×W×3 sRGB, at most 640 px a side.
    faces
        Those of the picture, in pixels of the source.
    share
        Pixels of ``seen`` for one of the source.
    """
    run.check()
    lab = to_oklab(SRGB.light(seen.astype(np.float32) / np.float32(255)), cones_of(primaries_of(None)))
    lab = np.asarray(cv2.GaussianBlur(lab, (0, 0), 1.0), np.float32)
    best = np.zeros(seen.shape[:2], np.float32)
    models: list[Model] = [model for face in faces if (model := _model(lab, face, share)) is not None]
    for tone, middle, spread in models or [Model(None, _USUAL, _USUAL_SPREAD)]:
        apart = lab[..., 1:] - middle
        away = np.einsum("yxi,ij,yxj->yx", apart, np.linalg.inv(spread), apart)
        if tone is not None:
            away = away + ((lab[..., 0] - tone) / _LIGHTNESS) ** 2
        np.maximum(best, np.exp(-0.5 * np.maximum(away - 3, 0)).astype(np.float32), out=best)
    grey = np.ascontiguousarray(lab[..., 0])
    radius = max(2, round(0.006 * max(grey.shape)))
    found = np.asarray(np.clip((guided(best, grey, radius, 0.03) - 0.2) / 0.6, 0, 1), np.float32)
    return found if found.mean() > _LEAST else None


def _model(lab: Plane, face: FaceFound, share: float) -> Model | None:
    """The colours in the middle of a face; None where it is too small or colourless."""
    square = FaceSquare.around(*(Place(x * share, y * share) for x, y in (*face.eyes, face.mouth)))
    radius = square.side * FACE_SHARE * 0.35
    y, x = np.ogrid[: lab.shape[0], : lab.shape[1]]
    inside = np.hypot(x + 0.5 - square.middle.x, y + 0.5 - square.middle.y) < radius
    colours = lab[inside]
    if len(colours) < 12:
        return None
    # Eyes, brows and lips are left out: what is far from the middle of all.
    tone, middle = float(np.median(colours[:, 0])), np.median(colours[:, 1:], axis=0)
    near = np.linalg.norm(colours[:, 1:] - middle, axis=1)
    kept = colours[near <= np.quantile(near, 0.75)][:, 1:]
    return Model(tone, kept.mean(axis=0), np.cov(kept.T) + np.diag([1.2e-4, 1.2e-4]))
