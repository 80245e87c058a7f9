"""What is shown instead of pixels when results are compared: signed differences, clipped pixels, histograms."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, Field

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of

#: A channel within half a step of 16 bits of the end of its range is clipped.
_STEP = 0.5 / 65535
#: Pixels from one stripe to the next.
_STRIPE = 8

_HIGH = np.array([1.0, 0.15, 0.1], np.float32)
_LOW = np.array([0.1, 0.45, 1.0], np.float32)


def signed_difference(pixels: Pixels, other: Pixels, gain: float) -> Pixels:
    """Half grey where the two are the same; lighter where ``pixels`` are, by ``gain`` times as much. Both H×W×C, 0..1."""
    difference = 0.5 + np.float32(gain) * (colours_of(pixels) - colours_of(other))
    return np.asarray(np.clip(difference, 0, 1), np.float32)


def clipping_marked(pixels: Pixels) -> Pixels:
    """The picture in dim grey with clipped pixels painted, H×W×3.

    Red where channels are at their top, blue where they are at their bottom; the more channels, the brighter.
    """
    colours = colours_of(pixels)
    grey = 0.25 + 0.35 * colours.mean(axis=2, keepdims=True)
    marked = np.repeat(grey, 3, axis=2)
    for clipped, paint in ((colours >= 1 - _STEP, _HIGH), (colours <= _STEP, _LOW)):
        share = clipped.mean(axis=2, keepdims=True, dtype=np.float32)
        marked = np.where(share > 0, (0.4 + 0.6 * share) * paint, marked)
    return np.asarray(marked, np.float32)


def clipping_striped(pixels: Pixels, seen: Pixels, place: Region) -> Pixels:
    """``seen``, H×W×3, with stripes over what is clipped in ``pixels``; ``place`` is where both lie in the whole.

    A stripe has the colour of the channels that are clipped: bright at their top (all of them: black), half as bright at their
    bottom (all of them: light grey).
    """
    colours = colours_of(pixels)
    x, y = np.arange(place.x, place.right)[None], np.arange(place.y, place.bottom)[:, None]
    striped = (x + y) % _STRIPE < _STRIPE // 2
    shown = np.array(seen, np.float32)
    for clipped, share, all_of_them in ((colours >= 1 - _STEP, 1.0, 0.0), (colours <= _STEP, 0.5, 0.75)):
        where = striped & clipped.any(axis=2)
        # Mostly few are, and while a control is dragged there is no time for all the others.
        which = clipped[where]
        shown[where] = np.where(which.all(axis=1, keepdims=True), all_of_them, which * share)
    return shown


class Histogram(BaseModel):
    """How often each tone occurs, per channel (one or three)."""

    counts: list[list[int]] = Field(description="256 counts from dark to light for each channel.")
    shadows: list[float] = Field(description="Share of pixels clipped at the bottom, per channel, 0..1.")
    highlights: list[float] = Field(description="The same at the top.")


def histogram(pixels: Pixels) -> Histogram:
    """Of H×W×C pixels, 0..1; values outside count as the ends; alpha is passed over."""
    channels = [channel.ravel() for channel in np.moveaxis(colours_of(pixels), 2, 0)]
    return Histogram(
        counts=[np.histogram(np.clip(channel, 0, 1), 256, (0, 1))[0].tolist() for channel in channels],
        shadows=[float((channel <= _STEP).mean()) for channel in channels],
        highlights=[float((channel >= 1 - _STEP).mean()) for channel in channels],
    )


#: Colour that weights are shown in, far from what pictures are mostly of.
_TINT = np.array([0.95, 0.25, 0.75], np.float32)


def weights_marked(pixels: Pixels, weights: Pixels) -> Pixels:
    """A picture in faint grey, tinted as strongly as a step works there.

    Parameters
    ----------
    pixels
        H×W×C, 0..1.
    weights
        H×W×1, 0..1.

    Returns
    -------
    H×W×3, 0..1.
    """
    grey = 0.15 + 0.7 * np.clip(luma(pixels), 0, 1)[..., None]
    share = 0.65 * np.clip(weights, 0, 1)
    return np.asarray(grey * (1 - share) + _TINT * share, np.float32)
