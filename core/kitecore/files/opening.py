"""Open a picture file as a lazy image: sniffed by its content, checked for size, brought upright and to samples we work with."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pyvips

from kitecore.errors import DamagedPicture, PictureError, TooLarge
from kitecore.pipeline.geometry import Size
from kitecore.settings import settings

#: How files of each format begin, whatever they are called.
_BEGINNINGS = {
    "JPEG": rb"\xff\xd8\xff",
    "PNG": rb"\x89PNG\r\n\x1a\n",
    "TIFF": rb"II\*\0|MM\0\*|II\+\0|MM\0\+",
    "WebP": rb"RIFF....WEBP",
}
#: From which of a decoder's complaints on a file counts as damaged. Sound TIFF and PNG files of many programs give warnings.
_FAIL_ON = {"JPEG": "warning", "PNG": "error", "TIFF": "error", "WebP": "error"}
#: No compression of any of these formats makes a picture that many times smaller than its samples.
_MOST_COMPRESSION = 4000
#: Types of samples by what libvips calls them.
DTYPES = {"uchar": np.uint8, "ushort": np.uint16, "float": np.float32}


def reason_of(error: pyvips.Error, path: Path) -> str:
    """What libvips says, without the folder, which is nobody's business."""
    lines = [line.strip() for line in str(error).replace(f"{path.parent}/", "").splitlines() if line.strip()]
    return lines[1] if len(lines) > 1 else lines[0]


def open_image(path: Path, name: str, damaged: bool) -> tuple[pyvips.Image, str]:
    """The file as a lazy image, orientation not yet applied, and its format; ``damaged``: as much as can be read of it."""
    if not path.is_file():
        raise PictureError(f"There is no file {name}.")
    if path.stat().st_size == 0:
        raise PictureError(f"{name} is empty: it has no bytes. Export or copy it again.")
    with path.open("rb") as file:
        beginning = file.read(16)
    kind = next((form for form, pattern in _BEGINNINGS.items() if re.match(pattern, beginning, re.DOTALL)), None)
    if kind is None:
        raise PictureError(
            f"{name} is not a picture Kite Glass can read. It takes JPEG, PNG, TIFF, WebP and camera raws."
        )
    try:
        load, fail_on = getattr(pyvips.Image, f"{kind.lower()}load"), "none" if damaged else _FAIL_ON[kind]
        image = load(str(path), access="sequential", fail_on=fail_on)
        if _orientation(image) != 1:  # turning reads out of order
            image = load(str(path), access="random", fail_on=fail_on)
        return image, kind
    except pyvips.Error as error:
        if not damaged:
            open_image(path, name, damaged=True)
            raise DamagedPicture(name, f"its start is not as it was written ({reason_of(error, path)})") from error
        raise PictureError(
            f"{name} is a {kind} file but its start is damaged ({reason_of(error, path)}). Ask for it again."
        ) from error


def _orientation(image: pyvips.Image) -> int:
    return int(image.get("orientation")) if image.get_typeof("orientation") else 1


def check_pixels(size: Size, name: str) -> None:
    """Raises TooLarge beyond what is taken."""
    megapixels, most = size.pixels / 1e6, settings().most_megapixels
    if megapixels > most:
        raise TooLarge(
            f"{name} says it has {size.width:,} × {size.height:,} pixels, {megapixels:,.0f} megapixels; "
            f"Kite Glass takes up to {most:g}."
        )


def check_size(image: pyvips.Image, path: Path, name: str) -> None:
    check_pixels(Size(image.width, image.height), name)
    length = path.stat().st_size
    if image.width * image.height * image.bands > length * _MOST_COMPRESSION:
        raise PictureError(
            f"{name} says it has {image.width:,} × {image.height:,} pixels but has only {length:,} bytes: nearly all of it "
            "is missing. Ask for it again."
        )


def normalised(image: pyvips.Image, name: str, notes: list[str]) -> pyvips.Image:
    """Upright, 1 to 4 bands of uint8, uint16 or float32, grey or RGB; what had to be changed goes to ``notes``."""
    if image.interpretation == "cmyk":
        has_profile = image.get_typeof("icc-profile-data") != 0
        notes.append(
            "CMYK was converted to sRGB through "
            + ("the file's own profile." if has_profile else "a general press profile, for the file has none.")
        )
        image = image.icc_transform("srgb", embedded=True, input_profile="cmyk", intent="relative")
    elif (
        image.interpretation in ("lab", "labs", "labq", "xyz", "lch", "scrgb") and image.format != "float"
    ) or image.interpretation in ("lab", "xyz", "lch"):
        notes.append(f"{image.interpretation} colour was converted to 16-bit sRGB.")
        image = image.colourspace("rgb16")
    if image.format == "double":
        image = image.cast("float")
    elif image.format == "uint":
        image = (image / 4294967295.0).cast("float")
    elif image.format not in DTYPES:
        raise PictureError(f"{name} has {image.format} samples; save it with 8, 16 or 32-bit float samples.")
    if image.bands > 4:
        notes.append(f"Of {image.bands} channels only the first three were read.")
        image = image.extract_band(0, n=3)
    if _orientation(image) != 1:
        notes.append("The picture was turned upright as its orientation tag says.")
    return image.autorot()
