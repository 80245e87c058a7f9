"""Slow down guessing of passwords: a few tries for a name from an address, some more for either alone, then a wait.

Tries are counted before a password is looked at, so that those that come at once count as well.
"""

from __future__ import annotations

import hashlib

from django.core.cache import cache

from common.errors import TooMany

#: Within the time to wait: for a name from one address, for a name from anywhere, for an address whatever the name.
FAILURES, FAILURES_OF_NAME, FAILURES_OF_ADDRESS = 5, 25, 25
WAIT_SECONDS = 60


def _keys(name: str, address: str) -> dict[str, int]:
    """What is counted, and up to how many."""
    told = {
        f"{name.lower()}\0{address}": FAILURES, f"{name.lower()}\0": FAILURES_OF_NAME, f"\0{address}": FAILURES_OF_ADDRESS
    }  # fmt: skip
    return {"sign-in-" + hashlib.sha256(text.encode()).hexdigest(): most for text, most in told.items()}


def attempt(name: str, address: str) -> None:
    """Count a try. Raises TooMany if there were too many within the last minute."""
    tries = []
    for key, most in _keys(name, address).items():
        cache.add(key, 0, WAIT_SECONDS)
        tries.append(cache.incr(key) <= most)
    if not all(tries):
        raise TooMany(f"Too many tries with the wrong password; wait {WAIT_SECONDS} seconds and try again.")


def succeeded(name: str, address: str) -> None:
    """It was no guess: what was counted of it is taken back, and this name may be tried from this address anew."""
    first, *others = _keys(name, address)
    cache.delete(first)
    for key in others:
        cache.add(key, 1, WAIT_SECONDS)
        cache.decr(key)
