"""Everything ``bin/dev`` does: the application with reload, and the front end's own server before it."""

from __future__ import annotations

import argparse
import os
import signal
import subprocess
import sys
from pathlib import Path

from launch.application import MANAGE, REPOSITORY, environment
from launch.cluster import Cluster, free_port


def _reloading(command: list[str], names: str) -> list[str]:
    """The command, begun anew when Python files of server or core change."""
    folders = [str(REPOSITORY / "server"), str(REPOSITORY / "core" / "kitecore")]
    return [sys.executable, "-m", "launch.reload", names, *folders, "--", *command]


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/dev", description="Run Kite Glass for work on it.")
    parser.add_argument("--port", type=int, help="port of the front end (default: a free one)")
    options = parser.parse_args()
    home = Path(os.environ.get("KITE_HOME", REPOSITORY / ".kite"))
    home.mkdir(parents=True, exist_ok=True)
    cluster = Cluster(home)
    variables = environment(home, cluster.start())
    variables.setdefault("KITE_FOLDERS", str(home / "folders"))
    Path(variables["KITE_FOLDERS"].split(os.pathsep)[0]).mkdir(exist_ok=True)
    for command in (["migrate", "--verbosity", "0"], ["demo"]):
        subprocess.run([sys.executable, MANAGE, *command], env=variables, check=True)
    backend, port = free_port(), options.port or free_port()
    web = [sys.executable, "-m", "uvicorn", "kiteglass.asgi:application", "--port", str(backend), "--lifespan", "off"]
    vite = [
        "node",
        "web/node_modules/vite/bin/vite.js",
        "web",
        "--port",
        str(port),
        "--strictPort",
        "--clearScreen",
        "false",
    ]
    variables["KITE_BACKEND"] = f"http://127.0.0.1:{backend}"
    commands = [_reloading(web, "server"), _reloading([sys.executable, MANAGE, "worker"], "worker"), vite]
    running = [subprocess.Popen(command, env=variables, cwd=REPOSITORY) for command in commands]
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    print(
        f"\nKite Glass for work on it:  http://127.0.0.1:{port}   (wren / tern-sands-1988; Ctrl-C stops it)\n",
        flush=True,
    )
    try:
        running[-1].wait()
    except KeyboardInterrupt:
        pass
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait()
        cluster.stop()


if __name__ == "__main__":
    main()
