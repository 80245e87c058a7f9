"""Networks that are loaded keep the memory their largest region took; of many, those used least recently are let go."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import NamedTuple


class _Held(NamedTuple):
    taken: float
    let_go: Callable[[], None]


class Loaded:
    """What loaded networks hold, in bytes, together hardly more than ``limit()``: the one used last is always kept.

    >>> gone = []
    >>> loaded = Loaded(lambda: 100)
    >>> for name in ("a", "b", "a", "c"):
    ...     loaded.used(name, 45, lambda name=name: gone.append(name))
    >>> gone, loaded.held
    (['b'], 90)
    """

    def __init__(self, limit: Callable[[], float]) -> None:
        self._limit = limit
        self._lock = threading.Lock()
        self._networks: OrderedDict[Hashable, _Held] = OrderedDict()

    @property
    def held(self) -> float:
        """About how many bytes the networks that are loaded hold."""
        with self._lock:
            return sum(held.taken for held in self._networks.values())

    def used(self, network: Hashable, taken: float, let_go: Callable[[], None]) -> None:
        """A network has run on a region for which it took so many bytes; ``let_go`` unloads it."""
        with self._lock:
            before = self._networks.pop(network, None)
            self._networks[network] = _Held(max(taken, before.taken if before else 0.0), let_go)
            held, limit, gone = sum(one.taken for one in self._networks.values()), self._limit(), []
            while held > limit and len(self._networks) > 1:
                _, oldest = self._networks.popitem(last=False)
                held -= oldest.taken
                gone.append(oldest.let_go)
        for unload in gone:
            unload()

    def forget(self, network: Hashable) -> None:
        """It has been unloaded by somebody else."""
        with self._lock:
            self._networks.pop(network, None)
