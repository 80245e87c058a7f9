"""A clip: its facts, its frames by their exact times, each as a still."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import threading
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.errors import PictureError, TooLarge
from kitecore.files.clip.colours import as_still, coded_rgb, still_profile
from kitecore.files.clip.facts import MOST_FRAMES, MOST_PIXELS, ClipFacts, time_code
from kitecore.pipeline.pixels import Pixels

_LOOK_SECONDS, _FRAME_SECONDS = 60.0, 30.0


class Clip:
    """A clip of ``path``; close it (or use ``with``) to end its decoder. One frame at a time, from any thread.

    Raises PictureError with a sentence if it cannot be read, TooLarge beyond what is taken.
    """

    def __init__(self, path: Path, name: str | None = None) -> None:
        self.name = name or path.name
        self._path = path
        self._lock = threading.Lock()
        self._process: subprocess.Popen[bytes] | None = None
        try:
            self._told = self._ask({"task": "look"}, _LOOK_SECONDS)
            base = Fraction(*self._told["base"])
            self._pts: list[int] = self._told["times"]
            #: When each frame begins, in seconds from the first.
            self.times = [(pts - self._pts[0]) * base for pts in self._pts]
            self.facts = self._facts(base)
        except BaseException:
            self.close()
            raise

    def _facts(self, base: Fraction) -> ClipFacts:
        told, count = self._told, len(self._pts)
        if count > MOST_FRAMES:
            raise TooLarge(
                f"{self.name} has {count:,} frames; Kite Glass takes up to {MOST_FRAMES:,}. Cut it into parts."
            )
        if told["width"] * told["height"] > MOST_PIXELS:
            raise TooLarge(f"{self.name} has frames of {told['width']} × {told['height']} px, larger than are taken.")
        steps = np.diff(self._pts)
        usual = float(np.median(steps)) if count > 1 else float(told["last"] or 1)
        seconds = self.times[-1] + Fraction(round(told["last"] or usual)) * base
        width, height = round(told["width"] * told["aspect"]), told["height"]
        if told["turned"] in (90, 270):
            width, height = height, width
        notes = []
        if told["transfer"] != "sdr":
            notes.append(f"Its high dynamic range ({told['transfer'].upper()}) is fitted below white.")
        if not told["told"]:
            notes.append(
                f"It does not tell how its colours are coded; they are taken for those of BT.{told['matrix']}."
            )
        if told["interlaced"]:
            notes.append(
                "Its frames are two half pictures of different moments; each still is made of the first of them."
            )
        return ClipFacts(
            container=told["container"], codec=told["codec"], width=width, height=height, frames=count, seconds=float(seconds),
            rate=float(count / seconds) if seconds else 0.0, steady=bool(count < 3 or np.ptp(steps) <= max(1, 0.02 * usual)),
            bits=told["bits"], chroma=told["chroma"], full_range=told["full"], matrix=told["matrix"], transfer=told["transfer"],
            wide=told["wide"], turned=told["turned"], interlaced=told["interlaced"], notes=notes,
        )  # fmt: skip

    @property
    def profile(self) -> bytes | None:
        """The ICC profile of its stills; None: sRGB."""
        return still_profile(self.facts.wide)

    def code(self, index: int) -> str:
        """The time code of a frame."""
        return time_code(self.times[index], self.facts.rate)

    def at(self, seconds: Fraction | float) -> int:
        """The frame that is shown at a time."""
        return max(0, int(np.searchsorted([float(time) for time in self.times], float(seconds) + 1e-9, "right")) - 1)

    def luma(self, index: int) -> npt.NDArray[np.float32]:
        """The luma of a frame as it lies, H×W, of 255: quick to have, to be looked through."""
        return np.asarray(self._planes(index)[0], np.float32) / np.float32(256)

    def look(self, index: int, side: int) -> Pixels:
        """A frame as :meth:`frame` gives it, made small first so that it is at most about ``side`` px long: quick to have."""
        small = side < max(self._told["width"], self._told["height"])
        return self._still(self._planes(index, side), self.facts.interlaced and not small)

    def frame(self, index: int) -> Pixels:
        """A frame as a still, H×W×3, 0..1 in :attr:`profile`; upright, with square pixels, of one moment.

        Raises PictureError if it cannot be decoded, IndexError if there is no such frame.
        """
        return self._still(self._planes(index), self.facts.interlaced)

    def _still(self, planes: npt.NDArray[np.uint16], interlaced: bool) -> Pixels:
        facts = self.facts
        if facts.matrix == "rgb":
            green, blue, red = (plane.astype(np.float32) / np.float32(65280) for plane in planes)
            rgb = np.dstack([red, green, blue])
        else:
            rgb = coded_rgb(planes, facts.matrix, facts.full_range)
        if interlaced:
            rgb = cv2.resize(rgb[::2], (rgb.shape[1], rgb.shape[0]), interpolation=cv2.INTER_CUBIC)
        still = as_still(np.asarray(rgb, np.float32), facts.transfer)
        if self._told["aspect"] != 1:
            size = round(still.shape[1] * self._told["aspect"]), still.shape[0]
            still = np.asarray(cv2.resize(still, size, interpolation=cv2.INTER_CUBIC), np.float32)
        return np.ascontiguousarray(np.rot90(still, -facts.turned // 90), np.float32)

    def _planes(self, index: int, side: int = 0) -> npt.NDArray[np.uint16]:
        if not 0 <= index < len(self._pts):
            raise IndexError(f"{self.name} has no frame {index}")
        told = self._ask({"task": "planes", "pts": self._pts[index], "side": side}, _FRAME_SECONDS)
        return np.frombuffer(told["content"], np.uint16).reshape(told["shape"])

    def _ask(self, asked: dict[str, Any], seconds: float) -> dict[str, Any]:
        with self._lock:
            process, late = self._decoder(), threading.Event()

            def give_up() -> None:
                late.set()
                process.kill()

            watch = threading.Timer(seconds, give_up)
            watch.start()
            try:
                assert process.stdin and process.stdout
                process.stdin.write(json.dumps(asked).encode() + b"\n")
                process.stdin.flush()
                told: dict[str, Any] = json.loads(process.stdout.readline())
                if told.get("bytes"):
                    told["content"] = process.stdout.read(told["bytes"])
            except (OSError, ValueError):
                self._end()
                told = {
                    "error": f"it was not read after {seconds:.0f} seconds" if late.is_set() else "reading it broke off"
                }
            finally:
                watch.cancel()
        if "error" in told:
            raise PictureError(
                f"{self.name} is a clip that cannot be used ({told['error']}). Copy it again, or export it as H.264."
            )
        return told

    def _decoder(self) -> subprocess.Popen[bytes]:
        if self._process is not None and self._process.poll() is not None:
            self._end()
        if self._process is None:
            core = Path(__file__).parent.parent.parent.parent
            self._process = subprocess.Popen(
                [sys.executable, "-m", "kitecore.files.clip.child", str(self._path.resolve())],
                stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, cwd="/",
                env={"PATH": os.environ.get("PATH", ""), "PYTHONPATH": str(core)},
            )  # fmt: skip
        return self._process

    def _end(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            process.wait()
            for pipe in (process.stdin, process.stdout):
                if pipe:
                    pipe.close()

    def close(self) -> None:
        with self._lock:
            self._end()

    def __enter__(self) -> Clip:
        return self

    def __exit__(self, *exception: object) -> None:
        self.close()
