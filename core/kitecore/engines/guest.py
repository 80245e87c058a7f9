"""Networks that people brought run in a process of their own, with limits on memory and on the time for each region.

They were tried before they were taken in, but what behaves while it is tried may misbehave later. ``python -m
kitecore.engines.guest FOLDER FACTOR`` is the guest: it reads regions from standard input and writes results to standard
output, each a line of JSON and then samples. :class:`GuestSession` is its host.
"""

from __future__ import annotations

import contextlib
import json
import os
import resource
import subprocess
import sys
import threading
from pathlib import Path
from typing import IO, Any

import numpy as np
import numpy.typing as npt

from kitecore.errors import EngineError

Arrays = dict[str, npt.NDArray[np.float32]]

MOST_MEMORY_BYTES = 6 * 1024**3
#: A guest that has grown larger than that is sent home after a region; what it took comes back.
_MOST_KEPT_BYTES = 2 * 1024**3
#: Seconds for a region: to be loaded, and for each pixel of it four times what the slowest engine may take that is taken in.
_LOADING_SECONDS, _SECONDS_PER_PIXEL = 60.0, 4 / 17_000


class GuestSession:
    """Runs one output of a brought engine elsewhere; as an onnxruntime session from outside. One region at a time."""

    def __init__(self, folder: Path, factor: int, name: str) -> None:
        self._folder, self._factor, self._name = folder, factor, name
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None

    def run(self, outputs: list[str], fed: Arrays) -> list[npt.NDArray[np.float32]]:
        """The one output that is asked for. Raises EngineError if the guest fails, takes too long or too much."""
        with self._lock:
            process = self._at_home()
            pixels, seconds = _pixels(fed), _seconds_for(fed)
            late = threading.Event()

            def give_up() -> None:
                late.set()
                process.kill()

            watch = threading.Timer(seconds, give_up)
            watch.start()
            try:
                assert process.stdin and process.stdout
                _write(process.stdin, {"outputs": outputs}, fed)
                told, results = _read(process.stdout)
            except (OSError, ValueError, EOFError) as error:
                self._send_home()
                why = (
                    f"was not done with a region of {pixels:,} pixels after {seconds:.0f} seconds"
                    if late.is_set()
                    else f"broke off: it needs more than {MOST_MEMORY_BYTES // 1024**3} GB, or is damaged"
                )
                raise EngineError(f"The engine {self._name} {why}. Choose another one.") from error
            finally:
                watch.cancel()
            if "error" in told:
                raise EngineError(f"The engine {self._name} fails on this picture: {told['error']}")
            if told["bytes"] > _MOST_KEPT_BYTES:
                self._send_home()
            return [results[name] for name in outputs]

    def _at_home(self) -> subprocess.Popen[bytes]:
        if self._process is not None and self._process.poll() is not None:
            self._send_home()
        if self._process is None:
            core = Path(__file__).parent.parent.parent
            kept = {
                name: value for name in ("PATH", "KITE_PROVIDER", "KITE_THREADS") if (value := os.environ.get(name))
            }
            self._process = subprocess.Popen(
                [sys.executable, "-m", "kitecore.engines.guest", str(self._folder.resolve()), str(self._factor)],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, cwd="/",
                env={**kept, "PYTHONPATH": str(core)},
            )  # fmt: skip
        return self._process

    def _send_home(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe:
                    with contextlib.suppress(OSError):
                        pipe.close()

    def __del__(self) -> None:
        self._send_home()


def _pixels(fed: Arrays) -> int:
    return max(int(array.shape[2] * array.shape[3]) for array in fed.values())


def _seconds_for(fed: Arrays) -> float:
    """How long a region may take, loading included."""
    return _LOADING_SECONDS + _pixels(fed) * _SECONDS_PER_PIXEL


def _write(pipe: IO[bytes], told: dict[str, Any], arrays: Arrays) -> None:
    shapes = {name: array.shape for name, array in arrays.items()}
    pipe.write(json.dumps({**told, "arrays": shapes}).encode() + b"\n")
    for array in arrays.values():
        pipe.write(np.ascontiguousarray(array, np.float32).data)
    pipe.flush()


def _read(pipe: IO[bytes]) -> tuple[dict[str, Any], Arrays]:
    """What was told and the arrays that came with it. Raises EOFError if the other side is gone."""
    line = pipe.readline()
    if not line.endswith(b"\n"):
        raise EOFError
    told = json.loads(line)
    arrays = {}
    for name, shape in told.pop("arrays").items():
        content = pipe.read(4 * int(np.prod(shape)))
        if len(content) != 4 * int(np.prod(shape)):
            raise EOFError
        arrays[name] = np.frombuffer(content, np.float32).reshape(shape)
    return told, arrays


def _serve(folder: Path, factor: int) -> None:
    """Be the guest until nobody asks any more."""
    from kitecore.engines.engine import Engine

    given, answers = sys.stdin.buffer, os.fdopen(os.dup(1), "wb")
    # What libraries print is no answer.
    os.dup2(2, 1)
    _limit(resource.RLIMIT_AS, MOST_MEMORY_BYTES)
    _limit(resource.RLIMIT_CORE, 0)
    engine = Engine(folder)
    while True:
        try:
            told, fed = _read(given)
        except EOFError:
            return
        # Should the host be gone, nobody else stops it.
        spent = resource.getrusage(resource.RUSAGE_SELF)
        allowed = _seconds_for(fed) * (os.cpu_count() or 1)
        _limit(resource.RLIMIT_CPU, int(spent.ru_utime + spent.ru_stime + allowed) + 1)
        try:
            found = engine.session(factor).run(told["outputs"], fed)
        except MemoryError:
            raise
        except Exception as error:
            if "alloc" in str(error).lower():
                raise
            _write(answers, {"error": str(error).strip().splitlines()[0][:300]}, {})
            continue
        used = 1024 * resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        _write(answers, {"bytes": used}, dict(zip(told["outputs"], found, strict=True)))


def _limit(limit: int, value: int) -> None:
    """Bound this process; what it may at most be bounded to stays, so that it can be bounded anew."""
    _, hard = resource.getrlimit(limit)
    resource.setrlimit(limit, (value if hard == resource.RLIM_INFINITY else min(value, hard), hard))


if __name__ == "__main__":
    _serve(Path(sys.argv[1]), int(sys.argv[2]))
