"""Write the result of a plan to a file: exact pixels, profile, ppi and metadata, all or nothing."""

from __future__ import annotations

import errno
import os
import shutil
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Literal, TypeAlias

import pyvips
from pydantic import BaseModel, ConfigDict, Field

from kitecore import exif as exif_tags
from kitecore.colour import Intent, interpretation, profile_name, srgb_profile, to_profile
from kitecore.errors import NoSpace, OutputError
from kitecore.exif import Exif
from kitecore.geometry import Size
from kitecore.kept import kept_for_rendering
from kitecore.layout import Layout
from kitecore.lengths import MILLIMETRES_PER_INCH
from kitecore.pdf import Page, write_pdf
from kitecore.pixels import has_alpha, to_samples
from kitecore.profiles import SpaceName, grey_profile, profile_of
from kitecore.render import render_strips
from kitecore.run import Run
from kitecore.source import Header, Source
from kitecore.stage import ResampledStage
from kitecore.stream import StripStream
from kitecore.take import Plan
from kitecore.verify import Meant, PixelSum, check_written
from kitecore.xmp import for_print, with_history, without_place

Format: TypeAlias = Literal["tiff", "png", "jpeg", "webp", "pdf"]

ENDINGS: dict[Format, str] = {"tiff": ".tif", "png": ".png", "jpeg": ".jpg", "webp": ".webp", "pdf": ".pdf"}
FORMAT_OF_ENDING: dict[str, Format] = {
    ".tif": "tiff", ".tiff": "tiff", ".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg", ".webp": "webp", ".pdf": "pdf",
}  # fmt: skip
LONGEST_SIDE: dict[Format, int] = {
    "jpeg": 65_500, "webp": 16_383, "png": 1_000_000, "tiff": 1_000_000, "pdf": 1_000_000,
}  # fmt: skip
#: A progressive JPEG is held in memory as long as it is written.
MOST_PROGRESSIVE_PIXELS = 120_000_000
#: Bytes per sample relative to raw that typical photographs take, for estimates only.
_TYPICAL_RATIO = {("tiff", "none"): 1.0, ("tiff", "lzw"): 0.85, ("tiff", "zip"): 0.75, ("png", ""): 0.65}
#: Classic TIFF offsets end at 4 GiB; leave room for what is not pixels.
_CLASSIC_TIFF_BYTES = 4_000_000_000
_MOST_OPTIMISED_PIXELS = 50_000_000
_SPARE_BYTES = 32 * 1024 * 1024
#: Of what slow steps computed, while a file is rendered.
_KEPT_BYTES = 256 * 1024 * 1024
#: Of the time a delivery takes, for progress; the rest is reading back.
_SHARE_OF_RENDERING = 0.97
#: What holds the picture inside a PDF, lossless or not.
_INSIDE_PDF: dict[bool, Format] = {True: "png", False: "jpeg"}


