"""Render a stage strip by strip, without ever holding it all."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, wait
from functools import partial
from itertools import chain
from threading import Event
from typing import Protocol, TypeVar

import numpy as np

from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.pixels import Pixels, Samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: What rendering all of a picture may take, for everything that grows with its regions; what a process needs besides is not
#: in it.
WORKING_BYTES = 950_000_000
#: Regions of a full render where nothing is known of what they cost.
TILE = Size(1536, 1024)
#: So many are under way at once, so that the next one is begun while a network is busy with this one.
AT_ONCE = 2
_LOOK_EVERY_SECONDS = 0.1


#: What is made of a region.
Made = TypeVar("Made")
#: Makes it.
Work = Callable[[Region, Run], Made]


class Rendering(Protocol):
    """Has work done for regions, wherever that is; gives each with what was made of it, in their order. Raises Cancelled.

    Here, ``at_once`` are under way at any time.
    """

    def __call__(
        self, work: Work[Made], run: Run, regions: list[Region], at_once: int
    ) -> Iterator[tuple[Region, Made]]: ...


def regions_of(size: Size, tile: Size) -> list[Region]:
    """Those in which a picture is rendered from top to bottom."""
    return list(grid(size, Size(min(tile.width, size.width), min(tile.height, size.height))))


def render_strips(
    stage: Stage, finish: Callable[[Pixels], Samples], run: Run, tile: Size = TILE, rendering: Rendering | None = None
) -> Iterator[Samples]:
    """Render everything top to bottom, as strips of full width, in regions of at most ``tile``.

    ``finish`` turns the pixels of one region into what is kept (rounds them, say). Regions are rendered by ``rendering``, or
    else by threads of this process; ``run`` is asked and told in the caller's.
    """
    strip: Samples | None = None
    work = partial(_samples, stage, finish)
    for region, samples in (rendering or rendered_here)(work, run, regions_of(stage.size, tile), AT_ONCE):
        if strip is None:
            strip = np.empty((region.height, stage.size.width, samples.shape[2]), samples.dtype)
        strip[:, region.x : region.right] = samples
        run.progress((region.y * stage.size.width + region.height * region.right) / stage.size.pixels)
        if region.right == stage.size.width:
            yield strip
            # Whoever was given it may have let it go already.
            strip = None


def _samples(stage: Stage, finish: Callable[[Pixels], Samples], region: Region, run: Run) -> Samples:
    return finish(stage.render(region, run))


def rendered_here(work: Work[Made], run: Run, regions: list[Region], at_once: int) -> Iterator[tuple[Region, Made]]:
    """A :class:`Rendering` by threads of this process."""
    over = Event()
    threads = Run(over.is_set)
    with ThreadPoolExecutor(at_once, thread_name_prefix="strips") as pool:
        under_way: deque[tuple[Region, Future[Made]]] = deque()
        try:
            for region in chain(regions, (None,)):
                if region is not None:
                    under_way.append((region, pool.submit(work, region, threads)))
                while len(under_way) > (0 if region is None else at_once - 1):
                    first, future = under_way.popleft()
                    while not wait([future], _LOOK_EVERY_SECONDS).done:
                        run.check()
                    run.check()
                    yield first, future.result()
                    del future
        finally:
            over.set()
