import os
import signal
import subprocess
import sys
import textwrap
import time
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from launch.application import PRIVATE, keep_private, services
from launch.doctests import modules
from launch.reload import written

SERVER = Path(__file__).resolve().parent.parent
LONGEST_SECONDS = 30


class LaunchTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.environment = {**os.environ, "PYTHONPATH": f"{SERVER}{os.pathsep}{self.folder}"}

    def until(self, path: Path, count: int) -> None:
        """Wait until a file has so many lines."""
        end = time.monotonic() + LONGEST_SECONDS
        while not path.exists() or len(path.read_text().splitlines()) < count:
            self.assertLess(time.monotonic(), end, f"{path.name} did not get {count} lines")
            time.sleep(0.05)


class PrivateTest(LaunchTest):
    def test_nobody_else_may_enter_what_belongs_to_people(self) -> None:
        (self.folder / "originals").mkdir(mode=0o755)
        (self.folder / "postgres").mkdir(mode=0o750)
        (self.folder / "secret-key").write_text("secret")
        (self.folder / "secret-key").chmod(0o644)
        keep_private(self.folder)
        for name in PRIVATE:
            self.assertEqual((self.folder / name).stat().st_mode & 0o777, 0o700, name)
        self.assertEqual((self.folder / "postgres").stat().st_mode & 0o777, 0o750, "as PostgreSQL wants it")
        self.assertEqual((self.folder / "secret-key").stat().st_mode & 0o777, 0o600)


class ServicesTest(LaunchTest):
    def test_no_delivery_waits_behind_a_reading_and_nobody_behind_a_delivery(self) -> None:
        queues = [
            set(one.command[one.command.index("--queues") + 1].split(","))
            for one in services(self.folder, {}, 1) if "--queues" in one.command
        ]  # fmt: skip
        self.assertEqual(queues, [{"deliveries"}, {"readings", "reports", "folders"}])

    def test_memory_of_the_web_server_comes_in_large_pages(self) -> None:
        # No array of numpy, which asks for large pages itself.
        fill = (
            "import resource\n"
            "waited = lambda: resource.getrusage(resource.RUSAGE_SELF).ru_minflt\n"
            "before = waited(); block = b'1' * (64 << 20); print(waited() - before)"
        )
        web = services(self.folder, dict(os.environ), 1)[0].environment
        waits = int(subprocess.run([sys.executable, "-c", fill], env=web, capture_output=True, check=True).stdout)
        # 64 MB are 32 large pages, and 16,384 small ones, which some systems have alone.
        pages = Path("/sys/kernel/mm/transparent_hugepage/enabled")
        large = pages.exists() and "[never]" not in pages.read_text()
        self.assertLess(waits, 2_000 if large else 20_000)


class ReloadTest(LaunchTest):
    def test_files_are_known_by_when_they_were_written(self) -> None:
        (self.folder / "a").mkdir()
        (self.folder / "a" / "one.py").write_text("")
        (self.folder / "a" / "two.txt").write_text("")
        os.utime(self.folder / "a" / "one.py", (5, 5))
        self.assertEqual(written([str(self.folder)]), {self.folder / "a" / "one.py": 5})

    def test_a_command_begins_anew_when_a_file_changes_and_ends_with_it(self) -> None:
        watched, starts = self.folder / "code", self.folder / "starts"
        watched.mkdir()
        (watched / "one.py").write_text("")
        told = f"import time; open({str(starts)!r}, 'a').write('begun\\n'); time.sleep(600)"
        process = subprocess.Popen(
            [sys.executable, "-m", "launch.reload", "web", str(watched), "--", sys.executable, "-c", told],
            env=self.environment, stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        self.addCleanup(process.kill)
        self.until(starts, 1)
        (watched / "two.py").write_text("")
        self.until(starts, 2)
        process.send_signal(signal.SIGTERM)
        said, _ = process.communicate(timeout=LONGEST_SECONDS)
        self.assertEqual(said, "web: two.py has changed; beginning anew\n")


class DoctestsTest(LaunchTest):
    def package(self, example: str) -> subprocess.CompletedProcess[str]:
        (self.folder / "tried").mkdir()
        (self.folder / "tried" / "__init__.py").write_text("")
        (self.folder / "tried" / "__main__.py").write_text("raise SystemExit('this runs when it is imported')")
        (self.folder / "tried" / "inner.py").write_text(textwrap.dedent(f'''
            """An example.

            >>> 1 + 1
            {example}
            """
        '''))  # fmt: skip
        return subprocess.run(
            [sys.executable, "-m", "launch.doctests", "tried"],
            env=self.environment,
            capture_output=True,
            text=True,
            check=False,
        )

    def test_examples_that_hold_are_counted(self) -> None:
        done = self.package("2")
        self.assertEqual((done.returncode, done.stdout), (0, "Ran 1 examples, 0 failed\n"))

    def test_an_example_that_does_not_hold_fails(self) -> None:
        done = self.package("3")
        self.assertEqual(done.returncode, 1)
        self.assertIn("Ran 1 examples, 1 failed", done.stdout)

    def test_a_module_that_is_no_package_is_looked_at_alone(self) -> None:
        self.assertEqual([one.__name__ for one in modules("launch.reload")], ["launch.reload"])
