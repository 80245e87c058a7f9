"""Scenes of a rehearsal: places of a picture made into a truth that is known, and into what was worn from it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from kitecore.errors import PictureError
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, Samples, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.rehearsal.wear import Wear

#: Pixels a side of what is worn: as much as networks need to show what they do, and little enough to be quick.
_SIDE, _LEAST_SIDE = 144, 40
#: Places that are rehearsed in a large picture, by the share of others that have less texture; and scenes at most.
_TEXTURES, _MOST_SCENES = (0.95, 0.6, 0.8), 6
#: How often a truth is finer than the picture: damage all but vanishes, and texture is finer than it is.
_SHRUNK = 2


@dataclass(frozen=True)
class Scene:
    """A truth H×W×C, 0..1, and the samples that were worn from it, ``factor`` times smaller."""

    place: Region
    truth: Pixels
    worn: Samples
    #: How many pixels of the picture a pixel of the truth was made of, along a side.
    shrunk: int
    #: How much it counts.
    weight: float


def largest_factor(size: Size) -> int:
    """What a picture can be made smaller by so that something is left to rehearse on; at least 1."""
    return max(1, min(size.width, size.height) // _LEAST_SIDE)


def too_small(factor: int) -> PictureError:
    """What is said of a picture too small to be made ``factor`` times smaller."""
    return PictureError(
        f"This picture is too small to be rehearsed on: a side has fewer than {factor * _LEAST_SIDE} pixels."
    )


def scenes_of(
    cleaned: Stage, original: Stage, factor: int, wears: list[tuple[Wear, float]], soft: bool, run: Run
) -> list[Scene]:
    """What is rehearsed of a picture for an enlargement by ``factor``.

    Parameters
    ----------
    cleaned
        The picture without the noise and the compression that were read in it: what truths are made of.
    original
        The picture as it is: where texture is looked for.
    wears
        What truths are worn by, and how likely that is.
    soft
        Whether the picture itself is blurred: then it is no truth at its own scale.

    Raises
    ------
    PictureError
        If the picture is too small to be made smaller.
    """
    found: list[Scene] = []
    for shrunk in (_SHRUNK, 1):
        if soft and shrunk == 1 and found:
            continue
        count = max(1, _MOST_SCENES // (2 * len(wears)))
        for index, place in enumerate(_places(original, factor * shrunk, count, run)):
            truth = _shrunk(colours_of(cleaned.render(place, run)), shrunk, factor)
            small = _smaller(truth, factor)
            for kind, (wear, weight) in enumerate(wears):
                random = np.random.default_rng([shrunk, index, kind])
                alike = wear.until_alike(small, random)
                found.append(Scene(place, truth, alike.apply(small, random), shrunk, weight))
    if not found:
        raise too_small(factor)
    return found


def _shrunk(pixels: Pixels, times: int, factor: int) -> Pixels:
    """Made smaller by whole pixels, its sides multiples of ``factor``."""
    height, width = (side // (times * factor) * factor for side in pixels.shape[:2])
    return np.ascontiguousarray(np.clip(_smaller(pixels[: height * times, : width * times], times), 0, 1), np.float32)


def _smaller(pixels: Pixels, times: int) -> Pixels:
    """The means of squares of ``times``² pixels."""
    height, width, bands = pixels.shape
    if times == 1:
        return pixels
    small = cv2.resize(pixels, (width // times, height // times), interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32).reshape(height // times, width // times, bands)


def _places(stage: Stage, reduction: int, count: int, run: Run) -> Iterator[Region]:
    """So many places with much and with middling texture, each of a size that becomes ``_SIDE`` when it is reduced."""
    size = stage.size
    side = Size(
        *(min(length, _SIDE * reduction) // (2 * reduction) * 2 * reduction for length in (size.width, size.height))
    )
    if min(side.width, side.height) < _LEAST_SIDE * reduction:
        return
    starts = [(x, y) for y in _spread(size.height, side.height) for x in _spread(size.width, side.width)]
    ranked = sorted(starts, key=lambda start: _texture(stage, Region(start[0], start[1], side.width, side.height), run))
    chosen = {ranked[min(len(ranked) - 1, int(share * len(ranked)))] for share in _TEXTURES[:count]}
    for x, y in sorted(chosen):
        run.check()
        yield Region(x, y, side.width, side.height)


def _spread(length: int, side: int) -> list[int]:
    """Where at most four windows of ``side`` begin that lie evenly in ``length``, on the grid of compression."""
    count = max(1, min(4, length // side))
    return [round((length - side) * index / max(1, count - 1)) // 8 * 8 for index in range(count)]


def _texture(stage: Stage, place: Region, run: Run) -> float:
    """How much there is in a place beside noise: the mean step from one cell of 4×4 pixels to the next."""
    grey = luma(stage.render(place, run))
    cells = cv2.resize(grey, (place.width // 4, place.height // 4), interpolation=cv2.INTER_AREA)
    return float(np.abs(np.diff(cells, axis=0)).mean() + np.abs(np.diff(cells, axis=1)).mean())
