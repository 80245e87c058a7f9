"""The reading: what is measured in a picture before anything is done to it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import cv2
import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, Field

from kitecore.faces import find_faces
from kitecore.files.damage import signs_of_damage
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.luma import LUMA
from kitecore.pipeline.pixels import Pixels, colours_of
from kitecore.pipeline.run import Run
from kitecore.reading.blur import BlurFound, blur_of
from kitecore.reading.compression import compression_of
from kitecore.reading.enlargement import enlargement_of
from kitecore.reading.kind import kind_of
from kitecore.reading.noise import grain_of, noise_of

#: Raised whenever the same picture begins to read differently.
READING_REVISION = 7

#: Pictures of more pixels than this are read in evenly spread windows of this side.
_WHOLE, _WINDOW, _WINDOWS = 3_000_000, 512, 12
#: Distant faces are looked for in pictures of at most so many pixels.
_FOR_FACES = 8_000_000

#: R'G'B' to luma and colour differences, as JPEG has them.
YCC = np.array([LUMA, [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]], np.float32)

Confidence = float


class PixelsReading(BaseModel):
    width: int
    height: int


class NoiseReading(BaseModel):
    luminance: float = Field(description="σ of luma on a scale of 0 to 255.")
    luminance_confidence: Confidence
    confidence: Confidence = Field(description="The lesser of the two.")
    grain: float = Field(default=0, description="σ of luma's noise with what is too wide to count as noise of pixels.")
    grain_colour: float = Field(default=0, description="The same of the colour differences.")
    grain_px: float = Field(default=0.2, description="How wide luma's is: σ of the blur that white noise went through.")
    colour: float = Field(description="σ of the colour differences, on the same scale.")
    colour_confidence: Confidence


class BlurReading(BaseModel):
    kind: Literal["none", "focus", "motion", "soft"]
    size_px: float = Field(description="Radius of missed focus, length of movement, σ of softness.")
    angle_deg: float = Field(description="Of movement, counter-clockwise from level, 0 to 180.")
    confidence: Confidence


class CompressionReading(BaseModel):
    quality: int | None = Field(description="JPEG quality, 1 to 100; null where there is no trace of compression.")
    grid: tuple[int, int] | None = Field(description="Where the block grid begins, px from the upper left corner.")
    confidence: Confidence


class ClippedReading(BaseModel):
    """Share of samples at the ends of their range, per channel, 0..1."""

    shadows: list[float]
    highlights: list[float]
    confidence: Confidence


class FaceReading(BaseModel):
    """A face, told by its middle, its width, and where eyes and mouth are, in pixels of the source."""

    x: float
    y: float
    width_px: float
    turn_deg: float = Field(description="How far it is bent to its side, clockwise on the screen.")
    eyes: tuple[tuple[float, float], tuple[float, float]] = Field(
        description="First the one farther left in the picture."
    )
    mouth: tuple[float, float]
    confidence: Confidence
    sure: bool = Field(description="Whether it is hardly anything else.")


class Reading(BaseModel):
    """Everything that was measured. Each value comes with how far it is to be trusted, 0..1."""

    pixels: PixelsReading
    damage: list[str] = Field(
        default=[], description="How the file is damaged, and what looks as if it were, in words without a full stop."
    )
    noise: NoiseReading
    blur: BlurReading
    compression: CompressionReading
    enlarged_by: float = Field(description="1.0 where the picture was not enlarged before.")
    enlarged_by_confidence: Confidence
    clipped: ClippedReading
    kind: Literal["photo", "drawing", "render", "texture"]
    kind_confidence: Confidence
    faces: list[FaceReading] = Field(default=[], description="Largest first.")
    raw: bool = Field(
        default=False, description="Whether it is a camera raw: its noise is its sensor's, never the grain of a film."
    )


def windows(size: Size) -> list[Region]:
    """The whole of small pictures; of large ones, evenly spread windows that begin on multiples of eight pixels."""
    if size.pixels <= _WHOLE:
        return [size.region]
    across = max(1, min(4, size.width // _WINDOW))
    down = max(1, min(_WINDOWS // across, size.height // _WINDOW))
    width, height = min(_WINDOW, size.width), min(_WINDOW, size.height)

    def starts(length: int, side: int, count: int) -> list[int]:
        return [round((index + 0.5) * length / count - side / 2) // 8 * 8 for index in range(count)]

    return [
        Region(max(0, x), max(0, y), width, height)
        for y in starts(size.height, height, down)
        for x in starts(size.width, width, across)
    ]


def read_picture(source: Source, run: Run, progress: Callable[[float], None] = lambda _: None) -> Reading:
    """Measure a picture. Noise, blur, compression and true resolution from its pixels; see each module for how.

    ``progress`` is told the share that is done, 0..1.
    """
    stage = source.stage()
    parts = []
    for window in windows(source.size):
        run.check()
        parts.append(colours_of(stage.render(window, run)))
    planes = [_planes(part) for part in parts]
    grey = [part[0] for part in planes]
    luminance, luminance_confidence = noise_of(grey, grey)
    colour, colour_confidence = _colour_noise(planes)
    grain, grain_px = grain_of(grey, grey)
    differences = [grain_of([part[index] for part in planes], grey)[0] for index in range(1, len(planes[0]))]
    grain_colour = float(np.sqrt(np.mean(np.square(differences)))) if differences else 0.0
    run.check()
    progress(0.3)
    compression = compression_of(grey)
    # A file tells its own quality; what was compressed before and saved again as something else shows it in its pixels.
    told = source.facts.quality
    run.check()
    progress(0.4)
    enlargement = enlargement_of(grey, gridded=compression.quality is not None)
    run.check()
    progress(0.6)
    blur = _blur(grey, luminance, enlargement.factor)
    overview = _overview(source, _WHOLE, run)
    kind, kind_confidence = kind_of(_planes(overview)[0], luminance)
    progress(0.7)
    faces = _faces(_overview(source, _FOR_FACES, run), source.size, run)
    gridded = compression.quality is not None
    signs = signs_of_damage(stage, run) if _may_hide_damage(source, kind) else []
    return Reading(
        pixels=PixelsReading(width=source.size.width, height=source.size.height),
        damage=[*filter(None, [source.facts.damaged]), *signs],
        raw=source.raw is not None,
        noise=NoiseReading(
            luminance=round(luminance, 2), luminance_confidence=round(luminance_confidence, 2),
            confidence=round(min(luminance_confidence, colour_confidence), 2),
            grain=round(grain, 2), grain_px=round(grain_px, 2), grain_colour=round(grain_colour, 2),
            colour=round(colour, 2), colour_confidence=round(colour_confidence, 2),
        ),
        blur=BlurReading(
            kind=blur.kind, size_px=round(blur.size, 2), angle_deg=round(blur.angle, 1), confidence=round(blur.confidence, 2)
        ),
        compression=CompressionReading(
            quality=told if told is not None else compression.quality,
            grid=(0, 0) if told is not None else (compression.x, compression.y) if gridded else None,
            confidence=0.99 if told is not None else round(compression.confidence, 2),
        ),
        enlarged_by=enlargement.factor, enlarged_by_confidence=round(enlargement.confidence, 2),
        clipped=_clipped(source, parts),
        kind=kind, kind_confidence=round(kind_confidence, 2), faces=faces,
    )  # fmt: skip


def _clipped(source: Source, parts: list[Pixels]) -> ClippedReading:
    pixels = np.concatenate([part.reshape(-1, part.shape[2]) for part in parts])
    shadows, highlights = (pixels <= 0).mean(axis=0).tolist(), (pixels >= 1).mean(axis=0).tolist()
    if source.raw:
        # What its sensor could not hold, though it may have been made up for.
        shadows, highlights = source.raw.clipped()
    return ClippedReading(
        shadows=[round(share, 5) for share in shadows], highlights=[round(share, 5) for share in highlights],
        confidence=1.0 if source.raw or source.size.pixels <= _WHOLE else 0.9,
    )  # fmt: skip


def _blur(grey: list[npt.NDArray[np.float32]], noise: float, enlarged_by: float) -> BlurFound:
    """The blur at the picture's true resolution, told in its pixels: what enlarging softened is not blur."""
    if enlarged_by > 1.2:
        shrink = 1 / enlarged_by
        sizes = [(max(1, round(plane.shape[1] * shrink)), max(1, round(plane.shape[0] * shrink))) for plane in grey]
        grey = [_shrunk(plane, size) for plane, size in zip(grey, sizes, strict=True)]
    found = blur_of(grey, max(noise, 0.3) / 255)
    return replace(found, size=found.size * max(1.0, enlarged_by))


