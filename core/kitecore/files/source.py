"""Read a picture file: check it, tell its facts, decode it once, give any region of it."""

from __future__ import annotations

import weakref
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyvips
from pydantic import BaseModel, Field

from kitecore.colour.icc import profile_name
from kitecore.errors import DamagedPicture, NoSpace, PictureError
from kitecore.files import exif as exif_tags
from kitecore.files.damage import broken_parts
from kitecore.files.exif import Exif
from kitecore.files.float_range import facts_of_range
from kitecore.files.jpeg_quality import quality_of_file
from kitecore.files.opening import DTYPES, check_pixels, check_size, normalised, open_image, reason_of
from kitecore.files.raw.camera import WIDE, WideSpace, wide_profile
from kitecore.files.raw.developing import Way
from kitecore.files.raw.picture import RawFacts, RawPicture, RawStage, raw_picture
from kitecore.files.reductions import Keep, Reductions
from kitecore.files.resolution import tagged_ppi
from kitecore.files.scratch import ScratchFolder
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples
from kitecore.pipeline.stage import SampleStage

#: Decoded pictures up to this many bytes are held in memory, larger ones in a mapped file.
_MOST_IN_MEMORY = 256 * 1024 * 1024
_ENDINGS = {"JPEG": {".jpg", ".jpeg", ".jpe"}, "PNG": {".png"}, "TIFF": {".tif", ".tiff"}, "WebP": {".webp"}}
#: Samples of a pixel by what :class:`Facts` calls its colour.
BANDS = {"grey": 1, "grey with alpha": 2, "RGB": 3, "RGB with alpha": 4}


class Facts(BaseModel):
    """What a file says about itself; sizes after its orientation has been applied."""

    format: str
    width: int
    height: int
    megapixels: float
    bits: int = Field(description="Bits per sample; 32 is floating point.")
    colour: str = Field(description="RGB or grey, with or without alpha.")
    profile: str | None = Field(description="Name of the embedded ICC profile; None means sRGB is assumed.")
    ppi: float | None = Field(description="Pixels per inch the file is tagged with.")
    bytes: int
    print_width_cm: float = Field(description="Width of the print this file carries at 300 ppi.")
    print_height_cm: float
    camera: str | None = None
    lens: str | None = None
    iso: int | None = None
    aperture: float | None = None
    exposure_s: float | None = None
    focal_mm: float | None = None
    taken: str | None = None
    quality: int | None = Field(default=None, description="Quality a JPEG file was written at, from its own tables.")
    notes: list[str] = Field(default_factory=list, description="What was done to the file while reading it.")
    lowest: float | None = Field(default=None, description="Of the colours of floating-point files: the least value,")
    highest: float | None = Field(default=None, description="and the greatest; 0 is black and 1 white.")
    white_ev: float | None = Field(
        default=None,
        description="The exposure that brings the greatest value to white once the least is black, EV; null if none is above.",
    )
    damaged: str | None = Field(
        default=None, description="How the file is damaged, where it was taken in all the same."
    )
    raw: RawFacts | None = Field(default=None, description="Of a camera raw: what it says of its sensor.")


@dataclass(frozen=True)
class Header:
    """What travels beside the pixels into the finished file."""

    profile: bytes | None
    exif: Exif
    xmp: bytes | None
    iptc: bytes | None
    ppi: float | None


def _blob(image: pyvips.Image, name: str) -> bytes | None:
    return bytes(image.get(name)) if image.get_typeof(name) else None


def _header(image: pyvips.Image, path: Path, form: str) -> Header:
    block = _blob(image, "exif-data")
    tags = exif_tags.from_tiff(path) if form == "TIFF" else exif_tags.from_block(block) if block else Exif()
    # A profile that does not belong to these channels (CMYK's, after conversion) has been dropped by libvips.
    return Header(
        profile=_blob(image, "icc-profile-data"),
        exif=tags,
        xmp=_blob(image, "xmp-data"),
        iptc=_blob(image, "iptc-data"),
        ppi=tagged_ppi(image, path, form, block),
    )


@dataclass(frozen=True)
class _Seen:
    """What is told of the pixels of a file."""

    size: Size
    bits: int
    bands: int


