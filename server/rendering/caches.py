"""What the web process keeps of what it has computed, for all who look at the same pictures."""

from __future__ import annotations

from functools import cache

from django.conf import settings

from kitecore.pipeline.region_cache import RegionCache
from kitecore.pipeline.stage_cache import StageCache


@cache
def region_cache() -> RegionCache:
    """Finished regions, on disk."""
    return RegionCache(settings.REGION_CACHE, settings.REGION_CACHE_BYTES)


@cache
def stage_cache() -> StageCache:
    """What slow steps computed, in memory."""
    return StageCache(settings.STAGE_CACHE_BYTES)
