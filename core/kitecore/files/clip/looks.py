"""Small pictures of a clip's frames in one file, so that any of them is there at once."""

from __future__ import annotations

import math
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from kitecore.colour.screen import screen_image
from kitecore.pipeline.pixels import Pixels

#: Their longest side in pixels, and how many there are at most: of longer clips every second frame, or third.
LOOK_SIDE, MOST_LOOKS = 640, 3000
_QUALITY = 82

#: Is given the number of a frame, and its picture in the profile of the clip.
Add = Callable[[int, Pixels], None]


def looks_step(frames: int) -> int:
    """Every how many frames one is kept.

    >>> looks_step(3000), looks_step(3001)
    (1, 2)
    """
    return max(1, math.ceil(frames / MOST_LOOKS))


@contextmanager
def looks_written(path: Path, profile: bytes | None) -> Iterator[Add]:
    """Write the looks of a clip; the file is there once all of them are. Raises OSError."""
    path.parent.mkdir(parents=True, exist_ok=True)
    part = path.with_suffix(".part")
    try:
        # They are compressed already.
        with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as file:

            def add(frame: int, pixels: Pixels) -> None:
                file.writestr(str(frame), screen_image(pixels, profile).jpegsave_buffer(Q=_QUALITY, keep="none"))

            yield add
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)


def look_near(path: Path, frame: int, frames: int) -> bytes | None:
    """The JPEG of the frame that is kept nearest before one of a clip of so many ``frames``; None if there is none."""
    step = looks_step(frames)
    try:
        with zipfile.ZipFile(path) as file:
            return file.read(str(frame // step * step))
    except (OSError, KeyError, zipfile.BadZipFile):
        return None
