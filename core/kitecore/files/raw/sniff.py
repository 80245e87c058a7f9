"""Telling camera raws from other files by their content. Many raws are TIFF files; what lies in their directories tells."""

from __future__ import annotations

import re
import struct
from pathlib import Path

from kitecore.files.exif import Entry, directories_of

#: How raws begin that are no TIFF files.
_BEGINNINGS = (
    rb"FUJIFILMCCD-RAW", rb"II(RO|RS|U\0)", rb"MMOR", rb"II\x1a\0\0\0HEAPCCDR", rb"FOVb", rb"\0MRM", rb"....ftypcrx ",
    rb"ARRI", rb"NOKIARAW", rb"II\*\0....CR",
)  # fmt: skip
_PHOTOMETRIC, _DNG_VERSION = 262, 50706
#: A mosaic of colour filters, or the linear samples of a camera.
_OF_A_CAMERA = {32803, 34892}
#: Raws of some cameras do not say so: their first picture is compressed in the maker's own way.
_COMPRESSION, _OWN = 259, {32767, 32769, 32770, 34713, 65000, 65535}


def raw_format(path: Path, beginning: bytes) -> str | None:
    """“DNG” or “camera raw”; None for any other file. ``beginning`` is its first 16 bytes."""
    if any(re.match(pattern, beginning, re.DOTALL) for pattern in _BEGINNINGS):
        return "camera raw"
    if beginning[:4] not in (b"II*\0", b"MM\0*"):
        return None
    wanted = {_PHOTOMETRIC, _DNG_VERSION, _COMPRESSION}
    try:
        with path.open("rb") as file:
            found = directories_of(file, wanted)
    except (OSError, struct.error, KeyError, TypeError, ValueError):
        return None
    if found and _DNG_VERSION in found[0]:
        return "DNG"
    if any(_value(one, _PHOTOMETRIC) in _OF_A_CAMERA or _value(one, _COMPRESSION) in _OWN for one in found):
        return "camera raw"
    return None


def _value(entries: dict[int, Entry], tag: int) -> object:
    return entries[tag].value if tag in entries else None
