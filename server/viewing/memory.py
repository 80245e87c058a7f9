"""What the web process keeps of what it has computed, for all who look at the same pictures."""

from __future__ import annotations

from functools import cache

from django.conf import settings

from kitecore.cache import RegionCache
from kitecore.kept import Kept


@cache
def region_cache() -> RegionCache:
    """Finished regions, on disk."""
    return RegionCache(settings.REGION_CACHE, settings.REGION_CACHE_BYTES)


@cache
def kept() -> Kept:
    """What slow steps computed, in memory."""
    return Kept(settings.KEPT_BYTES)
