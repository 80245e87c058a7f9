"""Pixels as a screen shows them: 8-bit sRGB."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import pyvips

from kitecore.colour.conversion import interpretation, to_srgb
from kitecore.pipeline.pixels import Pixels, to_samples


def screen_image(pixels: Pixels, profile: bytes | None) -> pyvips.Image:
    """Pixels as an 8-bit sRGB image for a screen.

    sRGB pixels are rounded once from their working form; others go through 16 bits and their profile.
    """
    bands = pixels.shape[2]
    bits = 8 if profile is None else 16
    samples = to_samples(pixels, bits)
    image = pyvips.Image.new_from_memory(
        samples.tobytes(), samples.shape[1], samples.shape[0], bands, "uchar" if bits == 8 else "ushort"
    ).copy(interpretation=interpretation(bands, bits))
    return to_srgb(image, profile, 8)


def screen_samples(pixels: Pixels, profile: bytes | None) -> npt.NDArray[np.uint8]:
    """Pixels as a screen shows them, H×W×3, alpha left out; grey as three equal channels."""
    samples = np.atleast_3d(screen_image(pixels, profile).numpy())
    return np.ascontiguousarray(samples[..., :3] if samples.shape[2] >= 3 else samples[..., :1].repeat(3, axis=2))


def png_of(image: pyvips.Image, packed: bool = True) -> bytes:
    """An 8-bit image for a screen as PNG, lossless, packed as fast as PNG allows.

    Not ``packed``, it is an eighth of the time and, for photographs, up to twice as large.
    """
    how = {"compression": 1, "filter": "sub"} if packed else {"compression": 0, "filter": "none"}
    content: bytes = image.pngsave_buffer(**how, keep="none")
    return content


def screen_png(pixels: Pixels, profile: bytes | None) -> bytes:
    """Pixels as an 8-bit sRGB PNG for a screen."""
    return png_of(screen_image(pixels, profile))
