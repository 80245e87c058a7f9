"""Grain as a picture's own noise is: as strong in luma and in colour, and as wide once it is enlarged."""

from __future__ import annotations

import math

import numpy as np

from kitecore.pipeline.luma import LUMA
from kitecore.reading import YCC, NoiseReading
from kitecore.steps.grain import SIGMA_OF_SIZE, Grain

#: What noise that differs between the channels gives in luma, and in a colour difference.
_IN_LUMA = float((LUMA**2).sum())
_IN_COLOUR = float((YCC[1:] ** 2).sum(axis=1).mean())
#: σ in pixels of the blur that enlarging by a network or Lanczos is for what differs from pixel to pixel, per factor.
_PIXEL_WIDTH = 0.42


def grain_like(noise: NoiseReading, factor: float) -> Grain:
    """Grain that has the noise of a reading, in a picture enlarged by ``factor``: the same in all tones, as it was measured.

    The grain of a channel is a (α G + β O), G common to all, O its own, α² + β² = 1. Luma has a² (α² + β² Σw²) of its
    variance, colour differences a² β² times what their weights make of it; both are solved for what was measured.
    """
    luminance, colour = noise.grain**2, noise.grain_colour**2
    own = min(colour / _IN_COLOUR, luminance / _IN_LUMA)
    common = max(0.0, luminance - own * _IN_LUMA)
    ratio = math.sqrt(own / common) if common > 0 else math.inf
    width = math.sqrt((factor * noise.grain_px) ** 2 + _PIXEL_WIDTH**2 * max(0.0, factor**2 - 1))
    return Grain(
        amount=round(min(40.0, math.sqrt(own + common)), 2),
        size=round(float(np.clip(width / SIGMA_OF_SIZE, 0.5, 12)), 2),
        colour=round(100.0 if math.isinf(ratio) else 100 * ratio / (1 + ratio), 1), tones=0.0,
    )  # fmt: skip
