"""Stages that use masks: a step where its mask is, and masks as pictures."""

from __future__ import annotations

import numpy as np

from kitecore.masks.mask import Mask
from kitecore.masks.original import Original
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage


class MaskedStage(Stage):
    """What a step makes where its mask is, what was there before elsewhere; nothing is computed where the mask is 0."""

    def __init__(self, before: Stage, after: Stage, mask: Mask, original: Original) -> None:
        super().__init__(after.size, after.bands)
        self._before, self._after, self._mask, self._original = before, after, mask, original

    def render(self, region: Region, run: Run) -> Pixels:
        values = self._mask.values(region, self._original, run)
        if not values.any():
            return self._before.render(region, run)
        if values.min() == 1:
            return self._after.render(region, run)
        result = self._before.render(region, run)
        rows, columns = np.flatnonzero(values.any(axis=1)), np.flatnonzero(values.any(axis=0))
        part = Region.between(int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
        part = part.moved(region.x, region.y)
        inner = part.slices(region)
        made = self._after.render(part, run)
        result[inner] += values[inner][..., None] * (made - result[inner])
        return result


class WeightStage(Stage):
    """A mask as a picture of one band, over an original."""

    def __init__(self, mask: Mask, original: Original) -> None:
        super().__init__(original.stage.size, 1)
        self._mask, self._original = mask, original

    def render(self, region: Region, run: Run) -> Pixels:
        return self._mask.values(region, self._original, run)[..., None]


class ProductStage(Stage):
    """Two pictures of one band, multiplied."""

    def __init__(self, one: Stage, other: Stage) -> None:
        super().__init__(one.size, 1)
        self._one, self._other = one, other

    def render(self, region: Region, run: Run) -> Pixels:
        return np.asarray(self._one.render(region, run) * self._other.render(region, run), np.float32)
