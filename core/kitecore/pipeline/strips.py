"""Render a stage strip by strip, without ever holding it all."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, wait
from itertools import chain
from threading import Event

import numpy as np

from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.pixels import Pixels, Samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: What rendering all of a picture may take, for everything that grows with its regions; what a process needs besides is not in it.
WORKING_BYTES = 950_000_000
#: Regions of a full render where nothing is known of what they cost.
TILE = Size(1536, 1024)
_LOOK_EVERY_SECONDS = 0.1


def render_strips(stage: Stage, finish: Callable[[Pixels], Samples], run: Run, tile: Size = TILE) -> Iterator[Samples]:
    """Render everything top to bottom, as strips of full width, in regions of at most ``tile``.

    ``finish`` turns the pixels of one region into what is kept (rounds them, say). Regions are rendered by two threads,
    so that the next one is begun while a network is busy with this one; ``run`` is asked and told in the caller's.
    """
    regions = grid(stage.size, Size(min(tile.width, stage.size.width), min(tile.height, stage.size.height)))
    strip: Samples | None = None
    for region, samples in _rendered(stage, finish, run, regions):
        if strip is None:
            strip = np.empty((region.height, stage.size.width, samples.shape[2]), samples.dtype)
        strip[:, region.x : region.right] = samples
        run.progress((region.y * stage.size.width + region.height * region.right) / stage.size.pixels)
        if region.right == stage.size.width:
            yield strip
            # Whoever was given it may have let it go already.
            strip = None


def _rendered(
    stage: Stage, finish: Callable[[Pixels], Samples], run: Run, regions: Iterator[Region]
) -> Iterator[tuple[Region, Samples]]:
    """Regions and what was made of them, in order; one more is under way at any time."""
    over = Event()
    threads = Run(over.is_set)

    def rendered(region: Region) -> Samples:
        return finish(stage.render(region, threads))

    with ThreadPoolExecutor(2, thread_name_prefix="strips") as pool:
        under_way: deque[tuple[Region, Future[Samples]]] = deque()
        try:
            for region in chain(regions, (None,)):
                if region is not None:
                    under_way.append((region, pool.submit(rendered, region)))
                while len(under_way) > (0 if region is None else 1):
                    first, future = under_way.popleft()
                    while not wait([future], _LOOK_EVERY_SECONDS).done:
                        run.check()
                    run.check()
                    yield first, future.result()
                    del future
        finally:
            over.set()
