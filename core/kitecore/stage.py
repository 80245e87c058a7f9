"""A stage: a picture that can be asked for any of its regions. Steps make stages out of stages."""

from __future__ import annotations

from abc import ABC, abstractmethod

import numpy as np

from kitecore.geometry import Region, Size, mirrored
from kitecore.pixels import Pixels, Samples, from_samples
from kitecore.resample import resample_region
from kitecore.run import Run


class Stage(ABC):
    """A picture of known size and number of bands whose regions are computed when asked for."""

    def __init__(self, size: Size, bands: int) -> None:
        self.size = size
        self.bands = bands

    @abstractmethod
    def render(self, region: Region, run: Run) -> Pixels:
        """Pixels of ``region`` (which lies inside the picture), H×W×bands; a new array the caller may change."""

    def extended(self, region: Region, run: Run) -> Pixels:
        """Like :meth:`render`, but the region may reach outside: the picture is mirrored at its borders."""
        if region.inside(self.size):
            return self.render(region, run)
        columns = mirrored(region.x, region.right, self.size.width)
        rows = mirrored(region.y, region.bottom, self.size.height)
        left, top = int(columns.min()), int(rows.min())
        needed = Region.between(left, top, int(columns.max()) + 1, int(rows.max()) + 1)
        pixels = self.render(needed, run)
        return np.ascontiguousarray(pixels[rows - top][:, columns - left])


class SampleStage(Stage):
    """The samples of a file or an array, H×W×C, uint8, uint16 or float32; may be a memory-mapped file."""

    def __init__(self, samples: Samples) -> None:
        super().__init__(Size(samples.shape[1], samples.shape[0]), samples.shape[2])
        self._samples = samples

    def render(self, region: Region, run: Run) -> Pixels:
        return from_samples(self._samples[region.y : region.bottom, region.x : region.right])


class ResampledStage(Stage):
    """Another stage, resampled to ``size`` by Lanczos."""

    def __init__(self, source: Stage, size: Size) -> None:
        super().__init__(size, source.bands)
        self._source = source

    def render(self, region: Region, run: Run) -> Pixels:
        return resample_region(lambda part: self._source.render(part, run), self._source.size, self.size, region)
