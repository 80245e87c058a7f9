"""What the web process keeps of what it has computed, for all who look at the same pictures."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from django.conf import settings

from kitecore.pipeline.pixels import Samples
from kitecore.pipeline.region_cache import RegionCache, named_key
from kitecore.pipeline.stage_cache import StageCache


@cache
def region_cache() -> RegionCache:
    """Finished regions, on disk."""
    return RegionCache(settings.REGION_CACHE, settings.REGION_CACHE_BYTES)


@cache
def stage_cache() -> StageCache:
    """What slow steps computed, in memory."""
    return StageCache(settings.STAGE_CACHE_BYTES)


@dataclass(frozen=True)
class KeptReduction:
    """Reduced versions of an original among the regions: all of it is seen before it is decoded again."""

    sha256: str

    def get(self, level: int) -> Samples | None:
        return region_cache().get(self._key(level))

    def put(self, level: int, samples: Samples) -> None:
        region_cache().put(self._key(level), samples)

    def _key(self, level: int) -> str:
        return named_key(f"{self.sha256} reduced {level}")
