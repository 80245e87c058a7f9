"""A picture resampled once through a mapping that bends it."""

from __future__ import annotations

import math

import numpy as np
import pyvips

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Floats, Mapping
from kitecore.pipeline.pixels import Pixels, has_alpha, premultiplied, unpremultiplied
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Pixels that the interpolation needs around a place.
_REACH = 3
#: Places are told in such parts of a pixel, so that they are the same to the bit wherever a region begins.
_PARTS = 1 << 16


class WarpStage(Stage):
    """By locally bounded bicubic interpolation (no overshoot); what lies beyond the source is mirrored, or ``white``.

    ``to_source`` takes pixels of the result, of ``size``, to those of ``source``.
    """

    def __init__(self, source: Stage, size: Size, to_source: Mapping, white: bool) -> None:
        super().__init__(size, source.bands)
        self._source, self._to_source, self._white = source, to_source, white

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        x = np.arange(region.x, region.right)[None] + 0.5
        y = np.arange(region.y, region.bottom)[:, None] + 0.5
        across, down = self._to_source.to_source(*np.broadcast_arrays(x, y))
        width, height = self._source.size.width, self._source.size.height
        result = self._at(_held(across, width), _held(down, height), run)
        if self._white:
            # How much of a pixel lies inside, by how far its middle does.
            inside = np.minimum(np.minimum(across, width - across), np.minimum(down, height - down)) + 0.5
            cover = np.clip(np.nan_to_num(inside, nan=0), 0, 1).astype(np.float32)[..., None]
            result *= cover
            # Where there is transparency there is nothing to be white.
            if not has_alpha(self.bands):
                result += 1 - cover
        return unpremultiplied(result) if has_alpha(self.bands) else result

    def _at(self, across: Floats, down: Floats, run: Run) -> Pixels:
        left, top = math.floor(across.min()) - _REACH, math.floor(down.min()) - _REACH
        right, bottom = math.ceil(across.max()) + _REACH, math.ceil(down.max()) + _REACH
        pixels = self._source.extended(Region.between(left, top, right, bottom), run)
        if has_alpha(self.bands):
            pixels = premultiplied(pixels)
        image = pyvips.Image.new_from_memory(
            np.ascontiguousarray(pixels).data, pixels.shape[1], pixels.shape[0], pixels.shape[2], "float"
        )
        # Sample centres of vips lie on whole numbers, ours half a pixel in.
        places = np.ascontiguousarray(np.stack([across - 0.5 - left, down - 0.5 - top], axis=2))
        index = pyvips.Image.new_from_memory(places.data, places.shape[1], places.shape[0], 2, "double")
        bent = image.mapim(index, interpolate=pyvips.Interpolate.new("lbb"), extend="copy")
        return np.asarray(bent.numpy().reshape(*across.shape, self.bands), np.float32).copy()


def _held(places: Floats, length: int) -> Floats:
    """Places in whole parts of a pixel, none farther out than the source is long."""
    held = np.clip(np.nan_to_num(places, nan=-float(length)), -length, 2 * length)
    return np.asarray(np.round(held * _PARTS) / _PARTS, np.float64)
