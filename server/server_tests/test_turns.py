"""Threads that people share: turns, calling off, errors."""

from __future__ import annotations

import threading
import time
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from rendering.turns import FairThreads


class Gate:
    """Holds all threads until what is to be shared out has been asked for."""

    def __init__(self, threads: FairThreads, count: int) -> None:
        self._open = threading.Event()
        self._held = [threads.submit("gate", lambda: self._open.wait(10)) for _ in range(count)]
        while not all(one.running() for one in self._held):
            time.sleep(0.001)

    def open(self) -> None:
        self._open.set()


class FairThreadsTest(TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.sampled_from("abcd"), min_size=1, max_size=24))
    def test_nobody_has_a_second_turn_while_somebody_waits_for_a_first(self, asked: list[str]) -> None:
        threads, done = FairThreads(1, "test"), list[str]()
        gate = Gate(threads, 1)
        futures = [threads.submit(whose, lambda whose=whose: done.append(whose)) for whose in asked]
        gate.open()
        for future in futures:
            future.result(10)
        self.assertEqual(sorted(done), sorted(asked))
        for turn in range(1, max(asked.count(whose) for whose in asked) + 1):
            # All first turns come before any second one, all second ones before any third.
            those = [index for index, whose in enumerate(done) if done[: index + 1].count(whose) == turn]
            earlier = [index for index, whose in enumerate(done) if done[: index + 1].count(whose) < turn]
            self.assertTrue(not earlier or max(earlier) < min(those), done)

    def test_who_has_one_under_way_gives_way_to_who_has_none(self) -> None:
        threads, done = FairThreads(2, "test"), list[str]()
        going = threading.Event()
        held = threads.submit("a", lambda: going.wait(10))
        gate = Gate(threads, 1)
        later = [threads.submit(whose, lambda whose=whose: done.append(whose)) for whose in "aab"]
        gate.open()
        for future in later:
            future.result(10)
        self.assertEqual(done, ["b", "a", "a"])
        going.set()
        self.assertTrue(held.result(10))

    def test_what_is_called_off_while_it_waits_is_not_begun(self) -> None:
        threads, done = FairThreads(1, "test"), list[str]()
        gate = Gate(threads, 1)
        first, second = (threads.submit("a", lambda name=name: done.append(name)) for name in ("first", "second"))
        self.assertTrue(first.cancel())
        gate.open()
        second.result(10)
        self.assertEqual(done, ["second"])

    def test_an_error_is_told_and_the_thread_goes_on(self) -> None:
        threads = FairThreads(1, "test")

        def fails() -> None:
            raise ValueError("no")

        with self.assertRaisesRegex(ValueError, "no"):
            threads.submit("a", fails).result(10)
        self.assertEqual(threads.submit("a", lambda: 7).result(10), 7)

    def test_no_more_than_there_are_threads_run_at_once(self) -> None:
        threads, most, now, lock = FairThreads(3, "test"), 0, 0, threading.Lock()

        def work() -> None:
            nonlocal most, now
            with lock:
                now += 1
                most = max(most, now)
            time.sleep(0.01)
            with lock:
                now -= 1

        for future in [threads.submit(f"{index % 4}", work) for index in range(20)]:
            future.result(10)
        self.assertEqual(most, 3)
