"""Encoders: what each format holds and how an image becomes a file of it. One class a format; nothing else lists them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from pathlib import Path
from typing import ClassVar

import pyvips

from kitecore.colour.conversion import interpretation
from kitecore.colour.spaces import SPACES
from kitecore.delivery.pieces import Packed
from kitecore.delivery.raster import Beside, Raster
from kitecore.delivery.spec import Format, OutputSpec
from kitecore.delivery.stream import StripStream
from kitecore.delivery.tiff import Checksums, Packer, write_dng, write_tiff
from kitecore.errors import OutputError
from kitecore.files import exif as exif_tags
from kitecore.files.exif import Exif
from kitecore.lengths import MILLIMETRES_PER_INCH
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples

#: A progressive JPEG is held in memory as long as it is written.
MOST_PROGRESSIVE_PIXELS = 120_000_000
#: Finding the best codes of a JPEG holds the whole picture in memory.
_MOST_OPTIMISED_PIXELS = 50_000_000
_MOST_DNG_BYTES = 4_000_000_000


class Encoder(ABC):
    """Writes files of one format as an output spec wants them."""

    format: ClassVar[Format]
    #: Endings of file names, the usual one first.
    endings: ClassVar[tuple[str, ...]]
    longest_side: ClassVar[int] = 1_000_000
    #: Whether what is transparent is laid on white.
    flattens: bool = False
    #: Whether it holds what a camera's sensor gives, and so takes raws alone.
    of_raws: ClassVar[bool] = False
    #: Whether the format has a tag for pixels per inch.
    tags_ppi: ClassVar[bool] = True

    def __init__(self, spec: OutputSpec) -> None:
        self.spec = spec

    @property
    def bits(self) -> int:
        """Bits per sample that will really be written."""
        return self.spec.depth

    @property
    def lossless(self) -> bool:
        """Whether samples come out of the file as they went in."""
        return True

    def did(self, size: Size, source_profile: str | None, beyond: bool = False) -> list[str]:
        """How the file departs from a result of ``size`` by the way it is written, in plain words, without full stops.

        ``beyond`` says whether the source has values below black or above white.
        """
        spec, parts = self.spec, []
        if (face := spec.face_size(size)) != size:
            parts.append(f"made smaller for this file, from {size} to {face} px")
        if self.of_raws:
            parts.append("brought back to the linear colours of its camera")
        if spec.profile != "keep":
            held = ", black brought to black" if spec.black_point else ""
            given = source_profile or "untagged colour, taken as sRGB,"
            parts.append(f"converted from {given} to {SPACES[spec.profile].title}, {spec.intent} intent{held}")
        if self.bits == 8:
            parts.append("rounded to 8 bits a sample")
        if beyond and self.bits < 32:
            parts.append("values below black and above white, which the source has, cut off where steps had left any")
        if not self.lossless:
            half = " with half its colour resolution" if spec.chroma == "half" and spec.format != "webp" else ""
            parts.append(f"compressed with loss at quality {spec.quality}{half}")
        if not spec.metadata:
            parts.append("written without camera and caption data")
        elif not spec.location:
            parts.append("written without where it was taken")
        return [*parts, *(spec.layout.did() if spec.layout else [])]

    def check(self, size: Size) -> None:
        """Raise OutputError if the format cannot hold a file of ``size``."""
        if max(size.width, size.height) > self.longest_side:
            raise OutputError(
                f"A {self.format.upper()} file can be at most {self.longest_side:,} px long and this is {size} px; "
                "deliver as TIFF."
            )

    @abstractmethod
    def share_of_raw(self) -> float:
        """Bytes of a file ÷ bytes of its samples, as photographs usually have it; for estimates."""

    def estimated_bytes(self, size: Size, bands: int) -> int:
        """About how large the file will be, from what photographs of this size usually take."""
        return int(size.pixels * bands * self.bits / 8 * self.share_of_raw())

    @abstractmethod
    def save(self, strips: Iterator[Samples], raster: Raster, beside: Beside, path: Path) -> Checksums | None:
        """Write a file whose pixels come as strips, each H×width×bands, from top to bottom.

        Gives the checksums of its parts where they were found to hold their samples while they were made.

        Raises pyvips.Error or OSError, and what the strips raise.
        """

    def inside(self) -> Encoder:
        """The encoder of the file that holds the pixels: this one, or that of what is laid on a page."""
        return self


class PackingEncoder(Encoder):
    """Of a format whose files are parts of some rows each, which can be made anywhere and are found to hold their samples."""

    @abstractmethod
    def packer(self, raster: Raster) -> Packer:
        """What makes such parts."""

    @abstractmethod
    def save(
        self, strips: Iterator[Samples] | Iterator[Packed], raster: Raster, beside: Beside, path: Path
    ) -> Checksums:
        """As any encoder; of rows that have been packed, too."""


class TiffEncoder(PackingEncoder):
    """TIFF, lossless, in strips or tiles; BigTIFF where it is too large for the classic form."""

    format = "tiff"
    endings = (".tif", ".tiff")

    def share_of_raw(self) -> float:
        return {"none": 1.0, "lzw": 0.85, "zip": 0.75}[self.spec.compression]

    def packer(self, raster: Raster) -> Packer:
        return Packer(raster, self.spec.compression, self.spec.tiled)

    def save(
        self, strips: Iterator[Samples] | Iterator[Packed], raster: Raster, beside: Beside, path: Path
    ) -> Checksums:
        sums = write_tiff(strips, beside, path, self.packer(raster))
        if beside.exif:
            exif_tags.add_to_tiff(path, beside.exif)
        return sums


class DngEncoder(Encoder):
    """Linear DNG: three colours a pixel, linear, of the camera's own; uncompressed, as every reader takes it."""

    format = "dng"
    endings = (".dng",)
    of_raws = True

    def share_of_raw(self) -> float:
        return 1.0

    def check(self, size: Size) -> None:
        super().check(size)
        if size.pixels * 6 > _MOST_DNG_BYTES:
            raise OutputError(f"A DNG file cannot hold {size} px; deliver as TIFF.")

    def save(self, strips: Iterator[Samples], raster: Raster, beside: Beside, path: Path) -> None:
        write_dng(strips, raster, beside, path)
        if beside.exif:
            exif_tags.add_to_tiff(path, beside.exif)


