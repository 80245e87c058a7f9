"""Render a stage strip by strip, without ever holding it all."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.pixels import Pixels, Samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: Regions of a full render: wide enough that what is computed twice at their edges is little.
TILE = Size(1536, 1024)
_STRIP_SAMPLES = 64 * 1024 * 1024


def tile_for(size: Size, bands: int) -> Size:
    """Regions for rendering a picture of ``size``, lower where a strip of them would hold more than 64 Mi samples."""
    rows = max(64, _STRIP_SAMPLES // (size.width * bands))
    return Size(min(TILE.width, size.width), min(TILE.height, rows, size.height))


def render_strips(stage: Stage, finish: Callable[[Pixels], Samples], run: Run) -> Iterator[Samples]:
    """Render everything top to bottom, as strips of full width.

    ``finish`` turns the pixels of one region into what is kept (rounds them, say). A strip is rendered when it is
    asked for. Progress and cancelling are minded between regions.
    """
    tile = tile_for(stage.size, stage.bands)
    done = 0
    for rows in grid(stage.size, Size(stage.size.width, tile.height)):
        strip: Samples | None = None
        for part in grid(rows.size, Size(tile.width, rows.height)):
            run.check()
            region = Region(part.x, rows.y, part.width, rows.height)
            samples = finish(stage.render(region, run))
            if strip is None:
                strip = np.empty((rows.height, rows.width, samples.shape[2]), samples.dtype)
            strip[:, part.x : part.right] = samples
            done += region.size.pixels
            run.progress(done / stage.size.pixels)
        assert strip is not None
        yield strip
