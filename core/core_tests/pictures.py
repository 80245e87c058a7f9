"""Pictures for the tests: made of formulas, so that the truth is known everywhere."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import numpy.typing as npt
import pyvips

REPOSITORY = Path(__file__).resolve().parent.parent.parent
DEMO = REPOSITORY / "demo"


def smooth(height: int, width: int, bands: int = 3) -> npt.NDArray[np.float32]:
    """Waves of a few pixels and more, different in each band, 0.1..0.9."""
    y, x = np.mgrid[0:height, 0:width] + 0.5
    planes = [0.5 + 0.2 * np.sin(x / (5 + k) + k) + 0.2 * np.cos(y / (7 - k) - x / 31) for k in range(bands)]
    return np.stack(planes, axis=-1).astype(np.float32)


def random_samples(height: int, width: int, bands: int = 3, bits: int = 8, seed: int = 1) -> npt.NDArray[np.generic]:
    """Every value as likely as every other: nothing a lossy path could get right by chance."""
    dtype = np.uint8 if bits == 8 else np.uint16
    return np.random.default_rng(seed).integers(0, 1 << bits, (height, width, bands), dtype=dtype)


def image_of(samples: npt.NDArray[np.generic]) -> pyvips.Image:
    """A libvips image of H×W×C uint8 or uint16 samples."""
    height, width, bands = samples.shape
    form = {"uint8": "uchar", "uint16": "ushort", "float32": "float"}[samples.dtype.name]
    image = pyvips.Image.new_from_memory(np.ascontiguousarray(samples).tobytes(), width, height, bands, form)
    grey = bands < 3
    space = {8: "b-w" if grey else "srgb", 16: "grey16" if grey else "rgb16"}[16 if form == "ushort" else 8]
    return image.copy(interpretation=space)


def write(path: Path, samples: npt.NDArray[np.generic], ppi: float | None = None, **options: object) -> Path:
    """Write samples in the format of the path's ending."""
    image = image_of(samples)
    if ppi:
        image = image.copy(xres=ppi / 25.4, yres=ppi / 25.4)
    image.write_to_file(str(path), **options)
    return path


def psnr(a: npt.NDArray[np.float32], b: npt.NDArray[np.float32]) -> float:
    """Peak signal to noise ratio in dB of pictures 0..1."""
    return float(-10 * np.log10(np.mean((a.astype(np.float64) - b) ** 2)))