class OutputSpec(BaseModel):
    """How a finished file is to be written."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    format: Format = "tiff"
    depth: Literal[8, 16] = Field(
        default=16, description="Bits per sample; JPEG, WebP and PDF with JPEG inside always have 8."
    )
    compression: Literal["none", "lzw", "zip"] = Field(default="zip", description="For TIFF; all are lossless.")
    tiled: bool = Field(default=False, description="For TIFF: in tiles of 256 px instead of strips.")
    quality: int = Field(default=92, ge=1, le=100, description="For JPEG and WebP, and PDF unless lossless.")
    lossless: bool = Field(default=False, description="For WebP and PDF.")
    progressive: bool = Field(default=False, description="For JPEG: shown coarsely first while it arrives.")
    longest_side: int | None = Field(
        default=None,
        ge=16,
        le=1_000_000,
        description="px; larger results are made smaller for this file. Null: as they are.",
    )
    chroma: Literal["full", "half"] = Field(default="full", description="Chroma resolution of JPEG: 4:4:4 or 4:2:0.")
    profile: Literal["keep"] | SpaceName = Field(
        default="keep", description="The source's colour space, or one of these."
    )
    intent: Intent = Field(default="relative", description="Of a conversion: what becomes of colours the space lacks.")
    black_point: bool = Field(default=True, description="Whether a conversion brings black to black.")
    ppi: float | None = Field(default=None, ge=1, le=10_000, description="None keeps the source's tag, or 300.")
    metadata: bool = Field(default=True, description="Whether EXIF, XMP with its history, and IPTC go with the file.")
    location: bool = Field(default=True, description="Whether these tell where it was taken.")
    layout: Layout | None = Field(default=None, description="The paper around the picture; null: the picture alone.")

    @property
    def bits(self) -> int:
        """Bits per sample that will really be written."""
        lossy = self.format in ("jpeg", "webp") or (self.format == "pdf" and not self.lossless)
        return 8 if lossy else self.depth

    @property
    def lossless_format(self) -> bool:
        """Whether samples come out of the file as they went in."""
        return self.format in ("tiff", "png") or (self.format in ("webp", "pdf") and self.lossless)

    def ppi_for(self, tagged: float | None) -> float:
        """The tag that will be written, for a source that has the tag ``tagged``."""
        return self.ppi or tagged or 300.0

    def face_size(self, size: Size) -> Size:
        """Size of the picture inside the file for a result of ``size``."""
        longest = max(size.width, size.height)
        if self.longest_side is None or longest <= self.longest_side:
            return size
        share = self.longest_side / longest
        return Size(max(1, round(size.width * share)), max(1, round(size.height * share)))

    def final_size(self, size: Size, tagged: float | None) -> Size:
        """Size of the file for a result of ``size`` from a source with the ppi tag ``tagged``. Raises TakeError."""
        size = self.face_size(size)
        return self.layout.size(size, self.ppi_for(tagged)) if self.layout else size

    def check(self, size: Size) -> None:
        """Raise OutputError if the format cannot hold a file of ``size``."""
        longest = LONGEST_SIDE[self.format]
        if max(size.width, size.height) > longest:
            raise OutputError(
                f"A {self.format.upper()} file can be at most {longest:,} px long and this is {size} px; deliver as TIFF."
            )
        if self.format == "jpeg" and self.progressive and size.pixels > MOST_PROGRESSIVE_PIXELS:
            raise OutputError(
                f"A progressive JPEG of {size} px needs more memory than is kept for one file; deliver it not progressive."
            )

    def estimated_bytes(self, size: Size, bands: int) -> int:
        """About how large the file will be, from what photographs of this size usually take."""
        raw = size.pixels * bands * self.bits / 8
        if self.format == "tiff":
            return int(raw * _TYPICAL_RATIO["tiff", self.compression])
        if self.format == "png" or (self.format == "pdf" and self.lossless):
            return int(raw * _TYPICAL_RATIO["png", ""])
        if self.format == "webp" and self.lossless:
            return int(raw * 0.5)
        bits_per_pixel = 0.35 * 2 ** ((self.quality - 60) / 14)
        return int(size.pixels * bits_per_pixel / 8 * (1.0 if self.chroma == "full" else 0.75))


def free_bytes(folder: Path) -> int:
    """Bytes that can still be written in ``folder``."""
    return shutil.disk_usage(folder).free


def _no_space(called: str) -> NoSpace:
    return NoSpace(
        f"The disk is full: {called} could not be finished and nothing of it was left behind. "
        "Free some space and deliver again."
    )


def write_result(
    plan: Plan, source: Source, spec: OutputSpec, path: Path, run: Run | None = None, called: str = ""
) -> None:  # fmt: skip
    """Render ``plan`` on ``source`` and write it to ``path``, replacing what is there only once all is done.

    ``called`` is the name people know the file by, in sentences and as a PDF's title; the path's own unless given.

    Pixels are rounded once: to the file's depth, or, where a profile conversion follows, to 16 bits before it.
    Memory does not grow with the picture: strips are rendered while libvips encodes them.

    The finished file is read back before it gets its name: its size, depth, profile and ppi, and where its format is
    lossless and nothing was converted, every sample.

    Raises Cancelled, NoSpace, OutputError; then no file remains.
    """
    run, called = run or Run(), called or path.name
    slow = sum(step.slow for step in plan.steps)
    stage = plan.stage(source.stage(), keep=kept_for_rendering(plan.source, slow, _KEPT_BYTES))
    face = spec.face_size(stage.size)
    if face != stage.size:
        stage = ResampledStage(stage, face)
    if spec.layout:
        stage = spec.layout.stage(stage, spec.ppi_for(source.header.ppi))
    spec.check(stage.size)
    convert = _converts(spec, source.header.profile, stage.bands)
    bits = 16 if convert else spec.bits
    flat = spec.format in ("jpeg", "pdf")
    needed = spec.estimated_bytes(stage.size, stage.bands) + _SPARE_BYTES
    if free_bytes(path.parent) < needed:
        raise NoSpace(
            f"{called} needs about {needed / 1e9:.1f} GB and the disk has {free_bytes(path.parent) / 1e9:.1f}. "
            "Free some space or choose a smaller size."
        )
    # The rest is for what follows the pixels.
    watched = Run(run.cancelled, lambda done: run.progress(done * _SHARE_OF_RENDERING))
    reading_back = Run(
        run.cancelled, lambda done: run.progress(_SHARE_OF_RENDERING + done * (0.999 - _SHARE_OF_RENDERING))
    )
    pixels = PixelSum()
    strips = render_strips(stage, lambda pixels: to_samples(pixels, bits), watched)
    stream = StripStream(pixels.passing(strips), stage.size, stage.bands, bits)
    try:
        with TemporaryDirectory(prefix=".kite-", dir=path.parent) as folder:
            finished = Path(folder) / path.name
            header = _told_further(source.header, spec, plan)
            # A PDF is written around a file that holds its picture.
            encoded = finished.with_suffix(ENDINGS[_INSIDE_PDF[spec.lossless]]) if spec.format == "pdf" else finished
            profile = _encode(stream, encoded, header, _encoded_as(spec), bits, flat, called)
            exact = spec.lossless_format and not convert and not (flat and has_alpha(stage.bands))
            ppi = None if spec.format == "webp" else spec.ppi_for(source.header.ppi)
            meant = Meant(stage.size, spec.bits, ppi, profile, str(pixels) if exact else None)
            _sync(encoded)
            check_written(encoded, meant, reading_back, called)
            if encoded != finished:
                page = _page(
                    encoded,
                    face,
                    stage.size,
                    spec,
                    source,
                    Path(called).stem,
                    profile,
                    header.xmp if spec.metadata else None,
                )
                write_pdf(encoded, page, finished, run)
                _sync(finished)
            run.check()
            finished.replace(path)
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise _no_space(called) from error
        raise OutputError(f"{called} could not be written ({error.strerror}).") from error
    run.progress(1.0)


def _encoded_as(spec: OutputSpec) -> OutputSpec:
    """The spec of the file that holds the pixels: itself, or for a PDF the picture inside."""
    if spec.format != "pdf":
        return spec
    return spec.model_copy(update={"format": _INSIDE_PDF[spec.lossless], "metadata": False})


def _page(
    encoded: Path,
    face: Size,
    size: Size,
    spec: OutputSpec,
    source: Source,
    title: str,
    profile: bytes | None,
    xmp: bytes | None,
) -> Page:
    """The page of a PDF of ``size`` with a picture of ``face`` on it, which is encoded already."""
    ppi = spec.ppi_for(source.header.ppi)
    whole = size.region
    trim, bleed = spec.layout.boxes(face, ppi) if spec.layout else (whole, whole)
    bands = pyvips.Image.new_from_file(str(encoded), access="sequential").bands
    profile = profile or (srgb_profile() if bands == 3 else grey_profile())
    now = datetime.now(UTC)
    return Page(
        size, bands, spec.bits, ppi, trim, bleed, title, profile, profile_name(profile),
        for_print(xmp, title, now), now,
    )  # fmt: skip


def _told_further(header: Header, spec: OutputSpec, plan: Plan) -> Header:
    """The header as the finished file has it: with its history, and with or without where it was taken."""
    exif, xmp = header.exif, header.xmp
    if not spec.location:
        exif = replace(exif, place={})
        xmp = without_place(xmp) if xmp else None
    return replace(header, exif=exif, xmp=with_history(xmp, plan.steps))


def _converts(spec: OutputSpec, profile: bytes | None, bands: int) -> bool:
    """Whether pixels have to be converted. What has no profile is sRGB; grey without one stays grey."""
    if spec.profile == "keep":
        return False
    return profile is not None or (spec.profile != "srgb" and bands > 2)


def _sync(path: Path) -> None:
    """Have the file on the disk before it gets its name, so that a power cut leaves all of it or nothing."""
    with path.open("rb") as file:
        os.fsync(file.fileno())


def _encode(
    stream: StripStream, path: Path, header: Header, spec: OutputSpec, bits: int, flat: bool, called: str
) -> bytes | None:
    """Encode rendered strips as they come, with everything that travels beside the pixels; gives the profile inside.

    ``flat`` lays what is transparent on white.
    """
    profile = header.profile
    try:
        image = stream.open()
        image = image.copy(interpretation=interpretation(image.bands, bits))
        if spec.profile != "keep":
            wanted = srgb_profile() if spec.profile == "srgb" else profile_of(spec.profile)
            if _converts(spec, profile, image.bands):
                image = to_profile(image, profile, wanted, spec.bits, spec.intent, spec.black_point)
            profile = wanted if image.bands > 2 else None
        if flat and has_alpha(image.bands):
            image = image.flatten(background=255 if image.format == "uchar" else 65_535)
        image = _with_metadata(image, profile, header, spec)
        _save(image, path, spec)
        if spec.format == "tiff" and spec.metadata and header.exif:
            exif_tags.add_to_tiff(path, header.exif)
        return profile
    except pyvips.Error as error:
        if stream.fault is not None:
            raise stream.fault from error
        reason = str(error).lower()
        if "space" in reason or "write" in reason or "too large" in reason:
            raise _no_space(called) from error
        raise OutputError(f"{called} could not be written ({str(error).strip().splitlines()[-1]}).") from error


def _with_metadata(image: pyvips.Image, profile: bytes | None, header: Header, spec: OutputSpec) -> pyvips.Image:
    per_millimetre = spec.ppi_for(header.ppi) / MILLIMETRES_PER_INCH
    image = image.copy(xres=per_millimetre, yres=per_millimetre)
    for name in image.get_fields():
        if name.startswith(("exif-", "icc-profile")):
            image.remove(name)
    blobs = {"icc-profile-data": profile}
    if spec.metadata:
        blobs |= {"xmp-data": header.xmp, "iptc-data": header.iptc}
        if header.exif and spec.format != "tiff":
            _set_exif(image, header.exif)
    for name, blob in blobs.items():
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


def _save(image: pyvips.Image, path: Path, spec: OutputSpec) -> None:
    match spec.format:
        case "tiff":
            raw_bytes = image.width * image.height * image.bands * spec.bits // 8
            image.tiffsave(
                str(path),
                compression={"none": "none", "lzw": "lzw", "zip": "deflate"}[spec.compression],
                predictor="none" if spec.compression == "none" else "horizontal",
                bigtiff=raw_bytes > _CLASSIC_TIFF_BYTES, resunit="inch",
                tile=spec.tiled, tile_width=256, tile_height=256,
            )  # fmt: skip
        case "png":
            image.pngsave(str(path), compression=6)
        case "jpeg":
            image.jpegsave(
                str(path), Q=spec.quality,
                # Finding the best codes holds the whole picture in memory.
                optimize_coding=image.width * image.height < _MOST_OPTIMISED_PIXELS,
                subsample_mode="off" if spec.chroma == "full" else "on", interlace=spec.progressive,
            )  # fmt: skip
        case "webp":
            image.webpsave(str(path), Q=spec.quality, lossless=spec.lossless, effort=4)
