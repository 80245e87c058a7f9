"""Passes: a network run on a picture turned and mirrored as well, and the mean of what it makes of each.

What a network does with chance, as which way an edge leans, differs between them and averages out. Measured on seven photographs
with Faithful at ×2 and ×4: two passes are 0.07 dB nearer to the truth, eight 0.12 dB.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal, NamedTuple, TypeAlias

import numpy as np
from pydantic import Field

from kitecore.pipeline.pixels import Pixels

Passes: TypeAlias = Annotated[
    Literal[1, 2, 8],
    Field(description="How many ways the network sees the picture: as it is, mirrored, turned; their mean is taken."),
]


class Way(NamedTuple):
    """How a picture is seen: mirrored left to right, then turned counter-clockwise by so many quarters."""

    turns: int = 0
    mirrored: bool = False


_WAYS = {
    1: (Way(),),
    2: (Way(), Way(0, True)),
    8: tuple(Way(turns, mirrored) for mirrored in (False, True) for turns in range(4)),
}


def in_passes(work: Callable[[Pixels, Way], Pixels], passes: int, picture: Pixels) -> Pixels:
    """The mean of what ``work`` makes of a picture H×W×C over so many ways of seeing it.

    >>> in_passes(lambda picture, way: picture * 2, 8, np.arange(6, dtype=np.float32).reshape(2, 3, 1))[..., 0]
    array([[ 0.,  2.,  4.],
           [ 6.,  8., 10.]], dtype=float32)
    """
    total: Pixels | None = None
    for way in _WAYS[passes]:
        made = _back(work(_turned(picture, way), way), way)
        total = made if total is None else total + made
    assert total is not None
    return np.asarray(total / np.float32(passes), np.float32) if passes > 1 else total


def _turned(picture: Pixels, way: Way) -> Pixels:
    if way == Way():
        return picture
    return np.ascontiguousarray(np.rot90(picture[:, ::-1] if way.mirrored else picture, way.turns))


def _back(picture: Pixels, way: Way) -> Pixels:
    turned = np.rot90(picture, -way.turns)
    return turned[:, ::-1] if way.mirrored else turned
