"""A picture resampled once through a mapping that bends it."""

from __future__ import annotations

import math
from collections.abc import Mapping as Mapping_
from typing import TypeAlias

import numpy as np
import pyvips

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Floats, Mapping
from kitecore.pipeline.pixels import Pixels, has_alpha, premultiplied, unpremultiplied
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: By band.
Shares: TypeAlias = Mapping_[int, float]

#: Pixels that the interpolation needs around a place.
_REACH = 3
#: Places are told in such parts of a pixel, so that they are the same to the bit wherever a region begins.
_PARTS = 1 << 16


class WarpStage(Stage):
    """By locally bounded bicubic interpolation (no overshoot); what lies beyond the source is mirrored, or ``white``.

    ``to_source`` takes pixels of the result, of ``size``, to those of ``source``. ``parted`` says of bands how much nearer to the
    middle of the source, in shares of the way, they are read than the others: colour fringes undone at once.
    """

    def __init__(
        self, source: Stage, size: Size, to_source: Mapping, white: bool, parted: Shares | None = None
    ) -> None:
        super().__init__(size, source.bands)
        self._source, self._to_source, self._white = source, to_source, white
        self._parted = dict(parted or {})

    def with_parted(self, parted: Shares) -> WarpStage:
        """The same with some bands read nearer still to the middle of the source."""
        before = self._parted
        both = {band: 1 - (1 - before.get(band, 0)) * (1 - parted.get(band, 0)) for band in {*before, *parted}}
        return WarpStage(self._source, self.size, self._to_source, self._white, both)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        x = np.arange(region.x, region.right)[None] + 0.5
        y = np.arange(region.y, region.bottom)[:, None] + 0.5
        across, down = self._to_source.to_source(*np.broadcast_arrays(x, y))
        width, height = self._source.size.width, self._source.size.height
        places = {
            band: (
                _held(across + share * (width / 2 - across), width), _held(down + share * (height / 2 - down), height)
            )
            for band, share in self._parted.items()
        }  # fmt: skip
        result = self._at(_held(across, width), _held(down, height), places, run)
        if self._white:
            # How much of a pixel lies inside, by how far its middle does.
            inside = np.minimum(np.minimum(across, width - across), np.minimum(down, height - down)) + 0.5
            cover = np.clip(inside, 0, 1).astype(np.float32)[..., None]
            result *= cover
            # Where there is transparency there is nothing to be white.
            if not has_alpha(self.bands):
                result += 1 - cover
        return unpremultiplied(result) if has_alpha(self.bands) else result

    def _at(self, across: Floats, down: Floats, parted: dict[int, tuple[Floats, Floats]], run: Run) -> Pixels:
        """All bands at the same places but for those that have their own."""
        xs, ys = zip((across, down), *parted.values(), strict=True)
        left, top = math.floor(min(x.min() for x in xs)) - _REACH, math.floor(min(y.min() for y in ys)) - _REACH
        right, bottom = math.ceil(max(x.max() for x in xs)) + _REACH, math.ceil(max(y.max() for y in ys)) + _REACH
        pixels = self._source.extended(Region.between(left, top, right, bottom), run)
        if has_alpha(self.bands):
            pixels = premultiplied(pixels)
        result = _read(pixels, across - left, down - top)
        for band, (x, y) in parted.items():
            result[..., band] = _read(pixels[..., band : band + 1], x - left, y - top)[..., 0]
        return result


def _read(pixels: Pixels, across: Floats, down: Floats) -> Pixels:
    """Pixels H×W×C at places, as many rows and columns as those have."""
    image = pyvips.Image.new_from_memory(
        np.ascontiguousarray(pixels).data, pixels.shape[1], pixels.shape[0], pixels.shape[2], "float"
    )
    # Sample centres of vips lie on whole numbers, ours half a pixel in.
    places = np.ascontiguousarray(np.stack([across - 0.5, down - 0.5], axis=2))
    index = pyvips.Image.new_from_memory(places.data, places.shape[1], places.shape[0], 2, "double")
    bent = image.mapim(index, interpolate=pyvips.Interpolate.new("lbb"), extend="copy")
    return np.asarray(bent.numpy().reshape(*across.shape, pixels.shape[2]), np.float32).copy()


def _held(places: Floats, length: int) -> Floats:
    """Places in whole parts of a pixel, none farther out than the source is long."""
    held = np.clip(places, -length, 2 * length)
    return np.asarray(np.round(held * _PARTS) / _PARTS, np.float64)
