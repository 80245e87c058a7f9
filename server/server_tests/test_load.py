"""What other processes take of the machine meanwhile, by what the system would tell."""

from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase
from unittest.mock import patch

from rendering.load import Beside


class BesideTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.stat = Path(folder.name) / "stat"
        for what in (patch("rendering.load._STAT", self.stat), patch("os.sysconf", return_value=100)):
            what.start()
            self.addCleanup(what.stop)

    def alone(self, own: float, all_of_it: float, idle: float, stolen: float = 0) -> float:
        """After so many seconds of this process's work, of everybody's and of none, on a machine that has run for a while."""
        with patch("time.process_time", side_effect=[7.0, 7.0 + own]):
            self.stat.write_text("cpu  500 100 300 9000 100 0 0 50 0 0\ncpu0 1 1 1 1 1 1 1 1 1 1\n")
            beside = Beside()
            work, none, gone = (round(100 * seconds) for seconds in (all_of_it, idle, stolen))
            self.stat.write_text(
                f"cpu  {500 + work // 2} {100 + work - work // 2} 300 {9000 + none} 100 0 0 {50 + gone} 0 0\n"
            )
            return beside.alone()

    def test_a_machine_with_nothing_else_to_do_holds_nobody_up(self) -> None:
        self.assertEqual(self.alone(own=20, all_of_it=20, idle=0), 1)

    def test_what_others_take_of_a_full_machine_is_not_held_against_the_file(self) -> None:
        self.assertAlmostEqual(self.alone(own=10, all_of_it=20, idle=0), 0.5)
        self.assertAlmostEqual(self.alone(own=15, all_of_it=20, idle=0), 0.75)

    def test_what_others_take_of_what_nobody_wanted_holds_nobody_up(self) -> None:
        self.assertEqual(self.alone(own=5, all_of_it=10, idle=10), 1)
        self.assertAlmostEqual(self.alone(own=10, all_of_it=18, idle=2), 1 - 6 / 20)

    def test_what_another_machine_takes_is_how_slow_this_one_is(self) -> None:
        self.assertEqual(self.alone(own=10, all_of_it=10, idle=0, stolen=10), 1)

    def test_it_puts_no_more_than_three_quarters_down_to_others(self) -> None:
        self.assertEqual(self.alone(own=0, all_of_it=20, idle=0), 0.25)

    def test_a_system_that_does_not_tell_of_others_has_none(self) -> None:
        self.assertEqual(Beside().alone(), 1)
        self.stat.write_text("nothing of the kind\n")
        self.assertEqual(Beside().alone(), 1)
