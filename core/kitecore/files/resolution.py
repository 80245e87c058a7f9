"""The resolution a file is tagged with, told from what its decoder supposes where there is no tag."""

from __future__ import annotations

import struct
from pathlib import Path

import pyvips

from kitecore.files import exif as exif_tags
from kitecore.lengths import MILLIMETRES_PER_INCH


def tagged_ppi(image: pyvips.Image, path: Path, form: str, exif_block: bytes | None) -> float | None:
    """The resolution tag of a file; None where it has none, whatever libvips supposes then."""
    tagged = _has_physical_size(path) if form == "PNG" else image.get_typeof("resolution-unit") != 0
    if tagged:
        return round(float(image.xres) * MILLIMETRES_PER_INCH, 2)
    told = exif_tags.resolution_of(exif_block) if exif_block else None
    return round(told, 2) if told else None


def _has_physical_size(path: Path) -> bool:
    """Whether a PNG has a pHYs chunk in metres (PNG specification, 11.3.4.3), which stands before the pixels."""
    with path.open("rb") as file:
        file.seek(8)
        while len(head := file.read(8)) == 8:
            length, kind = struct.unpack(">I4s", head)
            if kind == b"pHYs":
                return file.read(9)[8:] == b"\x01"
            if kind in (b"IDAT", b"IEND"):
                break
            file.seek(length + 4, 1)
    return False
