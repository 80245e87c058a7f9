"""A stage: a picture that can be asked for any of its regions. Steps make stages out of stages."""

from __future__ import annotations

import itertools
from abc import ABC, abstractmethod

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region, Size, mirrored
from kitecore.pipeline.pixels import Pixels, Samples, from_samples
from kitecore.pipeline.resample import resample_region
from kitecore.pipeline.run import Run


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
        # Much quicker, where the picture is mirrored once at most.
        above, below = needed.y - region.y, region.bottom - needed.bottom
        before, after = needed.x - region.x, region.right - needed.right
        if (
            min(above, below, before, after) < 0
            or max(above, below) >= needed.height
            or max(before, after) >= needed.width
        ):
            return np.ascontiguousarray(pixels[rows - top][:, columns - left])
        around = cv2.copyMakeBorder(pixels, above, below, before, after, cv2.BORDER_REFLECT_101)
        return np.asarray(around, np.float32).reshape(region.height, region.width, self.bands)

    def reachable(self, region: Region, beyond: int, multiple: int = 1) -> Region:
        """``region`` cut where it reaches farther outside the picture than ``beyond`` px, at multiples of ``multiple`` px."""
        return region.intersection(self.size.region.grown(beyond).aligned(multiple)) or region


class SampleStage(Stage):
    """The samples of a file or an array, H×W×C, uint8, uint16 or float32; may be a memory-mapped file.

    ``profile`` is the ICC profile of their colours; None: sRGB.
    """

    def __init__(self, samples: Samples, profile: bytes | None = None) -> None:
        super().__init__(Size(samples.shape[1], samples.shape[0]), samples.shape[2])
        self._samples, self.profile = samples, profile

    def render(self, region: Region, run: Run) -> Pixels:
        return from_samples(self._samples[region.y : region.bottom, region.x : region.right])


class RepeatingStage(Stage):
    """Another stage that goes on periodically beyond its borders, as a pattern does that is laid edge to edge."""

    def __init__(self, source: Stage) -> None:
        super().__init__(source.size, source.bands)
        self._source = source

    def render(self, region: Region, run: Run) -> Pixels:
        return self._source.render(region, run)

    def reachable(self, region: Region, beyond: int, multiple: int = 1) -> Region:
        return region

    def extended(self, region: Region, run: Run) -> Pixels:
        if region.inside(self.size):
            return self.render(region, run)
        columns = np.arange(region.x, region.right) % self.size.width
        rows = np.arange(region.y, region.bottom) % self.size.height
        pixels = np.empty((region.height, region.width, self.bands), np.float32)
        for above, below in _runs(rows):
            for left, right in _runs(columns):
                part = Region(int(columns[left]), int(rows[above]), right - left, below - above)
                pixels[above:below, left:right] = self._source.render(part, run)
        return pixels


def _runs(indices: npt.NDArray[np.intp]) -> list[tuple[int, int]]:
    """Where ``indices`` go up one by one: start and end of each such run."""
    breaks = [0, *(np.flatnonzero(np.diff(indices) != 1) + 1).tolist(), len(indices)]
    return list(itertools.pairwise(breaks))


class ResampledStage(Stage):
    """Another stage, resampled to ``size`` by Lanczos; a :class:`RepeatingStage` is resampled as one."""

    def __init__(self, source: Stage, size: Size) -> None:
        super().__init__(size, source.bands)
        self._source = source
        self._repeats = isinstance(source, RepeatingStage)

    def render(self, region: Region, run: Run) -> Pixels:
        return resample_region(
            lambda part: self._source.extended(part, run), self._source.size, self.size, region, self._repeats
        )


def resized(stage: Stage, size: Size) -> Stage:
    """The stage at ``size``: itself if it has that already."""
    return stage if stage.size == size else ResampledStage(stage, size)
