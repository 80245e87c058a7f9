"""The pool in which regions are rendered for those who look: a few at once, people in turn."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import TypedDict, TypeVar, Unpack

from django.conf import settings
from django.db import connection

from kitecore.errors import Cancelled
from kitecore.pipeline.run import Around, Run
from people.signed_in import who_asks
from rendering.turns import FairThreads

Result = TypeVar("Result")

#: How long what is less urgent lets others go first, and how often it looks.
_LONGEST_BESIDE_SECONDS = 20.0
_QUIET_SECONDS = 0.4
_LOOK_EVERY_SECONDS = 0.04
#: Longest side of what is computed at once ahead, in pixels: nothing that has begun can be called off.
_BLOCK_AHEAD = 256


class _Told(TypedDict, total=False):
    """What a run is told: see :class:`~kitecore.pipeline.run.Run`."""

    around: Around | None
    block: int


class RenderPool:
    """Runs renders in a bounded number of threads and calls off those nobody waits for any more.

    Each viewer numbers its requests by what it is looking at; once a request with a higher number arrives, the
    viewer's older ones are moot. A closed connection calls its request off as well. Of several people everybody has one render
    made before anybody has a second.

    What is rendered ahead, before anybody has asked for it, has a thread of its own. It begins only while nobody waits for
    anything, and is called off as soon as somebody does; what it has computed by then is kept, should that be wanted.
    """

    def __init__(self, at_once: int) -> None:
        self._threads = FairThreads(at_once, "render")
        self._ahead = FairThreads(1, "ahead")
        self._lock = threading.Lock()
        self._newest: dict[str, int] = {}
        self._waiting: dict[str, int] = {}

    def _begin(self, viewer: str, number: int) -> None:
        with self._lock:
            self._newest[viewer] = max(number, self._newest.get(viewer, number))
            self._waiting[viewer] = self._waiting.get(viewer, 0) + 1

    def _end(self, viewer: str) -> None:
        with self._lock:
            self._waiting[viewer] -= 1
            if not self._waiting[viewer]:
                del self._waiting[viewer], self._newest[viewer]

    @property
    def busy(self) -> bool:
        """Whether anybody waits for anything."""
        return bool(self._waiting)

    async def render(
        self, viewer: str, number: int, work: Callable[[Run], Result], around: Around | None = None
    ) -> Result:
        """Run ``work`` when its turn comes; ``around`` is told to its run.

        Raises Cancelled if a newer request of the same viewer made it moot.
        """
        self._begin(viewer, number)
        try:
            return await _done_in(self._threads, work, lambda: number < self._newest.get(viewer, number), around=around)
        finally:
            self._end(viewer)

    async def render_beside(self, work: Callable[[Run], Result]) -> Result:
        """Run ``work``, which is waited for, but less than what viewers ask for.

        It begins once they have been quiet for a moment, and begins anew if they ask for something meanwhile; in the end it
        is done all the same.
        """
        until = time.monotonic() + _LONGEST_BESIDE_SECONDS
        while time.monotonic() < until:
            if await self._quiet(until):
                with suppress(Cancelled):
                    return await _done_in(self._threads, work, lambda: bool(self._waiting), block=_BLOCK_AHEAD)
        return await _done_in(self._threads, work, lambda: False)

    async def _quiet(self, until: float) -> bool:
        """Wait until viewers have asked for nothing for a moment; False if they have not by then."""
        since = time.monotonic()
        while time.monotonic() < until:
            if self._waiting:
                since = time.monotonic()
            if time.monotonic() - since >= _QUIET_SECONDS:
                return True
            await asyncio.sleep(_LOOK_EVERY_SECONDS)
        return False

    async def render_ahead(self, work: Callable[[Run], Result]) -> Result:
        """Run ``work`` unless somebody waits for something, which it gives way to. Raises Cancelled if it had to."""
        return await _done_in(self._ahead, work, lambda: bool(self._waiting), block=_BLOCK_AHEAD)


async def _done_in(
    threads: FairThreads, work: Callable[[Run], Result], moot: Callable[[], bool], **told: Unpack[_Told]
) -> Result:
    """``work`` in one of the threads, its run ``told`` something; called off if it is ``moot`` or its asker is gone."""
    gone = threading.Event()

    def turn() -> Result:
        run = Run(lambda: moot() or gone.is_set(), **told)
        run.check()
        try:
            return work(run)
        finally:
            # A thread that waits for its next turn holds no connection to the database meanwhile.
            connection.close()

    try:
        return await asyncio.wrap_future(threads.submit(who_asks(), turn))
    except asyncio.CancelledError:
        gone.set()
        raise


pool = RenderPool(settings.RENDERS_AT_ONCE)
