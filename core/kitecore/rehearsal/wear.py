"""Wear: a clean picture made soft, noisy and compressed as much as another one was read to be."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np

from kitecore.filters.psf import Kernel, disc
from kitecore.pipeline.luma import LUMA, luma
from kitecore.pipeline.pixels import Pixels, Samples, from_samples, to_samples
from kitecore.reading import YCC, Reading
from kitecore.reading.noise import noise_of
from kitecore.steps.deblur import FocusBlur, MotionBlur, SoftBlur
from kitecore.takes.suggestion import SURE

#: What noise of its own in each channel gives in luma and in a colour difference.
_IN_LUMA = float((LUMA**2).sum())
_IN_COLOUR = float((YCC[1:] ** 2).sum(axis=1).mean())
#: Noise narrower than this, as σ of a blur in px, differs from pixel to pixel.
_NARROW = 0.35
#: Compression takes noise away; it is put back by at most so much.
_MOST_STRONGER = 2.5
#: Blur of which the reading is not sure is there as often as not.
_AS_LIKELY_AS_NOT = 0.5
#: From this confidence on a blur is taken for certain.
_SURE_OF_BLUR = 0.85
#: σ of 255 of colour below which there is none, of luma below which noise may be texture, and how likely it is then.
_LEAST_COLOUR, _STRONG, _MAY_BE_TEXTURE = 1.3, 6.0, 0.6
#: In a file of less than this quality a blur of less than so many px is rather what compression took, so likely.
_COARSE_QUALITY, _LIKE_COMPRESSION, _RATHER_COMPRESSION = 50, 1.8, 0.7
#: In a file of less than this quality, σ of 255 from which noise hides a blur, how likely there is one, of which radius.
_SOUND_QUALITY, _NOISY, _HIDDEN, _HIDDEN_RADIUS = 92, 2.0, 0.45, 1.5
#: What is less likely than this is not supposed.
_LEAST_LIKELY = 0.2


def blur_of_reading(reading: Reading) -> FocusBlur | MotionBlur | SoftBlur | None:
    """The blur that a reading tells, as the step deblur names it."""
    size = reading.blur.size_px
    match reading.blur.kind:
        case "focus":
            return FocusBlur(radius=min(10, round(size, 1)))
        case "motion":
            return MotionBlur(length=min(30, round(size, 1)), angle=round(reading.blur.angle_deg))
        case "soft":
            return SoftBlur(sigma=min(5, round(size, 2)))
        case _:
            return None


def blur_doubt(reading: Reading) -> float:
    """How likely it is, 0..1, that a picture is not blurred though it reads so."""
    if reading.blur.kind == "none":
        return 0.0
    doubt, quality = max(0.0, 1 - reading.blur.confidence / _SURE_OF_BLUR), reading.compression.quality
    if quality is not None and quality < _COARSE_QUALITY and reading.blur.size_px < _LIKE_COMPRESSION:
        return max(doubt, _RATHER_COMPRESSION)
    return max(doubt, _AS_LIKELY_AS_NOT) if reading.blur.confidence < SURE else doubt


def blur_hidden(reading: Reading) -> float:
    """How likely it is, 0..1, that a picture is blurred though it does not read so.

    Old files that are noisy and compressed mostly are soft as well, and it is then that noise and compression hide it.
    """
    quality = reading.compression.quality
    worn = quality is not None and quality < _SOUND_QUALITY and reading.noise.luminance >= _NOISY
    return _HIDDEN if worn and reading.blur.kind == "none" else 0.0


def noise_doubt(reading: Reading) -> float:
    """How likely it is, 0..1, that what reads as noise is texture: noise of a sensor has colour in it, and is stronger."""
    noise = reading.noise
    return _MAY_BE_TEXTURE if noise.colour < _LEAST_COLOUR and 1 <= noise.luminance < _STRONG else 0.0


def suppositions(reading: Reading) -> list[tuple[Wear, float]]:
    """The wears that would make a picture read so, and how likely each is; together 1."""
    whole, hidden = Wear.of(reading), blur_hidden(reading)
    found = []
    for kernel, weight in (
        (whole.kernel, 1 - blur_doubt(reading) - hidden), (None, blur_doubt(reading)), (disc(_HIDDEN_RADIUS), hidden),
    ):  # fmt: skip
        for clean, share in ((False, 1 - noise_doubt(reading)), (True, noise_doubt(reading))):
            wear = replace(
                whole, kernel=kernel,
                luminance=0.0 if clean else whole.luminance, colour=0.0 if clean else whole.colour,
            )  # fmt: skip
            if weight * share > _LEAST_LIKELY:
                found.append((wear, weight * share))
    total = sum(weight for _, weight in found)
    return [(wear, weight / total) for wear, weight in found]


@dataclass(frozen=True)
class Wear:
    """What a clean picture goes through: blur, noise of σ of 255 in luma and colour and so wide, compression."""

    kernel: Kernel | None = None
    luminance: float = 0.0
    colour: float = 0.0
    width: float = 0.0
    quality: int | None = None

    @classmethod
    def of(cls, reading: Reading) -> Wear:
        blur = blur_of_reading(reading)
        return cls(
            blur.psf() if blur else None, reading.noise.luminance, reading.noise.colour, reading.noise.grain_px,
            reading.compression.quality,
        )  # fmt: skip

    def apply(self, clean: Pixels, random: np.random.Generator) -> Samples:
        """``clean`` H×W×C, 0..1, worn: uint8 if it was compressed, float32 else."""
        worn = clean
        if self.kernel is not None:
            flipped = np.ascontiguousarray(self.kernel[::-1, ::-1], np.float32)
            soft = cv2.filter2D(worn, -1, flipped, borderType=cv2.BORDER_REFLECT_101)
            worn = np.asarray(soft, np.float32).reshape(clean.shape)
        if self.luminance or self.colour:
            worn = worn + self._noise(clean.shape, random)
        if self.quality is None or self.quality >= 100:
            return np.asarray(np.clip(worn, 0, 1), np.float32)
        return _compressed(to_samples(np.asarray(worn, np.float32), 8), self.quality)

    def _noise(self, shape: tuple[int, ...], random: np.random.Generator) -> Pixels:
        """Noise of which luma and colour differences have their σ: what is common to the channels, and what is not."""
        own = min((self.colour / 255) ** 2 / _IN_COLOUR, (self.luminance / 255) ** 2 / _IN_LUMA)
        common = max(0.0, (self.luminance / 255) ** 2 - own * _IN_LUMA)
        height, width, bands = shape
        if bands == 1:
            own, common = 0.0, (self.luminance / 255) ** 2
        drawn = np.sqrt(common) * self._grain(random, height, width)[..., None]
        if own:
            drawn = drawn + np.sqrt(own) * np.stack([self._grain(random, height, width) for _ in range(bands)], axis=2)
        return np.asarray(np.broadcast_to(drawn, shape), np.float32)

    def _grain(self, random: np.random.Generator, height: int, width: int) -> Pixels:
        drawn = random.normal(size=(height, width)).astype(np.float32)
        if self.width < _NARROW:
            return drawn
        wide = cv2.GaussianBlur(drawn, (0, 0), self.width)
        return np.asarray(wide / max(1e-6, float(wide.std())), np.float32)

    def until_alike(self, clean: Pixels, random: np.random.Generator) -> Wear:
        """This wear with as much noise before compression as leaves what was read after it."""
        if self.quality is None or self.quality >= _SOUND_QUALITY or self.luminance < 1:
            return self
        grey = luma(from_samples(self.apply(clean, random)))
        left, _ = noise_of([grey], [grey])
        stronger = float(np.clip(self.luminance / max(left, 0.1), 1.0, _MOST_STRONGER))
        return Wear(self.kernel, self.luminance * stronger, self.colour * stronger, self.width, self.quality)


def _compressed(samples: Samples, quality: int) -> Samples:
    """Samples H×W×C uint8 through a JPEG file."""
    kept = [cv2.IMWRITE_JPEG_QUALITY, int(quality)]
    bands = samples.shape[2]
    file = cv2.imencode(".jpg", samples[..., ::-1] if bands == 3 else samples, kept)[1]
    back = cv2.imdecode(file, cv2.IMREAD_COLOR if bands == 3 else cv2.IMREAD_GRAYSCALE)
    assert back is not None
    return np.ascontiguousarray(back[..., ::-1] if bands == 3 else back[..., None])
