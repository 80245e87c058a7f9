"""Slow down guessing of passwords: a few failures per name and address, then a wait."""

from __future__ import annotations

import hashlib

from django.core.cache import cache

from common.errors import TooMany

FAILURES = 5
WAIT_SECONDS = 60


def _key(name: str, address: str) -> str:
    return "sign-in-" + hashlib.sha256(f"{name.lower()}\0{address}".encode()).hexdigest()


def check(name: str, address: str) -> None:
    """Raise TooMany when this name has failed too often from this address within the last minute."""
    if cache.get(_key(name, address), 0) >= FAILURES:
        raise TooMany(f"Too many tries with the wrong password; wait {WAIT_SECONDS} seconds and try again.")


def failed(name: str, address: str) -> None:
    key = _key(name, address)
    cache.add(key, 0, WAIT_SECONDS)
    cache.incr(key)


def succeeded(name: str, address: str) -> None:
    cache.delete(_key(name, address))
