"""A raw as it is worked with: what it says of itself, and its developed samples, made when they are first asked for."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from collections.abc import Callable
from functools import cached_property
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pyvips
from pydantic import BaseModel, Field

from kitecore.files import exif as exif_tags
from kitecore.files.exif import Exif
from kitecore.files.raw.camera import WIDE, Camera, WideSpace, wide_profile
from kitecore.files.raw.decoded import DecodedFolder
from kitecore.files.raw.developing import REVISION, Progress, Way, develop
from kitecore.files.raw.lenses import Exposed, found_lens
from kitecore.files.raw.sniff import raw_format
from kitecore.files.raw.unpacking import Sensor, camera_jpeg, look, unpack
from kitecore.files.reductions import Reductions
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples
from kitecore.pipeline.stage import SampleStage
from kitecore.settings import settings

_MAKER, _MODEL, _LENS = 271, 272, 0xA434
_MOST_WAYS = 3
#: From this share of a sensor's white value on it is taken for full.
_FULL = 0.985
#: How far the shape of the camera's own JPEG may be from that of the raw.
_MOST_UNLIKE = 0.03


class RawFacts(BaseModel):
    """What a raw says of its sensor."""

    bits: int = Field(description="Bits that the sensor's values have.")
    black: float = Field(description="Value of the sensor without light.")
    white: float = Field(description="Value from which on it is full.")
    mosaic: bool = Field(description="Whether each pixel has one colour alone.")
    measured: bool = Field(
        description="Whether the file tells how its camera sees colours; else they are taken as they are."
    )
    kelvin: float = Field(description="The white balance it was shot with.")
    tint: float
    lens_profile: str | None = Field(description="The profile of its lens, where the lens database has one.")


class RawPicture:
    """A raw of ``path``. Raises PictureError if it cannot be read.

    ``space`` is what it is developed to. ``folder`` holds developed samples where no lasting place is set; ``held`` puts a
    reduced version where it can be read from.
    """

    def __init__(self, path: Path, name: str, form: str, space: WideSpace = WIDE) -> None:
        self.path, self.name, self.format = path, name, form
        self.sensor: Sensor = look(path, name)
        self.camera = Camera.of(self.sensor, space)
        self._lock = threading.Lock()
        self._ways: OrderedDict[Way, Reductions] = OrderedDict()

    @property
    def size(self) -> Size:
        return self.sensor.size

    @cached_property
    def exif(self) -> Exif:
        """From its own directories, or those of the camera's JPEG inside it."""
        found = exif_tags.from_tiff(self.path)
        if not found.main:
            content = camera_jpeg(self.path, self.name)
            if content:
                try:
                    image = pyvips.Image.new_from_buffer(content, "")
                    found = exif_tags.from_block(image.get("exif-data")) if image.get_typeof("exif-data") else found
                except pyvips.Error:
                    pass
        return found

    @cached_property
    def exposed(self) -> Exposed:
        main, photo = self.exif.main, self.exif.photo

        def text(entries: dict[int, exif_tags.Entry], tag: int) -> str | None:
            value = entries[tag].value if tag in entries else None
            return value if isinstance(value, str) and value else None

        return Exposed(
            text(main, _MAKER), text(main, _MODEL), text(photo, _LENS) or self.sensor.lens,
            self.sensor.focal_mm, self.sensor.aperture,
        )  # fmt: skip

    @cached_property
    def lens(self) -> str | None:
        """The profile of its lens; None if the database has none."""
        return found_lens(self.exposed)

    @property
    def usual(self) -> Way:
        """How it is developed unless somebody wants it otherwise."""
        return Way(lens=self.lens or "")

    @cached_property
    def facts(self) -> RawFacts:
        sensor = self.sensor
        kelvin, tint = self.camera.temperature(sensor.as_shot)
        return RawFacts(
            bits=sensor.bits, black=round(sensor.black[1], 2), white=sensor.white, mosaic=sensor.pattern is not None,
            measured=sensor.measured, kelvin=round(kelvin), tint=round(tint, 1), lens_profile=self.lens,
        )  # fmt: skip

    @cached_property
    def _sha256(self) -> str:
        with self.path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()

    def clipped(self) -> tuple[list[float], list[float]]:
        """Shares of each colour's samples that have no light, and that could hold no more. Raises PictureError."""
        sensor, samples = unpack(self.path, self.name)
        planes: list[list[npt.NDArray[np.uint16]]] = [[], [], []]
        if sensor.pattern is None:
            planes = [[samples[..., band] if samples.ndim == 3 else samples] for band in range(3)]
        for row, colours in enumerate(sensor.pattern or ()):
            for column, colour in enumerate(colours):
                planes[colour].append(samples[row::2, column::2])
        full = [black + _FULL * (sensor.white - black) for black in sensor.black]

        def shares(marked: Callable[[npt.NDArray[np.uint16], int], npt.NDArray[np.bool_]]) -> list[float]:
            return [float(np.mean([marked(part, band).mean() for part in parts])) for band, parts in enumerate(planes)]

        dark = shares(lambda part, band: part <= sensor.black[band])
        return dark, shares(lambda part, band: part >= full[band])

    def check(self) -> None:
        """Read all of it once. Raises PictureError with a sentence if it is broken."""
        unpack(self.path, self.name)

    def camera_picture(self) -> pyvips.Image | None:
        """The JPEG the camera put into it, upright, in sRGB; None if there is none, or of another shape."""
        content = camera_jpeg(self.path, self.name)
        try:
            image = pyvips.Image.new_from_buffer(content, "").autorot() if content else None
        except pyvips.Error:
            return None
        if image is None or image.bands != 3:
            return None
        if (image.width > image.height) != (self.size.width > self.size.height):
            image = image.rot90() if self.sensor.flip == 6 else image.rot270()
        shape, wanted = image.width / image.height, self.size.width / self.size.height
        return image if abs(shape / wanted - 1) < _MOST_UNLIKE else None

    def samples(self, way: Way, folder: Path) -> Samples:
        """Its colours, H×W×3, coded in the wide space, as shot: kept for all processes where there is a place for that.

        Raises PictureError and NoSpace.
        """
        shape = (self.size.height, self.size.width, 3)

        def make(result: Samples, progress: Progress) -> None:
            develop(self.path, self.name, way, self.exposed, self.camera.space, result, progress)

        return self._store(folder).get(self._key(way), shape, make)

    def developing(self, way: Way, folder: Path) -> float | None:
        """How far developing it is, 0..1, whichever process does it; None if nobody does."""
        return self._store(folder).share(self._key(way))

    def _store(self, folder: Path) -> DecodedFolder:
        given = settings()
        return DecodedFolder(given.decoded or folder / "decoded", given.decoded_gigabytes * 1e9)

    def _key(self, way: Way) -> str:
        told = f"{self._sha256} {REVISION} {way.quality} {way.lens}"
        if self.camera.space != WIDE:
            told += f" {self.camera.space}"
        return hashlib.sha256(told.encode()).hexdigest()

    def reduced(self, way: Way, level: int, folder: Path, held: Callable[[pyvips.Image], Samples]) -> Samples:
        """The same at a level, by averaging."""
        with self._lock:
            if way not in self._ways:
                self._ways[way] = Reductions(self.size, lambda: self.samples(way, folder), held)
            self._ways.move_to_end(way)
            while len(self._ways) > _MOST_WAYS:
                self._ways.popitem(last=False)
            found = self._ways[way]
        return found.at(level)


class RawStage(SampleStage):
    """A raw at a level as it is usually developed; other ways can be asked for."""

    def __init__(self, samples: Samples, raw: RawPicture, other: Callable[[Way], Samples]) -> None:
        super().__init__(samples, wide_profile(raw.camera.space))
        self.raw, self._other = raw, other

    def developed(self, way: Way) -> SampleStage:
        """The same developed in another way. Raises as :meth:`RawPicture.samples`."""
        return self if way == self.raw.usual else SampleStage(self._other(way), self.profile)


def raw_picture(path: Path, name: str, space: WideSpace = WIDE) -> RawPicture | None:
    """The raw a file is; None if it is something else. Raises PictureError if it cannot be read."""
    if not path.is_file():
        return None
    with path.open("rb") as file:
        form = raw_format(path, file.read(32))
    return RawPicture(path, name, form, space) if form else None
