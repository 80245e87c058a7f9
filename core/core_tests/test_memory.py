"""Large blocks that are free again belong to the system again."""

from __future__ import annotations

import os
import subprocess
import sys
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from kitecore.memory import LARGE_PAGES

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

#: Prints how many pages were waited for while a large array was filled.
FILL = """
import resource
import numpy as np
from kitecore.memory import begin_with_large_pages
begin_with_large_pages()
before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
np.ones(8 << 20)
print(resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before)
"""
HUGE_PAGES = Path("/sys/kernel/mm/transparent_hugepage/enabled")


class MemoryTest(unittest.TestCase):
    def test_what_is_free_does_not_stay_between_what_is_kept(self) -> None:
        taken = {
            way: int(subprocess.run([sys.executable, "-c", CHURN, way], capture_output=True, check=True).stdout)
            for way in ("keep", "back")
        }
        # 96 MB are kept.
        self.assertLess(taken["back"], 160)
        self.assertLess(taken["back"] + 20, taken["keep"])

    def test_large_blocks_come_in_large_pages(self) -> None:
        with TemporaryDirectory() as folder:
            script = Path(folder) / "fill.py"
            script.write_text(FILL)
            plain = {name: value for name, value in os.environ.items() if name not in LARGE_PAGES}
            waits = {
                way: int(
                    subprocess.run([sys.executable, script], env=plain | told, capture_output=True, check=True).stdout
                )
                for way, told in (("as it is", {"GLIBC_TUNABLES": "glibc.malloc.hugetlb=0"}), ("large", {}))
            }
        # 64 MB are 16,384 small pages, and 32 large ones where the system gives any.
        small = not HUGE_PAGES.exists() or "[never]" in HUGE_PAGES.read_text()
        self.assertGreater(waits["as it is"], 0)
        self.assertLess(waits["large"], 1000 if not small else 20_000)
