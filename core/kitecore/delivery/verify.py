"""Read a finished file back: whether all of it is there and it holds what was meant."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

import numpy as np
import pyvips
import tifffile

from kitecore.delivery.pieces import Packed
from kitecore.delivery.tiff import Checksums, checksums_in
from kitecore.errors import OutputError, PictureError
from kitecore.files.raw.unpacking import look
from kitecore.lengths import MILLIMETRES_PER_INCH
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.meanwhile import used_meanwhile
from kitecore.pipeline.pixels import Samples
from kitecore.pipeline.run import Run

#: Rows that are decoded at once.
ROWS = 256
#: libvips' names by bits per sample.
_FORMATS = {8: "uchar", 16: "ushort", 32: "float"}


Strip = TypeVar("Strip", Samples, Packed)


class PixelSum:
    """SHA-256 of samples in order, however they are cut into strips; of so many first rows, or of all."""

    def __init__(self, rows: int | None = None) -> None:
        self._hash = hashlib.sha256()
        self._rows = rows

    def add(self, strip: Samples) -> None:
        """The next rows, H×width×bands."""
        if self._rows is not None:
            strip = strip[: self._rows]
            self._rows -= len(strip)
        self._hash.update(np.ascontiguousarray(strip).data)

    def passing(self, strips: Iterator[Strip]) -> Iterator[Strip]:
        """The strips as they are, added as they pass; of packed ones as many rows as come unpacked, too."""
        for strip in strips:
            self.add(strip.first if isinstance(strip, Packed) else strip)
            yield strip

    def __str__(self) -> str:
        return self._hash.hexdigest()


@dataclass(frozen=True)
class Meant:
    """What a file is to hold. ``ppi`` is None where its format has no tag for it, ``pixels`` where samples are changed.

    With the checksums of its parts, which are known to hold all samples, ``pixels`` is of its first :data:`ROWS` alone.
    """

    size: Size
    bits: int
    ppi: float | None
    profile: bytes | None
    pixels: str | None
    parts: Checksums | None = None


def check_written(path: Path, meant: Meant, run: Run, called: str | None = None) -> None:
    """Read ``path`` from beginning to end and compare. Raises OutputError with what is wrong, or Cancelled.

    All of it is decoded, unless its parts are known: then their bytes are looked at, and the first rows are decoded. Sentences
    name the file as ``called``, or by the path's name.
    """
    called = called or path.name
    try:
        image = pyvips.Image.new_from_file(str(path), access="sequential", fail_on="error")
        if meant.parts is None:
            found, complete = used_meanwhile(_read(image, image.height, run), _sum_of, run), True
        else:
            found = _sum_of(_read(image, min(ROWS, image.height), run.between(0, 0.01)))
            complete = _has_all(path, meant.parts, run.between(0.01, 1))
    except pyvips.Error as error:
        raise _wrong(called, f"it cannot be read again ({str(error).strip().splitlines()[-1]})") from error
    except (OSError, ValueError, tifffile.TiffFileError) as error:
        raise _wrong(called, f"it cannot be read again ({error})") from error
    for wrong, what in (
        ((image.width, image.height) != (meant.size.width, meant.size.height), f"it is {image.width} × {image.height} px"),
        (image.format != _FORMATS[meant.bits], "its depth is another"),
        (_profile(image) != meant.profile, "its colour profile is another"),
        (meant.ppi is not None and abs(image.xres * MILLIMETRES_PER_INCH / meant.ppi - 1) > 0.02, "its ppi are others"),
        (not complete or meant.pixels not in (None, str(found)), "its pixels are others than were computed"),
    ):  # fmt: skip
        if wrong:
            raise _wrong(called, what)


def check_negative(path: Path, meant: Meant, run: Run, called: str | None = None) -> None:
    """The same of a linear DNG, whose samples lie in one piece; LibRaw must take it for a raw of that size."""
    called = called or path.name
    try:
        with tifffile.TiffFile(path) as file:
            page = file.pages.first
            shape, contiguous, place = page.shape, page.is_contiguous, page.dataoffsets[0]
        sensor = look(path, called)
    except (OSError, ValueError, PictureError) as error:
        raise _wrong(called, f"it cannot be read again ({error})") from error
    if shape != (meant.size.height, meant.size.width, 3) or sensor.size != meant.size or not contiguous:
        raise _wrong(called, "it is of another size")
    samples = np.memmap(path, "<u2", "r", place, shape)
    rows = (samples[y : y + ROWS] for y in range(0, meant.size.height, ROWS))
    if str(_sum_of(_watched(rows, meant.size, run))) != meant.pixels:
        raise _wrong(called, "its pixels are others than were computed")


def _watched(strips: Iterator[Samples], size: Size, run: Run) -> Iterator[Samples]:
    done = 0
    for strip in strips:
        run.check()
        yield strip
        done += len(strip)
        run.progress(done / size.height)


def _read(image: pyvips.Image, height: int, run: Run) -> Iterator[Samples]:
    """So many first rows, as bytes."""
    window = pyvips.Region.new(image)
    for y in range(0, height, ROWS):
        run.check()
        rows = min(ROWS, height - y)
        yield np.frombuffer(window.fetch(0, y, image.width, rows), np.uint8)
        run.progress((y + rows) / height)


def _has_all(path: Path, parts: Checksums, run: Run) -> bool:
    """Whether a file has those parts, in order, and no others."""
    number = 0
    for number, found in enumerate(checksums_in(path), 1):
        run.check()
        if number > len(parts) or found != parts[number - 1]:
            return False
        run.progress(number / len(parts))
    return number == len(parts)


def _sum_of(strips: Iterator[Samples]) -> PixelSum:
    found = PixelSum()
    for strip in strips:
        found.add(strip)
    return found


def _profile(image: pyvips.Image) -> bytes | None:
    return image.get("icc-profile-data") if image.get_typeof("icc-profile-data") else None


def _wrong(called: str, what: str) -> OutputError:
    return OutputError(f"{called} was read back after writing and {what}; nothing of it was kept. Deliver again.")
