"""Large blocks that are free again belong to the system again."""

from __future__ import annotations

import subprocess
import sys
import unittest

#: Large arrays come and go while small ones are kept; prints how much memory the process has by then, in MB.
CHURN = """
import sys
import numpy as np
from kitecore.memory import give_back_large_blocks
if sys.argv[1] == "back":
    assert give_back_large_blocks()
kept, random = [], np.random.default_rng(1)
for turn in range(120):
    many = [np.ones(int(random.integers(200_000, 1_500_000))) for _ in range(6)]
    kept.append(np.ones(100_000))
    del many
print(next(int(line.split()[1]) // 1024 for line in open("/proc/self/status") if line.startswith("RssAnon")))
"""


class MemoryTest(unittest.TestCase):
    def test_what_is_free_does_not_stay_between_what_is_kept(self) -> None:
        taken = {
            way: int(subprocess.run([sys.executable, "-c", CHURN, way], capture_output=True, check=True).stdout)
            for way in ("keep", "back")
        }
        # 96 MB are kept.
        self.assertLess(taken["back"], 160)
        self.assertLess(taken["back"] + 20, taken["keep"])
