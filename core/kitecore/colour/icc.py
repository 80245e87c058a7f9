"""ICC profiles: their names, the sRGB one, and files for libvips to read them from."""

from __future__ import annotations

import atexit
import struct
from functools import lru_cache
from pathlib import Path
from tempfile import NamedTemporaryFile

import pyvips


def tag_of(profile: bytes, name: bytes) -> bytes | None:
    """What an ICC profile has under a tag of four letters; None if it has none or is broken."""
    try:
        (count,) = struct.unpack(">I", profile[128:132])
        for index in range(min(count, 100)):
            tag, offset, length = struct.unpack(">4sII", profile[132 + 12 * index : 144 + 12 * index])
            if tag == name:
                return profile[offset : offset + length]
    except struct.error:
        pass
    return None


def profile_name(profile: bytes) -> str:
    """The description inside an ICC profile (versions 2 and 4), or “unnamed profile”."""
    body = tag_of(profile, b"desc")
    if body is None:
        return "unnamed profile"
    try:
        if body[:4] == b"mluc":
            size, place = struct.unpack(">II", body[20:28])
            return body[place : place + size].decode("utf-16-be").strip("\0 ")
        (size,) = struct.unpack(">I", body[8:12])
        return body[12 : 12 + size].split(b"\0")[0].decode("latin-1").strip()
    except (struct.error, UnicodeDecodeError):
        return "unnamed profile"


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """The sRGB profile that libvips carries."""
    blank = pyvips.Image.black(1, 1, bands=3).copy(interpretation="srgb")
    content: bytes = blank.icc_transform("srgb", input_profile="srgb").get("icc-profile-data")
    return content


@lru_cache(maxsize=16)
def profile_file(profile: bytes) -> str:
    """A file that holds a profile, for libvips reads output profiles from files only; removed when the process ends."""
    with NamedTemporaryFile(prefix="profile-", suffix=".icc", delete=False) as file:
        file.write(profile)
    atexit.register(Path(file.name).unlink, missing_ok=True)
    return file.name
