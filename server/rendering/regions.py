"""Regions of results, rendered from opened pictures by way of the caches."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass

from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.region_cache import region_key
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.pipeline.stage_cache import CacheStage
from kitecore.takes.plan import Plan
from kitecore.takes.render import result_stage
from pictures.models import Picture
from rendering.caches import region_cache, stage_cache
from rendering.sources import sources

#: Longest side of what is computed of an enlarged view at once, in pixels of the result: twice what the network is given.
_RESULT_BLOCK = 1536


@dataclass(frozen=True)
class Opened:
    """A picture that is open to be rendered from."""

    source: Source
    sha256: str

    @property
    def profile(self) -> bytes | None:
        return self.source.header.profile

    @property
    def cache(self) -> CacheStage:
        return stage_cache().of(self.sha256)

    def reduced(self, plan: Plan, level: int) -> Stage:
        """The source as far reduced as a view of ``plan``'s result at a level allows."""
        return self.source.stage(plan.source_reduction(level))

    def stage_of(self, plan: Plan, level: int = 0) -> Stage:
        """The result of a plan at a level."""
        last = stage_cache().of(self.sha256, _RESULT_BLOCK)
        return result_stage(plan, self.reduced(plan, level), level, self.cache, last)

    def region(self, plan: Plan, level: int, region: Region, run: Run) -> Pixels:
        """A region of that, from the disk if it was rendered before."""
        return region_cache().get_or_render(
            region_key(self.sha256, plan.chain, level, region),
            lambda: self.stage_of(plan, level).render(region, run),
            run.cancelled,
        )


@contextmanager
def opened(picture: Picture) -> Iterator[Opened]:
    """The picture, decoded at most once however many look at it."""
    with sources.of(picture) as source:
        yield Opened(source, picture.samples_key)
