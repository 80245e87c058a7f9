"""Which pixels of a result are asked for: tiles of a grid, and cuts around a place."""

from __future__ import annotations

import re

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Around

#: Pixels a tile shares with each neighbour, so that viewers can lay them down unstretched.
TILE_OVERLAP = 1


def tile_side(level: int) -> int:
    """Pixels a side of the tiles of a level: those of full size are small, so that little is computed beside what is seen."""
    return 512 if level else 256


def tile_region(size: Size, level: int, column: int, row: int) -> Region | None:
    """The pixels of one tile of a level, overlap included; None outside the picture, which there is of ``size``."""
    side = tile_side(level)
    tile = Region(column * side, row * side, side, side)
    if tile.intersection(size.region) is None:
        return None
    return tile.grown(TILE_OVERLAP).intersection(size.region)


def tile_of_pixel(size: Size, x: int, y: int) -> Region:
    """The tile of full size that the pixel ``x``, ``y`` of a picture of ``size`` lies in."""
    region = tile_region(size, 0, x // tile_side(0), y // tile_side(0))
    assert region is not None
    return region


def seen_around(tile: Region, seen: str) -> Around | None:
    """How far a view reaches beyond a tile, from left, top, right and bottom of what is seen; None where that says nothing.

    Told in whole tiles of the tile's size, as those of a view are asked for.
    """
    edges = [int(edge) for edge in seen.split() if re.fullmatch(r"-?\d{1,9}", edge)]
    if len(edges) != 4:
        return None
    left, top, right, bottom = edges
    across, down = tile.width, tile.height
    return Around.beside(tile, Region.between(
        left // across * across, top // down * down,
        max(tile.right, -(-right // across) * across), max(tile.bottom, -(-bottom // down) * down),
    ))  # fmt: skip


def cut_around(size: Size, x: float, y: float, width: int, height: int) -> Region:
    """A region of at most ``width``×``height`` px around a place (shares of the size), moved so that it lies inside."""
    width, height = min(width, size.width), min(height, size.height)
    left = min(max(0, round(x * size.width - width / 2)), size.width - width)
    top = min(max(0, round(y * size.height - height / 2)), size.height - height)
    return Region(left, top, width, height)