def _facts(seen: _Seen, path: Path, form: str, header: Header, notes: list[str]) -> Facts:
    photo, main, width, height = header.exif.photo, header.exif.main, seen.size.width, seen.size.height

    def number(tag: int) -> float | None:
        value = photo[tag].value if tag in photo else None
        if isinstance(value, list):
            value = value[0] if value else None
        return round(float(value), 6) if isinstance(value, int | float) and value else None

    def text(entries: dict[int, exif_tags.Entry], tag: int) -> str | None:
        value = entries[tag].value if tag in entries else None
        return value if isinstance(value, str) and value else None

    maker, model = text(main, 271), text(main, 272)
    camera = model if model and maker and model.startswith(maker) else " ".join(p for p in (maker, model) if p) or None
    iso = number(0x8827)
    colour = next(name for name, bands in BANDS.items() if bands == seen.bands)
    return Facts(
        format=form, width=width, height=height, megapixels=round(width * height / 1e6, 2), bits=seen.bits, colour=colour,
        profile=profile_name(header.profile) if header.profile else None,
        ppi=header.ppi, bytes=path.stat().st_size,
        print_width_cm=round(width / 300 * 2.54, 1), print_height_cm=round(height / 300 * 2.54, 1),
        camera=camera, lens=text(photo, 0xA434), iso=int(iso) if iso else None, aperture=number(0x829D),
        exposure_s=number(0x829A), focal_mm=number(0x920A), taken=text(photo, 0x9003), notes=notes,
        quality=quality_of_file(path) if form == "JPEG" else None,
    )  # fmt: skip


def _read(path: Path, name: str, damaged: bool = False) -> tuple[pyvips.Image, Facts, Header]:
    """The normalised, still lazy image with its facts and header."""
    notes: list[str] = []
    image, form = open_image(path, name, damaged)
    ending = Path(name).suffix.lower()
    if ending and ending not in _ENDINGS[form]:
        notes.append(f"The name ends in {ending} but the file is a {form}; it was read as what it is.")
    check_size(image, path, name)
    if image.get_typeof("n-pages") and image.get("n-pages") > 1:
        notes.append(f"Of {image.get('n-pages')} pages only the first was read.")
    try:
        upright = normalised(image, name, notes)
    except pyvips.Error as error:
        raise PictureError(f"The colours of {name} cannot be read ({reason_of(error, path)}).") from error
    header = _header(upright, path, form)
    bits = {"uchar": 8, "ushort": 16, "float": 32}[upright.format]
    seen = _Seen(Size(upright.width, upright.height), bits, upright.bands)
    return upright, _facts(seen, path, form, header, notes), header


def _read_raw(raw: RawPicture) -> tuple[Facts, Header]:
    """Facts and header of a raw; its colours are those of the wide space, 16 bit or more."""
    sensor, notes = raw.sensor, []
    check_pixels(raw.size, raw.name)
    header = Header(profile=wide_profile(raw.camera.space), exif=raw.exif, xmp=None, iptc=None, ppi=None)
    if sensor.interpolated:
        notes.append("Its mosaic is of a kind that LibRaw interpolates.")
    if not sensor.measured:
        notes.append("It does not tell how its camera sees colours; they are taken for those of sRGB.")
    facts = _facts(_Seen(raw.size, 16, 3), raw.path, raw.format, header, notes)
    told = {"iso": sensor.iso, "aperture": sensor.aperture, "exposure_s": sensor.exposure_s, "focal_mm": sensor.focal_mm,
            "lens": sensor.lens}  # fmt: skip
    missing = {name: value for name, value in told.items() if getattr(facts, name) is None and value}
    return facts.model_copy(update={**missing, "raw": raw.facts}), header


def read_facts(path: Path, name: str | None = None, damaged: bool = False) -> Facts:
    """Facts of a file from its header, quickly; the pixels are not looked at. ``name`` is what messages call it.

    Raises PictureError or TooLarge.
    """
    raw = raw_picture(path, name or path.name)
    return _read_raw(raw)[0] if raw else _read(path, name or path.name, damaged)[1]


