"""From working pixels to the samples of a file: rounded, brought to its colour space, laid on white."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np
import pyvips

from kitecore.colour.conversion import interpretation, to_profile
from kitecore.colour.icc import srgb_profile
from kitecore.colour.spaces import profile_of
from kitecore.colour.transfer import transfer_of
from kitecore.delivery.encode import Encoder
from kitecore.delivery.spec import OutputSpec
from kitecore.files.raw.dng import Negative
from kitecore.pipeline.pixels import Pixels, Samples, has_alpha, to_samples


class IntoFile(Protocol):
    """What becomes of working pixels on their way into a file."""

    def __call__(self, pixels: Pixels) -> Samples: ...
    def bands_of(self, bands: int) -> int: ...
    def profile_in_file(self, bands: int) -> bytes | None: ...


@dataclass(frozen=True)
class IntoNegative:
    """Pixels in the profile ``given`` become 16-bit samples of a camera's own linear colours."""

    negative: Negative
    given: bytes | None

    def __call__(self, pixels: Pixels) -> Samples:
        return to_samples(self.negative.linear(transfer_of(self.given).light(pixels)), 16)

    def bands_of(self, bands: int) -> int:
        return 3

    def profile_in_file(self, bands: int) -> bytes | None:
        return None


@dataclass(frozen=True)
class Finish:
    """What becomes of pixels in the profile ``given`` (None: sRGB or its grey) on their way into a file.

    They are rounded once: to the file's depth, or, where a conversion follows, to 16 bits before it.
    """

    spec: OutputSpec
    given: bytes | None
    #: The profile the file is to have; None keeps the source's.
    wanted: bytes | None
    converts: bool
    bits: int
    flattens: bool

    @staticmethod
    def wanted_by(encoder: Encoder, profile: bytes | None, bands: int) -> Finish:
        """What ``encoder`` asks of pixels in ``profile``. What has no profile is sRGB; grey without one stays grey."""
        spec, flattens = encoder.spec, encoder.flattens and has_alpha(bands)
        if spec.profile == "keep":
            return Finish(spec, profile, None, False, encoder.bits, flattens)
        wanted = srgb_profile() if spec.profile == "srgb" else profile_of(spec.profile)
        converts = profile is not None or (spec.profile != "srgb" and bands > 2)
        return Finish(spec, profile, wanted, converts, encoder.bits, flattens)

    def __call__(self, pixels: Pixels) -> Samples:
        """H×W×C to samples of the file's bits and bands. Raises PictureError if a profile is broken."""
        if self.bits == 32:
            return pixels
        samples = to_samples(pixels, 16 if self.converts else self.bits)
        if not (self.converts or self.flattens):
            return samples
        height, width, bands = samples.shape
        bits = samples.itemsize * 8
        image = pyvips.Image.new_from_memory(samples.data, width, height, bands, "uchar" if bits == 8 else "ushort")
        image = image.copy(interpretation=interpretation(bands, bits))
        if self.converts and self.wanted is not None:
            image = to_profile(image, self.given, self.wanted, self.bits, self.spec.intent, self.spec.black_point)
        if self.flattens:
            image = image.flatten(background=255 if self.bits == 8 else 65_535)
        # Grey comes out of libvips without an axis for its one band.
        return np.asarray(image.numpy()).reshape(height, width, image.bands)

    def bands_of(self, bands: int) -> int:
        """Bands of the file, for pixels that have ``bands``."""
        return int(self(np.zeros((1, 1, bands), np.float32)).shape[2])

    def profile_in_file(self, bands: int) -> bytes | None:
        """The profile of a file that has ``bands``."""
        if self.wanted is None:
            return self.given
        return self.wanted if bands > 2 else None
