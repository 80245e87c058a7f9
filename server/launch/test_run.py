"""Run one directory of tests with Django's runner: ``python -m launch.test_run DIRECTORY TOP [--parallel N] [LABEL …]``.

A PostgreSQL cluster is made for the run on loopback and thrown away after it.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from launch.application import MANAGE, environment
from launch.cluster import Cluster


def main() -> None:
    parser = argparse.ArgumentParser(prog="launch.test_run", description=__doc__)
    parser.add_argument("directory")
    parser.add_argument("top", help="folder that imports begin from")
    parser.add_argument("labels", nargs="*", help="only these tests")
    parser.add_argument("--parallel", type=int, default=1, help="processes; each computes in one thread")
    options = parser.parse_intermixed_args()
    with TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        home = Path(folder)
        cluster = Cluster(home)
        try:
            variables = environment(home, cluster.start())
            variables["PYTHONPATH"] = os.environ["PYTHONPATH"]
            if options.parallel > 1:
                variables["KITE_THREADS"] = "1"
            command = [
                sys.executable, "-W", "default", MANAGE, "test", "--noinput", "--timing", "--parallel", str(options.parallel),
                "-t", options.top, *(options.labels or [options.directory]),
            ]  # fmt: skip
            sys.exit(subprocess.run(command, env=variables, check=False).returncode)
        finally:
            cluster.stop()


if __name__ == "__main__":
    main()
