"""Raws of an invented camera with an invented lens, drawn from linear scenes: what they should be developed to is known."""

from __future__ import annotations

import struct
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
import tifffile

from kitecore.files.exif import Entry, Exif, add_to_tiff
from kitecore.files.raw.camera import Camera, Multipliers
from kitecore.files.raw.dng import Negative, mosaic_tags

Floats = npt.NDArray[np.float64]

#: From the camera's balanced colours to linear sRGB; rows sum to 1.
MATRIX = np.array([[1.72, -0.48, -0.24], [-0.21, 1.63, -0.42], [0.02, -0.44, 1.42]])
AS_SHOT: Multipliers = (1.95, 1.0, 1.55)
CAMERA = Camera(AS_SHOT, (2.05, 1.0, 1.45), MATRIX)
MAKER, MODEL, LENS = "Tern Sands", "TS-1", "Tern 24mm f/2.8"
BLACK, WHITE = 512, 16_383
RGGB, BGGR, GRBG, GBRG = (0, 1, 1, 2), (2, 1, 1, 0), (1, 0, 2, 1), (1, 2, 0, 1)
#: The lens, in the terms of its profile: r' = r (1 − k + k r²) of half the short side of a picture of three to two; red and
#: blue drawn so much larger; light falls off by 1 + a r² + b r⁴ + c r⁶ of half the diagonal.
BENT, RED_LARGER, BLUE_LARGER, DARKER = -0.03, 1.0008, 0.9993, (-0.45, 0.12, -0.05)
PROFILE = f"""<lensdatabase version="1">
<mount><name>Tern</name></mount>
<camera><maker>{MAKER}</maker><model>{MODEL}</model><mount>Tern</mount><cropfactor>1.0</cropfactor></camera>
<lens><maker>{MAKER}</maker><model>{LENS}</model><mount>Tern</mount><cropfactor>1.0</cropfactor><calibration>
<distortion model="poly3" focal="24" k1="{BENT}"/>
<tca model="linear" focal="24" kr="{RED_LARGER}" kb="{BLUE_LARGER}"/>
<vignetting model="pa" focal="24" aperture="2.8" distance="1000" k1="{DARKER[0]}" k2="{DARKER[1]}" k3="{DARKER[2]}"/>
</calibration></lens>
</lensdatabase>
"""
#: Electrons of a full pixel at ISO 100, and of the noise of reading it.
_WELL, _READ = 50_000.0, 3.0


def coded(linear: Floats) -> Floats:
    """Linear light as sRGB has it."""
    held = np.clip(linear, 0, 1)
    return np.asarray(np.where(held <= 0.0031308, 12.92 * held, 1.055 * held ** (1 / 2.4) - 0.055))


def lit(values: Floats) -> Floats:
    """The inverse of :func:`coded`."""
    return np.asarray(np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4))


def seen(srgb: Floats) -> Floats:
    """What the sensor sees of linear sRGB, H×W×3: its own colours, 1 where it is full; more is there to be cut off."""
    return np.asarray(srgb @ np.linalg.inv(MATRIX).T / AS_SHOT)


def drawn_by_lens(light: Floats, margin: int = 0) -> Floats:
    """What the lens makes of light that reaches ``margin`` pixels beyond the picture."""
    height, width = (side - 2 * margin for side in light.shape[:2])
    y, x = np.mgrid[:height, :width] - np.array([(height - 1) / 2, (width - 1) / 2])[:, None, None]
    diagonal = np.hypot(height, width) / 2
    # Profiles are measured in pictures of three to two.
    half = diagonal / np.hypot(1, 1.5)
    result = np.empty((height, width, 3))
    for colour, larger in enumerate((RED_LARGER, 1.0, BLUE_LARGER)):
        # Where a pixel's light would have gone without the lens: its formula, turned round.
        wanted = np.hypot(x, y) / half / larger
        r = wanted.copy()
        for _ in range(12):
            r -= (r * (1 - BENT + BENT * r * r) - wanted) / (1 - BENT + 3 * BENT * r * r)
        share = np.where(wanted > 0, r / np.maximum(np.hypot(x, y) / half, 1e-9), 1)
        result[..., colour] = cv2.remap(
            light[..., colour].astype(np.float32), (x * share + (width - 1) / 2 + margin).astype(np.float32),
            (y * share + (height - 1) / 2 + margin).astype(np.float32), cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REFLECT_101,
        )  # fmt: skip
    squared = (x * x + y * y) / diagonal**2
    falls = 1 + DARKER[0] * squared + DARKER[1] * squared**2 + DARKER[2] * squared**3
    return np.maximum(result, 0) * falls[..., None]


def mosaic_of(light: Floats, pattern: tuple[int, ...] = RGGB, iso: int = 0, seed: int = 1) -> npt.NDArray[np.uint16]:
    """The samples of a sensor that sees ``light``; without noise at ISO 0."""
    height, width = light.shape[:2]
    colours = np.tile(np.reshape(pattern, (2, 2)), (height // 2 + 1, width // 2 + 1))[:height, :width]
    one = np.take_along_axis(light, colours[..., None], axis=2)[..., 0]
    if iso:
        random, full = np.random.default_rng(seed), _WELL * 100 / iso
        one = (random.poisson(np.maximum(one, 0) * full) + random.normal(0, _READ, one.shape)) / full
    return np.clip(np.rint(one * (WHITE - BLACK) + BLACK), 0, WHITE).astype(np.uint16)


def _text(text: str) -> Entry:
    return Entry(2, len(text) + 1, text.encode() + b"\0")


def _ratio(value: float) -> Entry:
    return Entry(5, 1, struct.pack("<II", round(value * 1000), 1000))


def write_raw(
    path: Path, mosaic: npt.NDArray[np.uint16], pattern: tuple[int, ...] = RGGB, iso: int = 100, lens: str = LENS,
    flip: int = 1, preview: npt.NDArray[np.uint8] | None = None,
) -> Path:  # fmt: skip
    """A mosaic as a DNG file; ``flip`` is its orientation tag, ``preview`` the camera's own JPEG inside it."""
    red, green, blue, last = pattern
    own = [
        *mosaic_tags((red, green, blue, last)), (50713, 3, 2, (1, 1), True),
        (50714, 4, 1, BLACK, True), (50717, 4, 1, WHITE, True),
    ]  # fmt: skip
    told = [tag for tag in Negative(CAMERA, AS_SHOT, f"{MAKER} {MODEL}").tags() if tag[0] not in (50714, 50717)]
    told.append((274, 3, 1, flip, True))
    with tifffile.TiffWriter(path, byteorder="<") as file:
        if preview is not None:
            file.write(
                preview, photometric="rgb", compression="jpeg", subfiletype=1, subifds=1, extratags=told, metadata=None,
                software=False,
            )  # fmt: skip
        file.write(
            mosaic, photometric="cfa", subfiletype=0, extratags=own if preview is not None else [*own, *told],
            metadata=None, software=False,
        )  # fmt: skip
    photo = {
        0x8827: Entry(3, 1, struct.pack("<H", iso)), 0x829D: _ratio(2.8), 0x829A: Entry(5, 1, struct.pack("<II", 1, 125)),
        0x920A: _ratio(24), 0xA434: _text(lens),
    }  # fmt: skip
    add_to_tiff(path, Exif({271: _text(MAKER), 272: _text(MODEL)}, photo))
    return path
