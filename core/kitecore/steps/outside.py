"""Outside: in the place of steps, a file that was made elsewhere, laid upon the source it was made from."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Annotated, ClassVar, Literal

import cv2
import numpy as np
from pydantic import Field

from kitecore.colour.conversion import converted
from kitecore.comparison.alignment import Alignment
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region, Size, divisor
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, Step

#: Pixels around a sample that the interpolation looks at.
_LOBES = 4
_MOST_OPEN = 3
_DEEPEST = 48


@lru_cache(maxsize=_MOST_OPEN)
def _opened(path: Path, scratch: Path | None) -> Source:
    """The file, decoded; a few are kept, for views ask for region after region."""
    return Source(path, scratch)


class Outside(Step):
    """Gives the pixels of a file for those of the framed source, whatever they are.

    Not among the steps a take may have: it stands for steps nobody here knows. ``matrix`` maps the framed source's
    pixels to the file's, two rows of three, both from the upper left corner.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "made elsewhere"
    purpose: ClassVar[str] = "A file that was made elsewhere, laid upon its source"
    belongs: ClassVar[Belongs] = "size"
    takes_mask: ClassVar[bool] = False

    kind: Literal["outside"] = "outside"
    path: Annotated[Path, Field(exclude=True)]
    scratch: Annotated[Path | None, Field(exclude=True)] = None
    #: The source's colour space, into which the file's colours are brought.
    profile: Annotated[bytes | None, Field(exclude=True)] = None
    sha256: str
    matrix: tuple[float, float, float, float, float, float]
    width: int
    height: int

    @staticmethod
    def of(file: Source, sha256: str, path: Path, alignment: Alignment, profile: bytes | None) -> Outside:
        """The step for an aligned file; the source has to be framed to ``alignment.covered`` before it."""
        a, b, c, d, e, f = alignment.matrix
        x, y = alignment.covered.x, alignment.covered.y
        matrix = (a, b, c + a * x + b * y, d, e, f + d * x + e * y)
        exact = alignment.covered.width * a == file.size.width and alignment.covered.height * e == file.size.height
        size = file.size if exact and not b and not d else alignment.size
        return Outside(
            path=path, sha256=sha256, matrix=matrix, width=size.width, height=size.height, profile=profile
        )  # fmt: skip

    def result_size(self, size: Size) -> Size:
        return Size(self.width, self.height)

    def did(self) -> str:
        return f"made elsewhere, {self.width} × {self.height} px; what was done there is not known"

    def work(self, size: Size) -> float:
        return 80.0 * self.width * self.height

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        own = Size(self.width, self.height)
        level = next(level for level in range(_DEEPEST) if own.reduced(level) == result)
        return _LaidStage(self, full, level, source.bands)


class _LaidStage(Stage):
    """A file resampled onto the grid of a result; taken as it is where the grids are one."""

    def __init__(self, step: Outside, framed: Size, level: int, bands: int) -> None:
        super().__init__(Size(step.width, step.height).reduced(level), bands)
        self._file = _opened(step.path, step.scratch)
        self._step = step
        self._stage = self._file.stage(level)
        grown = divisor(level)
        a, b, c, d, e, f = step.matrix
        across, along = framed.width / step.width, framed.height / step.height
        # From sample centres of the result to sample centres of the file, both reduced alike.
        self._linear = np.array([[a * across, b * along], [d * across, e * along]])
        self._shift = np.array([c, f]) / grown + self._linear @ [0.5, 0.5] - 0.5
        self._same = bool(np.abs(self._linear - np.eye(2)).max() < 1e-9 and np.abs(self._shift).max() < 1e-9)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        pixels = self._stage.render(region, run) if self._same else self._laid(region, run)
        return _banded(converted(pixels, self._file.header.profile, self._step.profile), self.bands)

    def _laid(self, region: Region, run: Run) -> Pixels:
        columns, rows = np.meshgrid(np.arange(region.x, region.right), np.arange(region.y, region.bottom))
        (a, b), (d, e) = self._linear
        x, y = a * columns + b * rows + self._shift[0], d * columns + e * rows + self._shift[1]
        needed = Region.between(
            int(np.floor(x.min())) - _LOBES, int(np.floor(y.min())) - _LOBES,
            int(np.ceil(x.max())) + _LOBES + 1, int(np.ceil(y.max())) + _LOBES + 1,
        )  # fmt: skip
        around = self._stage.extended(needed, run)
        moved = cv2.remap(
            around, (x - needed.x).astype(np.float32), (y - needed.y).astype(np.float32), cv2.INTER_LANCZOS4,
            borderMode=cv2.BORDER_REFLECT_101,
        )  # fmt: skip
        return np.asarray(moved, np.float32).reshape(region.height, region.width, around.shape[2])


def _banded(pixels: Pixels, bands: int) -> Pixels:
    """Pixels with as many bands as the source has: alpha full or left out, colours averaged or repeated."""
    colours = pixels[..., : pixels.shape[2] - has_alpha(pixels.shape[2])]
    wanted = bands - has_alpha(bands)
    if colours.shape[2] != wanted:
        colours = colours.mean(axis=2, keepdims=True) if wanted == 1 else np.repeat(colours, wanted, axis=2)
    if not has_alpha(bands):
        return np.ascontiguousarray(colours)
    alpha = pixels[..., -1:] if has_alpha(pixels.shape[2]) else np.ones_like(colours[..., :1])
    return np.concatenate([colours, alpha], axis=2)
