"""Write the result of a plan to a file: exact pixels, profile, ppi and metadata, all or nothing."""

from __future__ import annotations

import errno
import os
import shutil
from collections.abc import Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pyvips

from kitecore.colour.icc import profile_name, srgb_profile
from kitecore.colour.spaces import grey_profile
from kitecore.delivery.encode import Encoder, PackingEncoder, encoder_for
from kitecore.delivery.finish import Finish, IntoFile, IntoNegative
from kitecore.delivery.pdf import Page, write_pdf
from kitecore.delivery.pieces import Packed, Piece
from kitecore.delivery.raster import Beside, Raster
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.tiff import Checksums, Packer
from kitecore.delivery.verify import ROWS, Meant, PixelSum, check_negative, check_written
from kitecore.errors import NoSpace, OutputError
from kitecore.files.exif import Exif
from kitecore.files.raw.dng import Negative
from kitecore.files.source import Header, Source
from kitecore.files.xmp import for_print, with_history, without_place
from kitecore.pipeline.geometry import Region, Size, grid
from kitecore.pipeline.meanwhile import used_meanwhile
from kitecore.pipeline.pixels import Samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage, resized
from kitecore.pipeline.stage_cache import CacheStage, uncached
from kitecore.pipeline.strips import AT_ONCE, Rendering, regions_of, render_strips, rendered_here
from kitecore.steps import Develop, history
from kitecore.takes.plan import Plan
from kitecore.takes.render import result_stage
from kitecore.takes.whole import whole_render

_SPARE_BYTES = 32 * 1024 * 1024
#: Of the time a delivery takes, for progress; the rest is reading back.
_SHARE_OF_RENDERING = 0.97


