"""What kind of picture it is: photograph, drawing or lettering, render, or an even texture."""

from __future__ import annotations

from typing import Literal

import cv2
import numpy as np
import numpy.typing as npt

Plane = npt.NDArray[np.float32]
PictureKind = Literal["photo", "drawing", "render", "texture"]

#: Parts a side in which a texture must look the same.
_PARTS = 4
#: From this likeness of its parts on. Cloth, brick, gravel and grass reach 0.93 to 1; meadows, flowers and leaves of the lab's
#: photographs up to 0.91, of the reserved ones up to 0.89 (test_reading).
_ALIKE = 0.92


def kind_of(grey: Plane, noise: float) -> tuple[PictureKind, float]:
    """(kind, confidence 0..1) of a picture from its luma, H×W float32, 0..1, and its noise's σ on a scale of 0..255.

    A drawing is mostly of a few even tones with hard edges between them; a texture is alike in all its parts; a render
    has neither noise nor grain even where it is shaded; everything else is a photograph.
    """
    step_down, step_across = np.abs(np.diff(grey, axis=0))[:, :-1], np.abs(np.diff(grey, axis=1))[:-1]
    step = np.maximum(step_down, step_across)
    still = float((step < 0.5 / 255 + 1.5 * noise / 255).mean())
    shaded = float(((step > 0.2 / 255) & (step < 4 / 255)).mean())
    hard = float((step > 0.15).mean())
    counts = np.sort(np.histogram(grey, 64, (0, 1))[0])[::-1] / grey.size
    few = float(counts[:6].sum())
    drawn = (
        0.5 * np.clip((few - 0.55) / 0.35, 0, 1)
        + 0.3 * np.clip((still - 0.5) / 0.35, 0, 1)
        + 0.2 * np.clip(hard / 0.02, 0, 1)
    )
    alike = _alikeness(grey)
    if alike > _ALIKE and drawn < 0.75:
        return "texture", float(np.interp(alike, [_ALIKE, 1], [0.6, 0.95]))
    if drawn > 0.6:
        return "drawing", float(np.clip(drawn, 0.5, 0.97))
    if noise < 0.35 and shaded > 0.2:
        return "render", 0.55
    return "photo", float(np.clip(1 - max(drawn, alike) * 0.6, 0.4, 0.95))


def _alikeness(grey: Plane) -> float:
    """How alike the parts of a picture are in mean, contrast and fineness, 0..1."""
    height, width = (side // _PARTS for side in grey.shape)
    if min(height, width) < 16:
        return 0.0
    fine = np.abs(grey - cv2.GaussianBlur(grey, (0, 0), 1.5))
    measures = np.array([
        [part.mean(), part.std(), fine_part.mean()]
        for part, fine_part in (
            (grey[y : y + height, x : x + width], fine[y : y + height, x : x + width])
            for y in range(0, _PARTS * height, height) for x in range(0, _PARTS * width, width)
        )
    ])  # fmt: skip
    mean, contrast, fineness = measures.T
    if contrast.mean() < 0.01:
        return 0.0
    differences = (
        mean.std() / contrast.mean(),
        contrast.std() / contrast.mean(),
        fineness.std() / max(1e-6, fineness.mean()),
    )
    return float(np.clip(1.25 - 0.9 * float(np.mean(differences)) - 0.35 * max(differences), 0, 1))
