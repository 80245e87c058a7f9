"""Pixels from one colour space to another."""

from __future__ import annotations

from typing import Literal, TypeAlias

import numpy as np
import pyvips

from kitecore.colour.icc import profile_file, srgb_profile
from kitecore.errors import PictureError
from kitecore.pipeline.pixels import Pixels, from_samples, has_alpha, to_samples

#: How colours that the wanted space does not hold are brought into it, as ICC names it.
Intent: TypeAlias = Literal["perceptual", "relative", "saturation", "absolute"]


def interpretation(bands: int, bits: int) -> str:
    """libvips' name for samples of that many bands and bits."""
    grey = bands < 3
    if bits == 16:
        return "grey16" if grey else "rgb16"
    return "b-w" if grey else "srgb"


def to_srgb(image: pyvips.Image, profile: bytes | None, bits: int) -> pyvips.Image:
    """An 8- or 16-bit image in ``profile`` (None: sRGB or its grey) to 8- or 16-bit sRGB, alpha kept.

    Relative colorimetric with black point compensation. Raises PictureError if the profile is broken.
    """
    if profile is None:
        return image.colourspace("srgb" if bits == 8 else "rgb16")
    return to_profile(image, profile, srgb_profile(), bits)


def to_profile(
    image: pyvips.Image, given: bytes | None, wanted: bytes, bits: int,
    intent: Intent = "relative", black_point: bool = True,
) -> pyvips.Image:  # fmt: skip
    """An 8- or 16-bit image in ``given`` (None: sRGB or its grey) to 8- or 16-bit in ``wanted``, alpha kept.

    Raises PictureError if a profile is broken.
    """
    if given is None:
        image = image.colourspace("srgb" if image.format == "uchar" else "rgb16")
    tagged = image.copy()
    tagged.set_type(pyvips.GValue.blob_type, "icc-profile-data", given or srgb_profile())
    # By way of Lab in floating point: straight from one to the other, the engine interpolates in a coarse table, which
    # is several percent off beside the borders of a gamut.
    try:
        known = tagged.icc_import(embedded=True, intent=intent, pcs="lab", black_point_compensation=black_point)
        return known.icc_export(
            output_profile=profile_file(wanted), intent=intent, pcs="lab", depth=bits,
            black_point_compensation=black_point,
        )  # fmt: skip
    except pyvips.Error as error:
        raise PictureError(
            "The colour profile inside this picture is broken; deliver with the profile kept."
        ) from error


def to_lab(pixels: Pixels, profile: bytes | None) -> pyvips.Image:
    """Pixels H×W×C as CIE Lab (D50, relative colorimetric), three float bands; alpha is left out."""
    colours = pixels[..., : pixels.shape[2] - has_alpha(pixels.shape[2])]
    samples = to_samples(colours, 16)
    image = pyvips.Image.new_from_memory(
        samples.tobytes(), samples.shape[1], samples.shape[0], samples.shape[2], "ushort"
    ).copy(interpretation=interpretation(samples.shape[2], 16))
    image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile or srgb_profile())
    if profile is None and samples.shape[2] == 1:
        image = image.bandjoin([image, image]).copy(interpretation="rgb16")
    try:
        return image.icc_import(embedded=True, intent="relative", pcs="lab")
    except pyvips.Error as error:
        raise PictureError(
            "The colour profile inside this picture is broken; its colours cannot be measured."
        ) from error


def converted(pixels: Pixels, given: bytes | None, wanted: bytes | None) -> Pixels:
    """Pixels H×W×C from one colour space to another (None: sRGB), relative colorimetric with black point compensation.

    Grey is left as it is, alpha too. Goes through 16 bits. Raises PictureError if a profile is broken.
    """
    alpha = has_alpha(pixels.shape[2])
    if pixels.shape[2] - alpha == 1 or (given or srgb_profile()) == (wanted or srgb_profile()):
        return pixels
    samples = to_samples(pixels[..., :3], 16)
    image = pyvips.Image.new_from_memory(samples.tobytes(), samples.shape[1], samples.shape[0], 3, "ushort")
    moved = to_profile(
        image.copy(interpretation="rgb16"), given or srgb_profile(), wanted or srgb_profile(), 16
    ).numpy()
    colours = from_samples(moved)
    return np.concatenate([colours, pixels[..., 3:]], axis=2) if alpha else colours
