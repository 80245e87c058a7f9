"""Passes: a network run on a picture turned and mirrored as well, and the mean of what it makes of each.

What a network does with chance, as which way an edge leans, differs between them and averages out. Measured on seven photographs
with Faithful at ×2 and ×4: two passes are 0.07 dB nearer to the truth, eight 0.12 dB.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal, TypeAlias

import numpy as np
from pydantic import Field

from kitecore.pipeline.pixels import Pixels

Passes: TypeAlias = Annotated[
    Literal[1, 2, 8],
    Field(description="How many ways the network sees the picture: as it is, mirrored, turned; their mean is taken."),
]
#: Quarter turns, and whether it is mirrored.
_WAYS = {
    1: ((0, False),),
    2: ((0, False), (0, True)),
    8: tuple((turns, mirrored) for mirrored in (False, True) for turns in range(4)),
}


def in_passes(work: Callable[..., Pixels], passes: int, *pictures: Pixels) -> Pixels:
    """The mean of what ``work`` makes of the pictures, H×W×C each, over so many ways of seeing them.

    >>> in_passes(lambda picture: picture * 2, 8, np.arange(6, dtype=np.float32).reshape(2, 3, 1))[..., 0]
    array([[ 0.,  2.,  4.],
           [ 6.,  8., 10.]], dtype=float32)
    """
    total: Pixels | None = None
    for turns, mirrored in _WAYS[passes]:
        made = _back(work(*(_turned(picture, turns, mirrored) for picture in pictures)), turns, mirrored)
        total = made if total is None else total + made
    assert total is not None
    return np.asarray(total / np.float32(passes), np.float32) if passes > 1 else total


def _turned(picture: Pixels, turns: int, mirrored: bool) -> Pixels:
    if not turns and not mirrored:
        return picture
    return np.ascontiguousarray(np.rot90(picture[:, ::-1] if mirrored else picture, turns))


def _back(picture: Pixels, turns: int, mirrored: bool) -> Pixels:
    turned = np.rot90(picture, -turns)
    return turned[:, ::-1] if mirrored else turned
