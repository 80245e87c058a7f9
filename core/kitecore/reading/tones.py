"""Tones: how the values of a picture lie, whether its light leans to a colour, and whether there is haze over it."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np

from kitecore.colour.primaries import luminance, primaries_of
from kitecore.colour.transfer import transfer_of
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, colours_of

#: Share of the pixels that may lie beyond what counts as darkest and lightest.
_BEYOND = 0.003
#: Lightness (cube root of luminance) below which a tone is deep and above which it glares.
_DEEP, _GLARING = 0.16, 0.96
#: Exponent of the mean that tells the light of a picture from its surfaces: above 1 lighter ones count for more.
_NORM = 5
#: Windows whose darkest value tells haze, as a share of the long side; share of the most hazy pixels that tell its light.
_WINDOW, _THICKEST = 0.03, 0.002


class ToneReading(NamedTuple):
    """All of 1. ``darkest`` and ``lightest`` are coded values, ``median`` and ``spread`` (half the distance between
    quartiles) are of lightness; ``deep`` and ``glaring`` are shares of the pixels; ``cast`` is the colour of the light as linear
    RGB; ``air`` is linear RGB of the haze, and ``haze`` how much of it is before an ordinary place."""

    darkest: float
    lightest: float
    median: float
    spread: float
    deep: float
    glaring: float
    cast: tuple[float, float, float]
    air: tuple[float, float, float]
    haze: float


def read_tones(pixels: Pixels, profile: bytes | None) -> ToneReading:
    """Read a picture, or a reduced version of it: H×W×C, coded values of the space of ``profile``.

    ``cast``: G. Finlayson, E. Trezzi, “Shades of gray and colour constancy” (2004), of pixels that are not clipped; ``haze`` by
    the dark channel (He, Sun, Tang 2009).
    """
    colours = colours_of(pixels)
    coded = luma(colours)
    light = transfer_of(profile).light(colours)
    lightness = np.cbrt(np.maximum(luminance(light, primaries_of(profile)), 0))
    low, middle, high = np.quantile(lightness, [0.25, 0.5, 0.75])
    darkest, lightest = np.quantile(coded, _BEYOND), np.quantile(colours.max(axis=2), 1 - _BEYOND)
    air, haze = _haze(light)
    return ToneReading(
        float(np.clip(darkest, 0, 1)), float(np.clip(lightest, 0, 1)), float(middle), float(high - low) / 2,
        float((lightness < _DEEP).mean()), float((lightness > _GLARING).mean()), _cast(light, colours), air, haze,
    )  # fmt: skip


def _three(values: Pixels) -> tuple[float, float, float]:
    """One value for each channel; the same for all of a grey picture."""
    red, green, blue = (float(value) for value in (values if len(values) == 3 else np.repeat(values, 3)))
    return red, green, blue


def _cast(light: Pixels, coded: Pixels) -> tuple[float, float, float]:
    usable = ((coded < 0.98) & (coded > 0.02)).all(axis=2)
    chosen = light[usable] if usable.mean() > 0.02 else light.reshape(-1, light.shape[2])
    return _three((np.maximum(chosen, 0).astype(np.float64) ** _NORM).mean(axis=0) ** (1 / _NORM))


def _haze(light: Pixels) -> tuple[tuple[float, float, float], float]:
    side = max(3, round(_WINDOW * max(light.shape[:2]))) | 1
    window = np.ones((side, side), np.uint8)
    dark = cv2.erode(np.ascontiguousarray(light.min(axis=2)), window)
    thick = dark >= np.quantile(dark, 1 - _THICKEST)
    air = _three(light[thick].mean(axis=0))
    most = max(*air, 0.05)
    share = cv2.erode(
        np.ascontiguousarray((light / np.maximum(np.array(air[: light.shape[2]]), 0.05)).min(axis=2)), window
    )
    return (air if most > 0.05 else (0.8, 0.8, 0.8)), float(np.clip(np.median(share), 0, 1))
