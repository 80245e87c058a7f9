"""Threads that are shared out fairly: each person has one piece of work done before anybody has a second one done."""

from __future__ import annotations

import threading
from collections import Counter, OrderedDict, deque
from collections.abc import Callable
from concurrent.futures import Future
from typing import Any, TypeVar

Result = TypeVar("Result")
_Work = tuple["Future[Any]", Callable[[], Any]]


class FairThreads:
    """At most ``count`` pieces of work at once.

    Whoever has least under way is next, and among those who has waited longest since their last turn. Of one person's, what
    came first is first. What was called off while it waited is not begun.
    """

    def __init__(self, count: int, name: str) -> None:
        self._count, self._name = count, name
        self._lock = threading.Condition()
        #: Those who wait, who had a turn longest ago first.
        self._waiting: OrderedDict[str, deque[_Work]] = OrderedDict()
        self._running: Counter[str] = Counter()
        self._threads: list[threading.Thread] = []
        self._idle = 0

    def submit(self, whose: str, work: Callable[[], Result]) -> Future[Result]:
        """Have ``work`` done when a person's turn comes."""
        future: Future[Result] = Future()
        with self._lock:
            self._waiting.setdefault(whose, deque()).append((future, work))
            if not self._idle and len(self._threads) < self._count:
                thread = threading.Thread(target=self._serve, name=f"{self._name} {len(self._threads)}", daemon=True)
                self._threads.append(thread)
                thread.start()
            self._lock.notify()
        return future

    def _serve(self) -> None:
        while True:
            whose, future, work = self._next()
            try:
                if future.set_running_or_notify_cancel():
                    _do(future, work)
            finally:
                # Nothing of it is held while the next is waited for.
                del future, work
                with self._lock:
                    self._running[whose] -= 1
                    self._running += Counter()

    def _next(self) -> tuple[str, Future[Any], Callable[[], Any]]:
        with self._lock:
            self._idle += 1
            while not self._waiting:
                self._lock.wait()
            self._idle -= 1
            whose = min(self._waiting, key=lambda one: self._running[one])
            mine = self._waiting[whose]
            future, work = mine.popleft()
            self._waiting.move_to_end(whose)
            if not mine:
                del self._waiting[whose]
            self._running[whose] += 1
            return whose, future, work


def _do(future: Future[Any], work: Callable[[], Any]) -> None:
    try:
        found = work()
    except BaseException as error:
        future.set_exception(error)
    else:
        future.set_result(found)