@dataclass(frozen=True)
class Prepared:
    """What the samples of a file are made from; of any of its regions they are the same wherever they are made."""

    stage: Stage
    finish: IntoFile
    #: The most that is rendered at once.
    tile: Size
    #: Of files whose parts can be made apart.
    packer: Packer | None
    negative: Negative | None
    #: About what the file needs on the disk at most.
    bytes: int

    def regions(self) -> list[Region]:
        """What pieces are made of, each by some machine: rows of full width where they can be packed apart."""
        if self.packer is None:
            return regions_of(self.stage.size, self.tile)
        rows = max(1, self.tile.height // self.packer.rows) * self.packer.rows
        return regions_of(self.stage.size, Size(self.stage.size.width, rows))

    def piece(self, region: Region, run: Run) -> Piece:
        """Of one of the regions. Raises Cancelled."""
        return self.samples(region, run) if self.packer is None else self.packed(self.packer, region, run)

    def samples(self, region: Region, run: Run) -> Samples:
        return self.finish(self.stage.render(region, run))

    def packed(self, packer: Packer, region: Region, run: Run) -> Packed:
        raster = packer.raster
        rows: Samples = np.empty((region.height, region.width, raster.bands), raster.dtype)
        for part, samples in rendered_here(self.samples, run, _across(region, self.tile), AT_ONCE):
            rows[:, part.x : part.right] = samples
        return packer.packed(rows, max(0, ROWS - region.y))


def _across(region: Region, tile: Size) -> list[Region]:
    """Rows of full width, cut from left to right."""
    return [part.moved(0, region.y) for part in grid(region.size, Size(tile.width, region.height))]


def prepared(plan: Plan, source: Source, spec: OutputSpec, called: str) -> Prepared:
    """All that is known before anything is rendered. Raises OutputError where the file cannot be that."""
    face = spec.face_size(plan.size)
    encoder = encoder_for(spec)
    inside = encoder.inside()

    def made(cache: CacheStage) -> Stage:
        stage = resized(result_stage(plan, source.stage(), cache=cache), face)
        return spec.layout.stage(stage, spec.ppi_for(source.header.ppi)) if spec.layout else stage

    plain = made(uncached)
    size, bands = plain.size, plain.bands
    encoder.check(size)
    needed, negative = encoder.estimated_bytes(size, bands) + _SPARE_BYTES, None
    finish: IntoFile = Finish.wanted_by(inside, source.header.profile, bands)
    if encoder.of_raws:
        negative = negative_of(plan, source, called)
        finish = IntoNegative(negative, source.header.profile)
    raster = Raster(size, finish.bands_of(bands), inside.bits)
    packer = inside.packer(raster) if isinstance(inside, PackingEncoder) else None
    # On paper rows lie elsewhere.
    rows = packer.rows if packer and not spec.layout else 1
    whole = whole_render(plan, source.stage().bands, face, rows=rows)
    stage = made(whole.cache)
    return Prepared(stage, finish, whole.tile, packer, negative, needed)


def write_result(
    plan: Plan, source: Source, spec: OutputSpec, path: Path, run: Run | None = None, called: str = "",
    rendering: Rendering | None = None,
) -> None:  # fmt: skip
    """Render ``plan`` on ``source`` and write it to ``path``, replacing what is there only once all is done.

    ``called`` is the name people know the file by, in sentences and as a PDF's title; the path's own unless given.

    Memory does not grow with the picture: strips are rendered while those before them are encoded; by ``rendering``, which may
    have :func:`prepared` regions made elsewhere, or here.

    The finished file is read back before it gets its name: its size, depth, profile and ppi, and where its format is
    lossless, every sample.

    Raises Cancelled, NoSpace, OutputError; then no file remains.
    """
    run, called = run or Run(), called or path.name
    face, encoder = spec.face_size(plan.size), encoder_for(spec)
    ready = prepared(plan, source, spec, called)
    stage, needed = ready.stage, ready.bytes
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
            profile = _written_and_checked(ready, encoded, header, inside, run, called, rendering)
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
    ready: Prepared, path: Path, header: Header, encoder: Encoder, run: Run, called: str, rendering: Rendering | None
) -> bytes | None:
    """Encode what is ready into ``path`` and read it back; gives the profile inside."""
    stage, finish, negative = ready.stage, ready.finish, ready.negative
    # The rest of the progress is for what follows the pixels.
    watched, reading_back = run.between(0, _SHARE_OF_RENDERING), run.between(_SHARE_OF_RENDERING, 0.999)
    raster = Raster(stage.size, finish.bands_of(stage.bands), encoder.bits)
    profile, ppi = finish.profile_in_file(raster.bands), encoder.spec.ppi_for(header.ppi)
    kept = header if encoder.spec.metadata else replace(header, exif=Exif(), xmp=None, iptc=None)
    beside = Beside(profile, ppi, kept.exif, kept.xmp, kept.iptc, negative)
    pixels = PixelSum(ROWS if ready.packer else None)

    def encode(strips: Iterator[Samples]) -> Checksums | None:
        return encoder.save(pixels.passing(strips) if encoder.lossless else strips, raster, beside, path)

    parts: Checksums | None
    try:
        if rendering and ready.packer and isinstance(encoder, PackingEncoder):
            bands = _packed(ready, ready.packer, watched, rendering)
            parts = used_meanwhile(bands, partial(_joined, encoder, pixels, raster, beside, path), run)
        else:
            parts = used_meanwhile(render_strips(stage, finish, watched, ready.tile, rendering), encode, run)
    except pyvips.Error as error:
        reason = str(error).lower()
        if "space" in reason or "write" in reason or "too large" in reason:
            raise _no_space(called) from error
        raise OutputError(f"{called} could not be written ({str(error).strip().splitlines()[-1]}).") from error
    _sync(path)
    meant = Meant(
        stage.size, encoder.bits, ppi if encoder.tags_ppi else None, profile,
        str(pixels) if encoder.lossless else None, parts,
    )  # fmt: skip
    (check_negative if negative else check_written)(path, meant, reading_back, called)
    return profile


def _packed(ready: Prepared, packer: Packer, run: Run, rendering: Rendering) -> Iterator[Packed]:
    """All rows from top to bottom, as parts of the file; rows of full width are large, and made one after the other."""
    for region, packed in rendering(partial(ready.packed, packer), run, ready.regions(), 1):
        run.progress(region.bottom / ready.stage.size.height)
        yield packed


def _joined(
    encoder: PackingEncoder, pixels: PixelSum, raster: Raster, beside: Beside, path: Path, bands: Iterator[Packed]
) -> Checksums:
    return encoder.save(pixels.passing(bands), raster, beside, path)


def negative_of(plan: Plan, source: Source, called: str) -> Negative:
    """What a linear DNG of a result says of its samples. Raises OutputError if the source is no camera raw."""
    if source.raw is None:
        raise OutputError(f"{called} cannot be a linear DNG: {source.name} is no camera raw. Deliver as TIFF.")
    camera = source.raw.camera
    develop = next((step for step in plan.steps if isinstance(step, Develop)), Develop())
    return Negative(camera, develop.multipliers(camera), source.facts.camera or "Camera")


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
