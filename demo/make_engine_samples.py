"""Cut the samples the engine shelf shows, from the demo's made-up pictures, into core/kitecore/engines/samples.

One per kind of damage. The shelf shows each as it is (or plainly enlarged) beside what the engine makes of it.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from kitecore.filters.psf import disc

HERE = Path(__file__).parent
SAMPLES = HERE.parent / "core/kitecore/engines/samples"


def opened(name: str) -> np.ndarray:
    return np.asarray(Image.open(HERE / name).convert("RGB"))


def shrunk(pixels: np.ndarray, divisor: float) -> np.ndarray:
    size = (round(pixels.shape[1] / divisor), round(pixels.shape[0] / divisor))
    return np.asarray(Image.fromarray(pixels).resize(size, Image.Resampling.BICUBIC))


def crop(pixels: np.ndarray, left: int, top: int, width: int, height: int) -> np.ndarray:
    return pixels[top : top + height, left : left + width]


def rounded(pixels: np.ndarray) -> np.ndarray:
    return np.clip(np.rint(pixels), 0, 255).astype(np.uint8)


def main() -> None:
    SAMPLES.mkdir(exist_ok=True)
    random = np.random.default_rng(8)
    loft = opened("clean/loft-bench.jpg")
    grain = cv2.GaussianBlur(random.standard_normal((585, 780, 1)).astype(np.float32), (0, 0), 0.6)[..., None]
    samples = {
        "photograph": crop(shrunk(opened("clean/harbour-wall.png"), 1.4), 110, 225, 120, 80),
        "worn": crop(opened("pictures/Festival 2003 web.jpg"), 250, 170, 120, 80),
        "lettering": crop(opened("pictures/Kite days poster.png"), 40, 320, 120, 80),
        "grain": crop(rounded(shrunk(loft, 4 / 3) + grain / grain.std() * 9), 300, 250, 120, 80),
        "noise": crop(opened("pictures/Workshop at night.jpg"), 420, 330, 240, 160),
        "compressed": crop(opened("pictures/Festival 2003 web.jpg"), 200, 120, 240, 160),
        "soft": crop(
            rounded(cv2.filter2D(loft, cv2.CV_32F, disc(2.5)) + random.normal(0, 1.5, loft.shape)), 400, 330, 240, 160
        ),
    }
    # A small face in a shared file that somebody enlarged; faces.Faces.showing knows where its eyes and mouth are.
    face = shrunk(crop(opened("clean/catalogue-portrait.jpg"), 97, 440, 720, 480), 9)
    face = rounded(cv2.GaussianBlur(face, (0, 0), 0.5) + random.normal(0, 4, face.shape))
    shared = cv2.imdecode(cv2.imencode(".jpg", face, [cv2.IMWRITE_JPEG_QUALITY, 75])[1], cv2.IMREAD_COLOR)
    samples["face"] = rounded(cv2.resize(shared.astype(np.float32), (240, 160), interpolation=cv2.INTER_LANCZOS4))
    for name, pixels in samples.items():
        Image.fromarray(pixels).save(SAMPLES / f"{name}.png", optimize=True)


if __name__ == "__main__":
    main()