def _shrunk(plane: npt.NDArray[np.float32], size: tuple[int, int]) -> npt.NDArray[np.float32]:
    return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32)


def _planes(colours: Pixels) -> list[npt.NDArray[np.float32]]:
    """Luma and two colour differences; of grey pictures, luma alone."""
    if colours.shape[2] < 3:
        return [np.ascontiguousarray(colours[..., 0])]
    return [np.ascontiguousarray(plane) for plane in np.moveaxis(colours @ YCC.T, 2, 0)]


def _colour_noise(planes: list[list[npt.NDArray[np.float32]]]) -> tuple[float, float]:
    """Root mean square over both colour differences; (0, 1) of grey pictures."""
    if len(planes[0]) == 1:
        return 0.0, 1.0
    grey = [part[0] for part in planes]
    found = [noise_of([part[index] for part in planes], grey) for index in (1, 2)]
    return float(np.sqrt(np.mean([sigma**2 for sigma, _ in found]))), min(confidence for _, confidence in found)


def _may_hide_damage(source: Source, kind: str) -> bool:
    """Parts of a PNG have checksums, and drawings jump in tone by themselves."""
    return source.facts.format != "PNG" and kind != "drawing"


def _overview(source: Source, most: int, run: Run) -> Pixels:
    """The whole picture, H×W×1 or 3, halved until it has at most so many pixels."""
    stage = source.stage(source.size.halved_until(most))
    return colours_of(stage.render(stage.size.region, run))


def _faces(overview: Pixels, size: Size, run: Run) -> list[FaceReading]:
    scale = size.width / overview.shape[1]

    def told(place: Place) -> tuple[float, float]:
        return round(place.x * scale, 1), round(place.y * scale, 1)

    return [
        FaceReading(
            x=told(face.middle)[0], y=told(face.middle)[1], width_px=round(face.width * scale, 1),
            turn_deg=round(math.degrees(face.square.turn), 1), eyes=(told(face.eyes[0]), told(face.eyes[1])),
            mouth=told(face.mouth), confidence=round(face.score, 2), sure=face.sure,
        )
        for face in find_faces(overview, run)
    ]  # fmt: skip


__all__ = ["READING_REVISION", "Reading", "read_picture", "windows"]
