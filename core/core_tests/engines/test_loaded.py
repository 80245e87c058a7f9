"""Networks that are loaded hold no more memory than they may, and what was let go is loaded again with the same result."""

from __future__ import annotations

import os
import subprocess
import sys
from unittest import TestCase, mock

import numpy as np

from kitecore.engines import engine_named
from kitecore.engines.engine import _LOADED, Engine
from kitecore.engines.loaded import Loaded

_SHAPES = 150
#: Tells the kB the process holds after some shapes, and after many more.
_EVER_OTHER_SHAPES = """
import numpy as np
from kitecore.engines import engine_named
def held():
    return next(line.split()[1] for line in open("/proc/self/status") if line.startswith("RssAnon"))
engine, random = engine_named("faithful", "enlarge"), np.random.default_rng(0)
def run(count):
    for _ in range(count):
        engine.enlarge(np.zeros((*random.integers(10, 60, 2), 3), np.float32), 2)
run(_SHAPES)
print(held())
run(_SHAPES)
print(held())
""".replace("_SHAPES", str(_SHAPES))


class LoadedTest(TestCase):
    def test_the_largest_region_counts_and_the_one_used_longest_ago_goes_first(self) -> None:
        gone: list[str] = []
        loaded = Loaded(lambda: 100)
        for name, taken in (("a", 40), ("b", 30), ("a", 10), ("c", 30)):
            loaded.used(name, taken, lambda name=name: gone.append(name))  # type: ignore[misc]
        self.assertEqual((gone, loaded.held), ([], 100))
        loaded.used("d", 1, lambda: gone.append("d"))
        self.assertEqual((gone, loaded.held), (["b"], 71))
        loaded.forget("a")
        self.assertEqual(loaded.held, 31)

    def test_one_that_is_larger_than_all_that_may_be_is_kept_alone(self) -> None:
        gone: list[str] = []
        loaded = Loaded(lambda: 100)
        loaded.used("a", 60, lambda: gone.append("a"))
        loaded.used("b", 500, lambda: gone.append("b"))
        self.assertEqual((gone, loaded.held), (["a"], 500))

    def test_what_was_let_go_computes_the_same_again(self) -> None:
        given = np.random.default_rng(2).random((40, 48, 3), np.float32)
        faithful, crisp = engine_named("faithful", "enlarge"), engine_named("crisp", "enlarge")
        first = faithful.enlarge(given, 2)
        self.assertTrue(_holds(faithful))
        with mock.patch.dict(os.environ, {"KITE_NETWORKS_GIGABYTES": "0.000001"}):
            crisp.enlarge(given, 2)
            self.assertFalse(_holds(faithful))
            np.testing.assert_array_equal(faithful.enlarge(given, 2), first)
            self.assertFalse(_holds(crisp))
        held = _LOADED.held
        faithful.release()
        self.assertLess(_LOADED.held, held)

    def test_regions_of_ever_other_shapes_do_not_pile_up(self) -> None:
        run = [sys.executable, "-c", _EVER_OTHER_SHAPES]
        before, after = subprocess.run(run, capture_output=True, text=True, check=True).stdout.split()
        # What is made ready for one shape takes half a megabyte.
        self.assertLess(int(after) - int(before), 0.2 * 1024 * _SHAPES)


def _holds(engine: Engine) -> bool:
    return bool(engine._sessions)
