"""The judge's pictures, never trained on: samples inside scikit-image, and what :mod:`pictures` keeps apart."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
import skimage.data
from PIL import Image

FURTHER = Path(__file__).parent / "further"

PHOTOGRAPHS = ("astronaut", "coffee", "chelsea", "rocket")
#: Grey pictures: scanned lettering, and surfaces with an even texture.
LETTERING = ("text", "page")
SURFACES = ("grass", "gravel", "brick")


@cache
def reserved_pictures() -> dict[str, np.ndarray]:
    """The photographs, H×W×3 uint8, cut to sizes that 24 divides."""
    pictures = {}
    for name in PHOTOGRAPHS:
        pixels = getattr(skimage.data, name)()[..., :3]
        height, width = (side - side % 24 for side in pixels.shape[:2])
        pictures[name] = np.ascontiguousarray(pixels[:height, :width])
    return pictures


@cache
def every_reserved_picture() -> dict[str, np.ndarray]:
    """All pictures inside scikit-image that training must refuse, as H×W×3 uint8."""
    pictures = dict(reserved_pictures())
    for name in (*PHOTOGRAPHS, *LETTERING, *SURFACES, "clock", "camera", "coins", "moon", "page"):
        pixels = getattr(skimage.data, name)()
        pictures[f"{name}, whole"] = np.stack([pixels] * 3, axis=2) if pixels.ndim == 2 else pixels[..., :3]
    return pictures


def grey_pictures(names: tuple[str, ...]) -> dict[str, np.ndarray]:
    """Grey reserved pictures as H×W×3 uint8, cut to sizes that 24 divides."""
    pictures = {}
    for name in names:
        pixels = getattr(skimage.data, name)()
        height, width = (side - side % 24 for side in pixels.shape[:2])
        pictures[name] = np.ascontiguousarray(np.stack([pixels[:height, :width]] * 3, axis=2))
    return pictures


@cache
def further_photographs() -> dict[str, np.ndarray]:
    """Animals, buildings and people as they are photographed, H×W×3 uint8, cut to sizes that 24 divides."""
    pictures = {}
    for path in sorted(FURTHER.glob("*.png")):
        pixels = np.asarray(Image.open(path))
        height, width = (side - side % 24 for side in pixels.shape[:2])
        pictures[path.stem.split("-")[-1]] = np.ascontiguousarray(pixels[:height, :width])
    return pictures
