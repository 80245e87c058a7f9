"""What gives damage away that no decoder reports: a flat rest below, blocks that jump."""

from __future__ import annotations

import os
import struct
import zlib
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
import tifffile

from kitecore.pipeline.geometry import Region
from kitecore.pipeline.meanwhile import side_by_side
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage

#: TIFF's numbers of deflate, the usual one and an old one.
_DEFLATED = (8, 32946)
_ROWS = 512
_BLOCK = 8
#: Fewer even rows at the bottom are a border.
_LEAST_ROWS, _LEAST_SHARE = 16, 0.02
#: How uneven a row is that nothing was missing in, of 1.
_UNEVEN = 0.04
#: Steps between two rows of blocks that tell, of 1, and how many times the difference of rows beside it is allowed to vary.
_STEP, _VARIES = 9 / 255, 1.6
#: The part of a row that must have jumped, in columns.
_PART = 64


def signs_of_damage(stage: Stage, run: Run) -> list[str]:
    """Sentences about what looks like damage in a picture, without full stops; none where nothing does.

    They are no proof: a picture may have an even border below. Raises Cancelled.
    """
    signs = []
    flat = _flat_rows(stage, run)
    if flat >= max(_LEAST_ROWS, _LEAST_SHARE * stage.size.height):
        signs.append(
            f"the lowest {flat} of {stage.size.height} rows are one even colour, as if the file had been cut off"
        )
    if jumps := _jumps(stage, run):
        signs.append(f"blocks of pixels jump in tone at row {jumps[0]}, as they do where a file is broken inside")
    return signs


def broken_parts(path: Path) -> str | None:
    """What is missing or broken of the strips or tiles of a TIFF's first page, in words; None if nothing is.

    Decoders do not look at the checksums of deflated parts, and fill up parts that lie beyond the end of the file. A file
    that has not changed is looked at once.
    """
    return _broken_parts(path, path.stat().st_mtime_ns)


@lru_cache(maxsize=512)
def _broken_parts(path: Path, changed: int) -> str | None:
    try:
        with tifffile.TiffFile(path) as file:
            page = file.pages.first
            parts = list(zip(page.dataoffsets, page.databytecounts, strict=True))
            deflated = page.compression in _DEFLATED
            length = path.stat().st_size
            missing = sum(offset + count > length or count == 0 for offset, count in parts)
            if missing or not deflated:
                return f"{missing} of its {len(parts)} parts lie beyond its end" if missing else None
            handle = file.filehandle

            def read() -> Iterator[bytes]:
                for offset, count in parts:
                    handle.seek(offset)
                    yield handle.read(count)

            broken = sum(side_by_side(_is_broken, read(), os.cpu_count() or 1))
            return f"{broken} of its {len(parts)} parts are not as they were written" if broken else None
    except (tifffile.TiffFileError, ValueError, KeyError, IndexError, AttributeError, TypeError, struct.error, OSError):
        # What this reader cannot make out, the one that decodes it may.
        return None


def _is_broken(part: bytes) -> bool:
    try:
        zlib.decompress(part)
    except zlib.error:
        return True
    return False


def _strips(stage: Stage, upwards: bool = False) -> list[Region]:
    tops = range(0, stage.size.height, _ROWS)
    strips = [Region(0, y, stage.size.width, min(_ROWS, stage.size.height - y)) for y in tops]
    return strips[::-1] if upwards else strips


def _flat_rows(stage: Stage, run: Run) -> int:
    """Rows at the bottom that are one colour, where the picture above them is none and its top is not the same border."""
    count, colour = 0, None
    for strip in _strips(stage, upwards=True):
        run.check()
        pixels = colours_of(stage.render(strip, run))
        colour = pixels[-1, -1] if colour is None else colour
        even = (pixels == colour).all(axis=(1, 2))
        uneven = np.flatnonzero(~even)
        if not len(uneven):
            count += strip.height
            continue
        last = int(uneven[-1])
        count += strip.height - 1 - last
        first = colours_of(stage.render(Region(0, 0, stage.size.width, 1), run))
        bordered = bool((first == colour).all())
        return 0 if bordered or float(np.ptp(pixels[last], axis=0).max()) < _UNEVEN else count
    # One colour all over is a picture of that.
    return 0


def _jumps(stage: Stage, run: Run) -> list[int]:
    """Rows at which a long part of a picture jumps in tone as a whole, along a border of blocks."""
    found: list[int] = []
    for strip in _strips(stage):
        run.check()
        grown = Region.between(0, max(0, strip.y - 2), strip.right, min(stage.size.height, strip.bottom + 2))
        pixels = colours_of(stage.render(grown, run))
        for y in range(-(-max(2, strip.y) // _BLOCK) * _BLOCK, strip.bottom - 2, _BLOCK):
            rows = pixels[y - grown.y - 2 : y - grown.y + 2]
            if len(rows) == 4 and _jumps_between(rows):
                found.append(y)
    return found


def _jumps_between(rows: Pixels) -> bool:
    """Whether the third of four rows differs from the second by an offset, and no more than rows differ beside it."""
    before, across, after = (rows[index + 1] - rows[index] for index in range(3))
    width = across.shape[0] // _PART * _PART
    if not width:
        return False
    middle, spread = _told(across[:width])
    usual = np.maximum(_told(before[:width])[1], _told(after[:width])[1])
    offsets = np.maximum(abs(_told(before[:width])[0]), abs(_told(after[:width])[0]))
    jumped = (abs(middle) > _STEP) & (spread <= _VARIES * usual + 1 / 255) & (offsets < abs(middle) / 4)
    return bool(jumped.any(axis=1).mean() >= 0.25)


def _told(differences: Pixels) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.float32]]:
    """Median of each part of a row and band, and the median distance from it."""
    parts = differences.reshape(-1, _PART, differences.shape[1])
    middle = np.median(parts, axis=1)
    return middle, np.median(abs(parts - middle[:, None]), axis=1)
