"""Run one directory of tests with Django's runner: ``python -m launch.test_run DIRECTORY TOP [LABEL …]``.

A PostgreSQL cluster is made for the run on loopback and thrown away after it.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from launch.application import MANAGE, environment
from launch.cluster import Cluster


def main() -> None:
    directory, top, *labels = sys.argv[1:]
    with TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        home = Path(folder)
        cluster = Cluster(home)
        try:
            variables = environment(home, cluster.start())
            variables["PYTHONPATH"] = os.environ["PYTHONPATH"]
            command = [
                sys.executable,
                "-W",
                "default",
                MANAGE,
                "test",
                "--noinput",
                "--timing",
                "-t",
                top,
                *(labels or [directory]),
            ]
            sys.exit(subprocess.run(command, env=variables, check=False).returncode)
        finally:
            cluster.stop()


if __name__ == "__main__":
    main()
