"""Pictures that were not files before, frames of a clip, as files that tell where they come from."""

from __future__ import annotations

from pathlib import Path

from kitecore.delivery.raster import Beside, Raster
from kitecore.delivery.tiff import Packer, write_tiff
from kitecore.files.exif import Entry, Exif, add_to_tiff
from kitecore.files.xmp import with_history
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels, to_samples

_DESCRIPTION, _TEXT = 270, 2


def write_still(pixels: Pixels, profile: bytes | None, origin: str, path: Path) -> None:
    """A 16-bit TIFF of pixels, H×W×3, whose description and history say its ``origin``. Raises OSError as the disk has it."""
    height, width, bands = pixels.shape
    text = origin.encode() + b"\0"
    exif = Exif({_DESCRIPTION: Entry(_TEXT, len(text), text)})
    beside = Beside(profile, 300, exif, with_history(None, [origin]), None)
    packer = Packer(Raster(Size(width, height), bands, 16), "zip", tiled=False)
    write_tiff(iter([to_samples(pixels, 16)]), beside, path, packer)

    add_to_tiff(path, exif)
