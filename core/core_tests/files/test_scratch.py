"""What a killed process left is swept; what is in use, or being made, is not."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

from kitecore.files.scratch import ScratchFolder, sweep

HOLD = """
import sys, time
from pathlib import Path
from kitecore.files.scratch import ScratchFolder
held = ScratchFolder(Path(sys.argv[1]))
(held.path / "0.raw").write_bytes(bytes(1000))
print(held.path.name, flush=True)
time.sleep(600)
"""


class ScratchTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.scratch = Path(folder.name) / "scratch"

    def test_a_folder_goes_with_its_user(self) -> None:
        held = ScratchFolder(self.scratch)
        self.assertTrue(held.path.is_dir())
        self.assertEqual(sweep(self.scratch), [])
        held.close()
        held.close()
        self.assertEqual(list(self.scratch.iterdir()), [])

    def test_what_a_killed_process_left_is_swept_and_what_a_living_one_uses_is_not(self) -> None:
        mine = ScratchFolder(self.scratch)
        self.addCleanup(mine.close)
        process = subprocess.Popen([sys.executable, "-c", HOLD, str(self.scratch)], stdout=subprocess.PIPE, text=True)
        self.addCleanup(process.stdout.close)  # type: ignore[union-attr]
        name = process.stdout.readline().strip()  # type: ignore[union-attr]
        self.assertEqual(sweep(self.scratch), [])
        process.send_signal(signal.SIGKILL)
        process.wait()
        self.assertEqual(sweep(self.scratch), [name])
        self.assertEqual([path.name for path in self.scratch.iterdir()], [mine.path.name])

    def test_one_without_a_lock_is_swept_once_it_is_old(self) -> None:
        for name, age in (("source-new", 5.0), ("source-old", 90_000.0), ("other", 90_000.0)):
            (self.scratch / name).mkdir(parents=True)
            os.utime(self.scratch / name, (time.time() - age,) * 2)
        self.assertEqual(sweep(self.scratch), ["source-old"])


if __name__ == "__main__":
    unittest.main()
