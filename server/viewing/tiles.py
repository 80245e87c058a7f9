"""Which pixels of a result are asked for: tiles of a grid, and cuts around a place."""

from __future__ import annotations

from kitecore.pipeline.geometry import Region, Size

TILE_SIDE = 512
#: Pixels a tile shares with each neighbour, so that viewers can lay them down unstretched.
TILE_OVERLAP = 1


def tile_region(size: Size, column: int, row: int) -> Region | None:
    """The pixels of one tile, overlap included; None outside a picture of ``size``."""
    tile = Region(column * TILE_SIDE, row * TILE_SIDE, TILE_SIDE, TILE_SIDE)
    if tile.intersection(size.region) is None:
        return None
    return tile.grown(TILE_OVERLAP).intersection(size.region)


def tile_of_pixel(size: Size, x: int, y: int) -> Region:
    """The tile that the pixel ``x``, ``y`` of a picture of ``size`` lies in."""
    region = tile_region(size, x // TILE_SIDE, y // TILE_SIDE)
    assert region is not None
    return region


def cut_around(size: Size, x: float, y: float, width: int, height: int) -> Region:
    """A region of at most ``width``×``height`` px around a place (shares of the size), moved so that it lies inside."""
    width, height = min(width, size.width), min(height, size.height)
    left = min(max(0, round(x * size.width - width / 2)), size.width - width)
    top = min(max(0, round(y * size.height - height / 2)), size.height - height)
    return Region(left, top, width, height)
