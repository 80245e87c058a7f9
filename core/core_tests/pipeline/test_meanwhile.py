import threading
import time
from collections.abc import Iterator
from unittest import TestCase

from kitecore.errors import Cancelled
from kitecore.pipeline.meanwhile import Abandoned, side_by_side, used_meanwhile
from kitecore.pipeline.run import Run


class UsedMeanwhileTest(TestCase):
    def setUp(self) -> None:
        self.threads = threading.active_count()
        self.addCleanup(lambda: self.assertEqual(threading.active_count(), self.threads))

    def test_everything_is_handed_over_in_order_and_the_result_comes_back(self) -> None:
        self.assertEqual(used_meanwhile(iter(range(100)), list, Run()), list(range(100)))
        self.assertEqual(used_meanwhile(iter(()), list, Run()), [])

    def test_making_goes_on_while_what_was_made_is_used_and_never_more_than_two_exist(self) -> None:
        made, used = [0], [0]
        both = threading.Event()

        def items() -> Iterator[int]:
            for number in range(8):
                made[0] += 1
                self.assertLessEqual(made[0] - used[0], 3)
                yield number
                if number == 0:
                    # The first one is in use while the second one is being made.
                    self.assertTrue(both.wait(5))

        def use(items: Iterator[int]) -> None:
            for _ in items:
                both.set()
                time.sleep(0.002)
                used[0] += 1

        used_meanwhile(items(), use, Run())
        self.assertEqual(used, [8])

    def test_a_fault_on_either_side_ends_both(self) -> None:
        ended: list[type[BaseException]] = []

        def broken() -> Iterator[int]:
            yield 1
            raise ValueError("made badly")

        def use(items: Iterator[int]) -> None:
            try:
                list(items)
            except BaseException as error:
                ended.append(type(error))
                raise

        with self.assertRaisesRegex(ValueError, "made badly"):
            used_meanwhile(broken(), use, Run())
        self.assertEqual(ended, [Abandoned])

        def picky(items: Iterator[int]) -> None:
            next(items)
            raise OSError("the disk is full")

        asked = []
        with self.assertRaisesRegex(OSError, "full"):
            used_meanwhile((asked.append(n) or n for n in range(10_000)), picky, Run())
        self.assertLess(len(asked), 10_000)

    def test_it_is_called_off_while_it_waits(self) -> None:
        called_off = threading.Event()

        def slow(items: Iterator[int]) -> None:
            for item in items:
                if item == 0:
                    called_off.set()
                    time.sleep(0.5)

        with self.assertRaises(Cancelled):
            used_meanwhile(iter(range(10)), slow, Run(called_off.is_set))


class SideBySideTest(TestCase):
    def test_results_come_in_order_and_only_a_few_are_made_ahead(self) -> None:
        begun: list[int] = []

        def make(number: int) -> int:
            begun.append(number)
            time.sleep(0.001 * (number % 3))
            return number * number

        results = side_by_side(make, range(50), 3)
        self.assertEqual([next(results) for _ in range(4)], [0, 1, 4, 9])
        self.assertLess(len(begun), 15)
        self.assertEqual(list(results), [n * n for n in range(4, 50)])
