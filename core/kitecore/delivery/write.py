"""Write the result of a plan to a file: exact pixels, profile, ppi and metadata, all or nothing."""

from __future__ import annotations

import errno
import os
import shutil
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

import pyvips

from kitecore.colour.conversion import interpretation, to_profile
from kitecore.colour.icc import profile_name, srgb_profile
from kitecore.colour.spaces import grey_profile, profile_of
from kitecore.delivery.encode import Encoder, encoder_for
from kitecore.delivery.pdf import Page, write_pdf
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.stream import StripStream
from kitecore.delivery.verify import Meant, PixelSum, check_written
from kitecore.errors import NoSpace, OutputError
from kitecore.files import exif as exif_tags
from kitecore.files.exif import Exif
from kitecore.files.source import Header, Source
from kitecore.files.xmp import for_print, with_history, without_place
from kitecore.lengths import MILLIMETRES_PER_INCH
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import has_alpha, to_samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage, resized
from kitecore.pipeline.stage_cache import cache_for_rendering
from kitecore.pipeline.strips import render_strips
from kitecore.steps import history
from kitecore.takes.plan import Plan
from kitecore.takes.render import result_stage

_SPARE_BYTES = 32 * 1024 * 1024
#: Of what slow steps computed, while a file is rendered.
_KEPT_BYTES = 256 * 1024 * 1024
#: Of the time a delivery takes, for progress; the rest is reading back.
_SHARE_OF_RENDERING = 0.97


def write_result(
    plan: Plan, source: Source, spec: OutputSpec, path: Path, run: Run | None = None, called: str = ""
) -> None:
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
    stage = result_stage(plan, source.stage(), cache=cache_for_rendering(plan.source, slow, _KEPT_BYTES))
    face = spec.face_size(stage.size)
    stage = resized(stage, face)
    if spec.layout:
        stage = spec.layout.stage(stage, spec.ppi_for(source.header.ppi))
    encoder = encoder_for(spec)
    encoder.check(stage.size)
    needed = encoder.estimated_bytes(stage.size, stage.bands) + _SPARE_BYTES
    if free_bytes(path.parent) < needed:
        raise NoSpace(
            f"{called} needs about {needed / 1e9:.1f} GB and the disk has {free_bytes(path.parent) / 1e9:.1f}. "
            "Free some space or choose a smaller size."
        )
    try:
        with TemporaryDirectory(prefix=".kite-", dir=path.parent) as folder:
            finished = Path(folder) / path.name
            header = _told_further(source.header, spec, plan)
            inside = encoder.inside()
            # A PDF is written around a file that holds its picture.
            encoded = finished if inside is encoder else finished.with_suffix(inside.endings[0])
            profile = _written_and_checked(stage, encoded, header, inside, run, called)
            if encoded != finished:
                xmp = header.xmp if spec.metadata else None
                page = _page(encoded, face, stage.size, encoder, header, Path(called).stem, profile, xmp)
                write_pdf(encoded, page, finished, run)
                _sync(finished)
            run.check()
            finished.replace(path)
    except OSError as error:
        if error.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise _no_space(called) from error
        raise OutputError(f"{called} could not be written ({error.strerror}).") from error
    run.progress(1.0)


def free_bytes(folder: Path) -> int:
    """Bytes that can still be written in ``folder``."""
    return shutil.disk_usage(folder).free


def _no_space(called: str) -> NoSpace:
    return NoSpace(
        f"The disk is full: {called} could not be finished and nothing of it was left behind. "
        "Free some space and deliver again."
    )


def _written_and_checked(
    stage: Stage, path: Path, header: Header, encoder: Encoder, run: Run, called: str
) -> bytes | None:
    """Encode a stage into ``path`` and read it back; gives the profile inside."""
    # The rest of the progress is for what follows the pixels.
    watched = Run(run.cancelled, lambda done: run.progress(done * _SHARE_OF_RENDERING))
    reading_back = Run(
        run.cancelled, lambda done: run.progress(_SHARE_OF_RENDERING + done * (0.999 - _SHARE_OF_RENDERING))
    )
    conversion = Conversion.wanted_by(encoder.spec, header.profile, stage.bands)
    bits = 16 if conversion.changes else encoder.bits
    pixels = PixelSum()
    strips = render_strips(stage, lambda region: to_samples(region, bits), watched)
    stream = StripStream(pixels.passing(strips), stage.size, stage.bands, bits)
    profile = _encode(stream, path, header, encoder, conversion, called)
    flattened = encoder.flattens and has_alpha(stage.bands)
    exact = encoder.lossless and not conversion.changes and not flattened
    ppi = encoder.spec.ppi_for(header.ppi) if encoder.tags_ppi else None
    _sync(path)
    check_written(
        path, Meant(stage.size, encoder.bits, ppi, profile, str(pixels) if exact else None), reading_back, called
    )
    return profile


