"""The working form of pixels: float32, H×W×C, encoded values 0..1 in the source's own colour space.

C is 1 (grey), 2 (grey and alpha), 3 (RGB) or 4 (RGB and alpha). Values outside 0..1 are kept until a file is written.
"""

from __future__ import annotations

from typing import Any, TypeAlias

import numpy as np
import numpy.typing as npt

Pixels: TypeAlias = npt.NDArray[np.float32]
Samples: TypeAlias = npt.NDArray[Any]

#: Largest code value by bits per sample.
TOP_OF_DEPTH = {8: 255, 16: 65535}


def has_alpha(bands: int) -> bool:
    return bands in (2, 4)


def colours_of(pixels: Pixels) -> Pixels:
    """Without alpha."""
    return pixels[..., :-1] if has_alpha(pixels.shape[2]) else pixels


def from_samples(samples: Samples) -> Pixels:
    """Samples of a file (uint8, uint16 or float32) to working pixels; float samples are taken as they are."""
    if samples.dtype == np.uint8:
        return np.multiply(samples, np.float32(1 / 255), dtype=np.float32)
    if samples.dtype == np.uint16:
        return np.multiply(samples, np.float32(1 / 65535), dtype=np.float32)
    return samples.astype(np.float32, copy=True)


def to_samples(pixels: Pixels, bits: int) -> Samples:
    """Working pixels rounded once to 8- or 16-bit samples; values outside 0..1 are clipped, NaN becomes 0."""
    top = TOP_OF_DEPTH[bits]
    scaled = pixels * np.float32(top)
    # Their sum tells of any that is no number, in a tenth of the time that looking for them takes.
    with np.errstate(invalid="ignore"):
        finite = np.isfinite(scaled.sum())
    if not finite:
        np.nan_to_num(scaled, copy=False, nan=0.0, posinf=float(top), neginf=0.0)
    np.rint(scaled, out=scaled)
    np.clip(scaled, 0, top, out=scaled)
    return scaled.astype(np.uint8 if bits == 8 else np.uint16)


def premultiplied(pixels: Pixels) -> Pixels:
    """Colour times alpha, alpha kept; for weighing pixels by how much of them is seen. C must be 2 or 4."""
    result = pixels.copy()
    result[..., :-1] *= pixels[..., -1:]
    return result


def unpremultiplied(pixels: Pixels) -> Pixels:
    """The inverse of :func:`premultiplied`; where nothing is seen (alpha below 1/65535) colour is left as it is."""
    alpha = pixels[..., -1:]
    seen = np.where(alpha > 1 / 65535, alpha, np.float32(1))
    result = pixels.copy()
    result[..., :-1] /= seen
    return result
