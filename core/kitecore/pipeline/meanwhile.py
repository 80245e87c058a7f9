"""Two things at once: things are made in one thread while what was made before is used in another."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from queue import SimpleQueue
from threading import Semaphore
from typing import TypeVar

from kitecore.pipeline.run import Run

Item = TypeVar("Item")
Made = TypeVar("Made")
Result = TypeVar("Result")

_LOOK_EVERY_SECONDS = 0.1


class Abandoned(Exception):
    """What is being used will not be finished, since making it has failed."""


def used_meanwhile(items: Iterator[Item], use: Callable[[Iterator[Item]], Result], run: Run) -> Result:
    """What ``use`` gives, which runs in a thread of its own; ``items``, which it is given, are made in this one.

    An item is handed over once the one before it has been used, so that never more than two exist.

    Raises what ``items`` raise (``use`` then gets :class:`Abandoned` from its iterator), what ``use`` raises, and
    Cancelled. Comes back only once ``use`` has.
    """
    given: SimpleQueue[list[Item] | None] = SimpleQueue()
    free = Semaphore(1)
    failed = False

    def taken() -> Iterator[Item]:
        while (parcel := given.get()) is not None:
            yield parcel.pop()
            free.release()
        if failed:
            raise Abandoned

    with ThreadPoolExecutor(1) as thread:
        used = thread.submit(use, taken())
        used.add_done_callback(lambda _: free.release())
        try:
            for item in items:
                while not free.acquire(timeout=_LOOK_EVERY_SECONDS):
                    run.check()
                if used.done():
                    break
                given.put([item])
                del item
        except BaseException:
            failed = True
            given.put(None)
            raise
        given.put(None)
        return used.result()


def side_by_side(make: Callable[[Item], Made], items: Iterable[Item], threads: int) -> Iterator[Made]:
    """What ``make`` makes of each of ``items``, in their order, in several threads and only a few ahead.

    >>> list(side_by_side(abs, [-2, 3, -1], 2))
    [2, 3, 1]
    """
    under_way: deque[Future[Made]] = deque()
    with ThreadPoolExecutor(threads) as pool:
        for item in items:
            under_way.append(pool.submit(make, item))
            if len(under_way) > 2 * threads:
                yield under_way.popleft().result()
        while under_way:
            yield under_way.popleft().result()