@dataclass(frozen=True)
class Conversion:
    """From the source's colour space to the one a file is to have."""

    #: The profile it is to have; None keeps the source's.
    wanted: bytes | None
    #: Whether pixels change.
    changes: bool

    @staticmethod
    def wanted_by(spec: OutputSpec, profile: bytes | None, bands: int) -> Conversion:
        """What ``spec`` asks of pixels in ``profile``. What has no profile is sRGB; grey without one stays grey."""
        if spec.profile == "keep":
            return Conversion(None, changes=False)
        wanted = srgb_profile() if spec.profile == "srgb" else profile_of(spec.profile)
        changes = profile is not None or (spec.profile != "srgb" and bands > 2)
        return Conversion(wanted, changes)


def _encode(
    stream: StripStream, path: Path, header: Header, encoder: Encoder, conversion: Conversion, called: str
) -> bytes | None:
    """Encode rendered strips as they come, with everything that travels beside the pixels; gives the profile inside."""
    spec, profile = encoder.spec, header.profile
    try:
        image = stream.open()
        image = image.copy(interpretation=interpretation(image.bands, 8 if image.format == "uchar" else 16))
        if conversion.wanted is not None:
            if conversion.changes:
                image = to_profile(
                    image, profile, conversion.wanted, encoder.bits, spec.intent, spec.black_point
                )  # fmt: skip
            profile = conversion.wanted if image.bands > 2 else None
        if encoder.flattens and has_alpha(image.bands):
            image = image.flatten(background=255 if image.format == "uchar" else 65_535)
        encoder.save(_with_metadata(image, profile, header, encoder), path)
        if spec.metadata and header.exif and not encoder.exif_by_libvips:
            exif_tags.add_to_tiff(path, header.exif)
        return profile
    except pyvips.Error as error:
        if stream.fault is not None:
            raise stream.fault from error
        reason = str(error).lower()
        if "space" in reason or "write" in reason or "too large" in reason:
            raise _no_space(called) from error
        raise OutputError(f"{called} could not be written ({str(error).strip().splitlines()[-1]}).") from error


def _with_metadata(image: pyvips.Image, profile: bytes | None, header: Header, encoder: Encoder) -> pyvips.Image:
    per_millimetre = encoder.spec.ppi_for(header.ppi) / MILLIMETRES_PER_INCH
    image = image.copy(xres=per_millimetre, yres=per_millimetre)
    for name in image.get_fields():
        if name.startswith(("exif-", "icc-profile")):
            image.remove(name)
    blobs = {"icc-profile-data": profile}
    if encoder.spec.metadata:
        blobs |= {"xmp-data": header.xmp, "iptc-data": header.iptc}
        if header.exif and encoder.exif_by_libvips:
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


def _page(
    encoded: Path, face: Size, size: Size, encoder: Encoder, header: Header, title: str, profile: bytes | None,
    xmp: bytes | None,
) -> Page:  # fmt: skip
    """The page of a PDF of ``size`` with a picture of ``face`` on it, which is encoded already."""
    spec = encoder.spec
    ppi, whole = spec.ppi_for(header.ppi), size.region
    trim, bleed = spec.layout.boxes(face, ppi) if spec.layout else (whole, whole)
    bands = pyvips.Image.new_from_file(str(encoded), access="sequential").bands
    profile = profile or (srgb_profile() if bands == 3 else grey_profile())
    now = datetime.now(UTC)
    return Page(
        size, bands, encoder.bits, ppi, trim, bleed, title, profile, profile_name(profile),
        for_print(xmp, title, now), now,
    )  # fmt: skip


def _told_further(header: Header, spec: OutputSpec, plan: Plan) -> Header:
    """The header as the finished file has it: with its history, and with or without where it was taken."""
    exif, xmp = header.exif, header.xmp
    if not spec.location:
        exif = replace(exif, place={})
        xmp = without_place(xmp) if xmp else None
    return replace(header, exif=exif, xmp=with_history(xmp, history(plan.steps)))


def _sync(path: Path) -> None:
    """Have the file on the disk before it gets its name, so that a power cut leaves all of it or nothing."""
    with path.open("rb") as file:
        os.fsync(file.fileno())
