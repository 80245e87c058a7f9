"""Bands: steps in what was an even gradient, as coarse quantising leaves them."""

from __future__ import annotations

import cv2
import numpy as np

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: How far tones are gathered for a gradient, in pixels: bands are seldom wider than twice this.
_RADIUS = 12
REACH = 2 * _RADIUS + 4
#: Tallest step that is taken for a band's at full strength, 0..1.
TALLEST_STEP = 8 / 255
#: Offsets at which tones are gathered: rings, so that few samples reach far.
_OFFSETS = [
    (round(radius * np.sin(angle)), round(radius * np.cos(angle)))
    for radius, count in ((_RADIUS, 12), (_RADIUS * 0.6, 8), (_RADIUS * 0.3, 6))
    for angle in 2 * np.pi * (np.arange(count) + 0.5 * (count % 4 == 0)) / count
]


class DebandedStage(Stage):
    """``source`` with its bands smoothed: tones are averaged with those around that differ by no more than a band's step.

    Where the picture has texture or edges of more than that, it stays as it is; so does everything of less than
    ``step`` next to them. Twice, so that the first pass's own steps go as well.
    """

    def __init__(self, source: Stage, step: float) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._step = source, np.float32(step)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        pixels = self._source.extended(region.grown(REACH), run)
        smooth = pixels.copy()
        colours = colours_of(smooth)
        for _ in range(2):
            colours[...] = _gathered(colours, self._step)
        # One look for all channels, so that no colour is smoothed where another has an edge.
        calm = _calm(colours_of(pixels), self._step)[..., None]
        colours_of(pixels)[...] += calm * (colours - colours_of(pixels))
        return np.ascontiguousarray(pixels[REACH:-REACH, REACH:-REACH])


def _gathered(colours: Pixels, step: np.float32) -> Pixels:
    """Mean of each pixel and those at the offsets that are within ``step`` of it; mirrored at the borders."""
    padded = np.pad(colours, ((_RADIUS, _RADIUS), (_RADIUS, _RADIUS), (0, 0)), mode="reflect")
    height, width = colours.shape[:2]
    total, weights = colours.copy(), np.ones_like(colours)
    for down, across in _OFFSETS:
        other = padded[_RADIUS + down :, _RADIUS + across :][:height, :width]
        near = np.clip(2 - np.abs(other - colours) / step, 0, 1)
        total += near * other
        weights += near
    return np.asarray(total / weights, np.float32)


def _calm(colours: Pixels, step: np.float32) -> Pixels:
    """1 where nothing within 5×5 pixels differs by more than a band's step, falling to 0 at twice that; H×W."""
    kernel = np.ones((5, 5), np.uint8)
    spread = (cv2.dilate(colours, kernel) - cv2.erode(colours, kernel)).reshape(*colours.shape[:2], -1).max(axis=2)
    calm = np.clip(2 - spread / step, 0, 1).astype(np.float32)
    return np.asarray(cv2.blur(calm, (3, 3)), np.float32)