class _ByLibvips(Encoder):
    """A format that libvips writes."""

    def save(self, strips: Iterator[Samples], raster: Raster, beside: Beside, path: Path) -> None:
        stream = StripStream(strips, raster.size, raster.bands, raster.bits)
        try:
            image = stream.open().copy(interpretation=interpretation(raster.bands, raster.bits))
            self.write(_with_metadata(image, beside), path)
        except pyvips.Error as error:
            raise stream.fault or error from error

    @abstractmethod
    def write(self, image: pyvips.Image, path: Path) -> None:
        """Write an image that has all its metadata. Raises pyvips.Error."""


def _with_metadata(image: pyvips.Image, beside: Beside) -> pyvips.Image:
    per_millimetre = beside.ppi / MILLIMETRES_PER_INCH
    image = image.copy(xres=per_millimetre, yres=per_millimetre)
    if beside.exif:
        _set_exif(image, beside.exif)
    for name, blob in (
        ("icc-profile-data", beside.profile), ("xmp-data", beside.xmp), ("iptc-data", beside.iptc),
    ):  # fmt: skip
        if blob is not None:
            image.set_type(pyvips.GValue.blob_type, name, blob)
    image.set_type(pyvips.GValue.gstr_type, "resolution-unit", "in")
    return image


def _set_exif(image: pyvips.Image, exif: Exif) -> None:
    """Give an image EXIF the way libvips wants it: one field per tag, as it reads them from a JPEG."""
    block = exif_tags.to_block(exif)
    blank: bytes = pyvips.Image.black(1, 1).jpegsave_buffer(keep="none")
    segment = b"\xff\xe1" + (len(block) + 2).to_bytes(2, "big") + block
    read = pyvips.Image.jpegload_buffer(blank[:2] + segment + blank[2:])
    for name in read.get_fields():
        if name == "exif-data" or (name.startswith("exif-ifd") and not name.endswith(("Dimension", "Orientation"))):
            image.set_type(read.get_typeof(name), name, read.get(name))