class Source:
    """A picture, its facts and header. Close it (or use ``with``) to drop its working file.

    Parameters
    ----------
    path
        The file; only ever read.
    scratch
        Folder for the decoded samples of large pictures and their reduced versions; made if it is not there.
    damaged
        Whether as much as can be read of a damaged file is taken; its facts then say how it is damaged.
    keep
        Has or is given reduced versions. Only of a file that was decoded before without complaint: it is decoded again no
        sooner than pixels are asked for that are finer than those.
    space
        What a camera raw is developed to; other files have their own.

    Raises DamagedPicture if some of it cannot be decoded, PictureError if none of it can, TooLarge beyond the pixel
    limit, NoSpace if the disk fills.
    """

    def __init__(
        self, path: Path, scratch: Path | None = None, name: str | None = None, damaged: bool = False,
        keep: Keep | None = None, space: WideSpace = WIDE,
    ) -> None:  # fmt: skip
        self._path, self.name = path, name or path.name
        begun: DamagedPicture | None = None
        self._raw = raw_picture(path, self.name, space)
        try:
            if self._raw:
                self.facts, self.header = _read_raw(self._raw)
            else:
                image, self.facts, self.header = _read(path, self.name)
        except DamagedPicture as error:
            if not damaged:
                raise
            begun = error
            image, facts, self.header = _read(path, self.name, damaged=True)
            self.facts = facts.model_copy(update={"damaged": begun.damage})
        self._folder = ScratchFolder(scratch)
        # One that nobody closed goes with its last user.
        self._drop = weakref.finalize(self, self._folder.close)

        def whole() -> Samples:
            if self._raw:
                return self._raw.samples(self._raw.usual, self._folder.path)
            return self._decoded(image) if begun else self._whole(image, damaged)

        def worth_keeping() -> Keep | None:
            # What is wrong with a file, and how far its values reach, only all of its pixels tell.
            return None if self.facts.damaged or self.facts.bits == 32 else keep

        try:
            self._reductions = Reductions(self.size, whole, self._decoded, worth_keeping, later=self._raw is not None)
            if self.facts.bits == 32:
                found = facts_of_range(self.facts.notes, self._reductions.at(0), self.header.profile)
                self.facts = self.facts.model_copy(update=found)
        except BaseException:
            self._drop()
            raise

    def _whole(self, image: pyvips.Image, damaged: bool) -> Samples:
        try:
            if self.facts.format == "TIFF" and (broken := broken_parts(self._path)):
                raise DamagedPicture(self.name, broken)
            return self._decoded(image)
        except DamagedPicture as error:
            if not damaged:
                raise
            image, facts, self.header = _read(self._path, self.name, damaged=True)
            self.facts = facts.model_copy(update={"damaged": error.damage})
            return self._decoded(image)

    @property
    def size(self) -> Size:
        return Size(self.facts.width, self.facts.height)

    @property
    def decoded(self) -> bool:
        """Whether its file is not needed any more, having been decoded."""
        return self._raw is None and self._reductions.decoded

    @property
    def raw(self) -> RawPicture | None:
        """The camera raw it is, developed no sooner than its pixels are asked for; None if it is none."""
        return self._raw

    def developing(self, way: Way) -> float | None:
        """How far developing the raw in a way is, 0..1, whichever process does it; None if nobody does."""
        return self._raw.developing(way, self._folder.path) if self._raw else None

    @property
    def bands(self) -> int:
        return BANDS[self.facts.colour]

    def _decoded(self, image: pyvips.Image) -> Samples:
        shape = (image.height, image.width, image.bands)
        dtype = np.dtype(DTYPES[image.format])
        try:
            if image.width * image.height * image.bands * dtype.itemsize <= _MOST_IN_MEMORY:
                return np.ndarray(shape, dtype, image.write_to_memory())
            raw = self._folder.path / f"{len(list(self._folder.path.iterdir()))}.raw"
            image.rawsave(str(raw))
            return np.memmap(raw, dtype, "r", shape=shape)
        except pyvips.Error as error:
            if "No space left" in str(error) or "write error" in str(error):
                raise NoSpace(
                    f"The disk is full; {self.name} could not be opened. Free some space and try again."
                ) from error
            raise DamagedPicture(
                self.name, f"it breaks off or is broken inside ({reason_of(error, self._path)})"
            ) from error
        except OSError as error:
            raise NoSpace(
                f"The disk is full; {self.name} could not be opened. Free some space and try again."
            ) from error

    def stage(self, level: int = 0) -> SampleStage:
        """The picture at a level (by averaging), made when it is first asked for; by any thread."""
        samples, raw = self._reductions.at(level), self._raw
        if raw is None:
            return SampleStage(samples, self.header.profile)
        return RawStage(samples, raw, lambda way: raw.reduced(way, level, self._folder.path, self._decoded))

    def keep(self, keep: Keep) -> None:
        """Give ``keep`` what a later opening can begin with."""
        if self.facts.damaged is None and self.facts.bits < 32:
            self._reductions.keep(keep)

    def close(self) -> None:
        self._reductions.clear()
        self._drop()

    def __enter__(self) -> Source:
        return self

    def __exit__(self, *exception: object) -> None:
        self.close()
