"""Make a small picture from a sharp one, as cameras, programs and networks have made them."""

from __future__ import annotations

import io

import cv2
import numpy as np
from PIL import Image

KERNELS = {
    "bicubic": Image.Resampling.BICUBIC,
    "lanczos": Image.Resampling.LANCZOS,
    "area": Image.Resampling.BOX,
}


def shrink(sharp: np.ndarray, factor: int, kernel: str = "bicubic") -> np.ndarray:
    """Shrink an H×W×3 uint8 picture by a whole factor with an antialiased kernel; sizes must divide."""
    height, width = sharp.shape[:2]
    picture = Image.fromarray(sharp).resize((width // factor, height // factor), KERNELS[kernel])
    return np.asarray(picture)


def jpeg(picture: np.ndarray, quality: int, subsampling: int = 2) -> np.ndarray:
    """Through JPEG and back: uint8 in and out; ``subsampling`` 0 is 4:4:4, 2 is 4:2:0."""
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "JPEG", quality=quality, subsampling=subsampling)
    return np.asarray(Image.open(buffer))


def add_noise(picture: np.ndarray, sigma: float, random: np.random.Generator) -> np.ndarray:
    """Gaussian noise of ``sigma`` (of 255) on a uint8 picture, clipped to it."""
    noisy = picture + random.normal(0, sigma, picture.shape)
    return np.clip(np.rint(noisy), 0, 255).astype(np.uint8)


def faithful_source(sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
    """The mix Faithful learns from: mostly clean shrinks, some soft, a few lightly noisy or compressed."""
    picture = sharp
    if random.random() < 0.2:
        sigma = random.uniform(0.1, 0.45) * factor
        picture = cv2.GaussianBlur(picture, (0, 0), sigma)
    kernel = str(random.choice(["bicubic", "lanczos", "area"], p=[0.7, 0.15, 0.15]))
    picture = shrink(picture, factor, kernel)
    if random.random() < 0.12:
        picture = add_noise(picture, random.uniform(0.5, 4), random)
    if random.random() < 0.12:
        picture = jpeg(picture, int(random.integers(84, 98)), int(random.choice([0, 2])))
    return picture