class PngEncoder(_ByLibvips):
    """PNG, lossless."""

    format = "png"
    endings = (".png",)

    def share_of_raw(self) -> float:
        return 0.65

    def write(self, image: pyvips.Image, path: Path) -> None:
        image.pngsave(str(path), compression=6)


class _LossyEncoder(_ByLibvips):
    @property
    def bits(self) -> int:
        return 8

    @property
    def lossless(self) -> bool:
        return False

    def share_of_raw(self) -> float:
        return 1.0

    def estimated_bytes(self, size: Size, bands: int) -> int:
        bits_per_pixel = 0.35 * 2 ** ((self.spec.quality - 60) / 14)
        return int(size.pixels * bits_per_pixel / 8 * (1.0 if self.spec.chroma == "full" else 0.75))


class JpegEncoder(_LossyEncoder):
    """JPEG, 8 bits, without transparency."""

    format = "jpeg"
    endings = (".jpg", ".jpeg")
    longest_side = 65_500
    flattens = True

    def check(self, size: Size) -> None:
        super().check(size)
        if self.spec.progressive and size.pixels > MOST_PROGRESSIVE_PIXELS:
            raise OutputError(
                f"A progressive JPEG of {size} px needs more memory than is kept for one file; deliver it not progressive."
            )

    def write(self, image: pyvips.Image, path: Path) -> None:
        image.jpegsave(
            str(path), Q=self.spec.quality,
            optimize_coding=image.width * image.height < _MOST_OPTIMISED_PIXELS,
            subsample_mode="off" if self.spec.chroma == "full" else "on", interlace=self.spec.progressive,
        )  # fmt: skip


class WebpEncoder(_LossyEncoder):
    """WebP, 8 bits, lossless if wanted."""

    format = "webp"
    endings = (".webp",)
    longest_side = 16_383
    tags_ppi = False

    @property
    def lossless(self) -> bool:
        return self.spec.lossless

    def estimated_bytes(self, size: Size, bands: int) -> int:
        return int(size.pixels * bands * 0.5) if self.lossless else super().estimated_bytes(size, bands)

    def write(self, image: pyvips.Image, path: Path) -> None:
        image.webpsave(str(path), Q=self.spec.quality, lossless=self.spec.lossless, effort=4)


class PdfEncoder(Encoder):
    """A print PDF, written around a PNG if it is to be lossless, or else a JPEG."""

    format = "pdf"
    endings = (".pdf",)
    flattens = True

    def inside(self) -> Encoder:
        form: Format = "png" if self.spec.lossless else "jpeg"
        encoder = encoder_for(self.spec.model_copy(update={"format": form, "metadata": False}))
        encoder.flattens = True
        return encoder

    @property
    def bits(self) -> int:
        return self.inside().bits

    @property
    def lossless(self) -> bool:
        return self.spec.lossless

    def share_of_raw(self) -> float:
        return self.inside().share_of_raw()

    def estimated_bytes(self, size: Size, bands: int) -> int:
        return self.inside().estimated_bytes(size, bands)

    def save(self, strips: Iterator[Samples], raster: Raster, beside: Beside, path: Path) -> None:
        raise NotImplementedError("a PDF is written around the file of its inside()")


_ENCODERS: dict[Format, type[Encoder]] = {
    encoder.format: encoder for encoder in (TiffEncoder, PngEncoder, JpegEncoder, WebpEncoder, PdfEncoder, DngEncoder)
}


def encoder_for(spec: OutputSpec) -> Encoder:
    """The encoder of the format that ``spec`` names."""
    return _ENCODERS[spec.format](spec)


def ending_of(form: Format) -> str:
    """The usual ending of files of a format, with its dot."""
    return _ENCODERS[form].endings[0]


def format_of_ending(ending: str) -> Format | None:
    """The format that files of this ending (with its dot, in small letters) have; None if it is not known.

    >>> format_of_ending(".tiff"), format_of_ending(".doc")
    ('tiff', None)
    """
    return next((form for form, encoder in _ENCODERS.items() if ending in encoder.endings), None)


def known_endings() -> list[str]:
    """Every ending that :func:`format_of_ending` knows."""
    return [ending for encoder in _ENCODERS.values() for ending in encoder.endings]
