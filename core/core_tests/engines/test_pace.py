"""What is known of how fast networks run now."""

from unittest import TestCase

from kitecore.engines.pace import Pace


class PaceTest(TestCase):
    def test_the_faster_of_the_last_runs_count(self) -> None:
        pace = Pace()
        self.assertIsNone(pace.of("faithful"))
        for seconds in (0.1, 2.0, 1.0, 4.0, 1.0, 2.0, 1.0, 2.0, 1.0):
            pace.note("faithful", 1e11, seconds, now=0)
        self.assertEqual(pace.of("faithful", now=1), 1e11)
        self.assertIsNone(pace.of("denoise", now=1))

    def test_a_machine_that_has_become_slower_is_so_after_some_runs(self) -> None:
        pace = Pace()
        for seconds in [1.0] * 8 + [3.0] * 8:
            pace.note("faithful", 1e11, seconds, now=0)
        self.assertAlmostEqual(pace.of("faithful", now=1) or 0, 1e11 / 3)

    def test_long_ago_and_next_to_nothing_say_nothing(self) -> None:
        pace = Pace()
        pace.note("faithful", 1e11, 1.0, now=0)
        self.assertIsNone(pace.of("faithful", now=601))
        pace.note("faithful", 1e9, 1.0, now=700)
        pace.note("faithful", 1e11, 0.0, now=700)
        self.assertIsNone(pace.of("faithful", now=701))
