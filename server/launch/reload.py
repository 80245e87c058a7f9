"""Run a command, and begin it anew when a Python file below some folders changes:

``python -m launch.reload NAME FOLDER … -- COMMAND …``
"""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path

_LOOK_EVERY_SECONDS = 0.7


def written(folders: list[str]) -> dict[Path, float]:
    """When each Python file below the folders was last written."""
    files = (path for folder in folders for path in Path(folder).rglob("*.py"))
    return {path: path.stat().st_mtime for path in files if path.exists()}


def main() -> None:
    place = sys.argv.index("--")
    name, folders, command = sys.argv[1], sys.argv[2:place], sys.argv[place + 1 :]
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    before, process = written(folders), subprocess.Popen(command)
    try:
        while True:
            time.sleep(_LOOK_EVERY_SECONDS)
            now = written(folders)
            changed = [path for path in now if now[path] != before.get(path)] + [
                path for path in before if path not in now
            ]
            if not changed:
                continue
            print(f"{name}: {changed[0].name} has changed; beginning anew", flush=True)
            before = now
            process.terminate()
            process.wait()
            process = subprocess.Popen(command)
    except KeyboardInterrupt:
        process.terminate()
        process.wait()


if __name__ == "__main__":
    main()
