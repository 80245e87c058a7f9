"""Make a worn picture from a sharp one, as lenses, sensors, programs and networks have worn it.

Pictures are H×W×3. What files hold is uint8; what happens before a file is written is float32 in 0..255, so
that damage adds up without being rounded in between.
"""

from __future__ import annotations

import io

import cv2
import numpy as np
from PIL import Image

from kitecore.filters.psf import disc, streak

KERNELS = {
    "bicubic": Image.Resampling.BICUBIC,
    "lanczos": Image.Resampling.LANCZOS,
    "area": Image.Resampling.BOX,
    "bilinear": Image.Resampling.BILINEAR,
}


def eight(picture: np.ndarray) -> np.ndarray:
    """Rounded and clipped to uint8."""
    return np.clip(np.rint(picture), 0, 255).astype(np.uint8)


def shrink(sharp: np.ndarray, factor: int, kernel: str = "bicubic") -> np.ndarray:
    """Shrink a uint8 picture by a whole factor with an antialiased kernel; sizes must divide."""
    height, width = sharp.shape[:2]
    return resize(sharp, width // factor, height // factor, kernel)


def resize(picture: np.ndarray, width: int, height: int, kernel: str) -> np.ndarray:
    """A uint8 picture resampled with one of :data:`KERNELS`, antialiased when it shrinks."""
    return np.asarray(Image.fromarray(picture).resize((width, height), KERNELS[kernel]))


def jpeg(picture: np.ndarray, quality: int, subsampling: int = 2) -> np.ndarray:
    """Through JPEG and back: uint8 in and out; ``subsampling`` 0 is 4:4:4, 1 is 4:2:2, 2 is 4:2:0."""
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "JPEG", quality=quality, subsampling=subsampling)
    return np.asarray(Image.open(buffer))


def webp(picture: np.ndarray, quality: int) -> np.ndarray:
    """Through lossy WebP and back: uint8 in and out."""
    buffer = io.BytesIO()
    Image.fromarray(picture).save(buffer, "WEBP", quality=quality, method=2)
    return np.asarray(Image.open(buffer).convert("RGB"))


def blurred(picture: np.ndarray, kernel: np.ndarray) -> np.ndarray:
    """Convolved with a point-spread function; the picture is mirrored at its borders; float32."""
    turned = kernel[::-1, ::-1].astype(np.float32)
    return cv2.filter2D(picture.astype(np.float32), -1, turned, borderType=cv2.BORDER_REFLECT_101)


def scanned(page: np.ndarray, random: np.random.Generator, softest: float = 0.8) -> np.ndarray:
    """A printed page as it comes off a scanner or a camera: soft ink, fainter in places, uneven light, a little grain.

    uint8 in and out. ``softest`` is the largest σ of its softness. This is the *truth* of small print, which is never
    as sharp as the font.
    """
    height, width = page.shape[:2]
    soft = cv2.GaussianBlur(page.astype(np.float32), (0, 0), random.uniform(0.1, softest)) / 255
    # Light falls off across the page, and ink is not everywhere as black.
    corners = random.uniform(0.55, 1.0, (2, 2)).astype(np.float32)
    light = cv2.resize(corners, (width, height), interpolation=cv2.INTER_LINEAR)[..., None]
    black = np.float32(random.uniform(0, 0.35))
    shade = (black + (1 - black) * soft) * light
    if random.random() < 0.5:
        grain = cv2.GaussianBlur(random.standard_normal((height, width, 1), np.float32), (0, 0), 0.7)
        shade = shade + grain.reshape(height, width, 1) * np.float32(random.uniform(0, 0.02))
    return eight(shade * 255)


def add_noise(picture: np.ndarray, sigma: float, random: np.random.Generator) -> np.ndarray:
    """Gaussian noise of ``sigma`` (of 255) on a uint8 picture, clipped to it."""
    return eight(picture + random.standard_normal(picture.shape, dtype=np.float32) * np.float32(sigma))


def linear(picture: np.ndarray) -> np.ndarray:
    """sRGB-coded 0..255 to linear light 0..1."""
    coded = np.clip(picture, 0, 255).astype(np.float32) / 255
    return np.where(coded <= 0.04045, coded / 12.92, ((coded + 0.055) / 1.055) ** 2.4).astype(np.float32)


def coded(light: np.ndarray) -> np.ndarray:
    """Linear light 0..1 to sRGB-coded 0..255; outside values are clipped."""
    light = np.clip(light, 0, 1)
    return (255 * np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)).astype(np.float32)


def sensor(picture: np.ndarray, photons: float, read: float, random: np.random.Generator) -> np.ndarray:
    """Shot and read noise on a Bayer mosaic, demosaiced: signal-dependent, coloured, correlated; float32 0..255.

    ``photons`` is the count at white in the green channel, ``read`` the read noise as a share of white.
    """
    gains = np.array([random.uniform(1.4, 2.2), 1.0, random.uniform(1.2, 1.9)], np.float32)
    light = linear(picture) / gains
    # Shot noise of more than some ten photons is Gaussian to a good approximation, and so much faster.
    deviation = np.sqrt(np.maximum(light, 0) / photons + read**2)
    noisy = light + deviation * random.standard_normal(light.shape, dtype=np.float32)
    mosaic = np.empty(light.shape[:2], np.float32)
    mosaic[0::2, 0::2], mosaic[0::2, 1::2] = noisy[0::2, 0::2, 0], noisy[0::2, 1::2, 1]
    mosaic[1::2, 0::2], mosaic[1::2, 1::2] = noisy[1::2, 0::2, 1], noisy[1::2, 1::2, 2]
    raised = np.clip(mosaic * 50000 + 4000, 0, 65535).astype(np.uint16)
    kind = cv2.COLOR_BayerBG2RGB if random.random() < 0.6 else cv2.COLOR_BayerBG2RGB_EA
    full = (cv2.cvtColor(raised, kind).astype(np.float32) - 4000) / 50000 * gains
    return coded(full)


def grainy(
    picture: np.ndarray, sigma: float, softness: float, colour: float, random: np.random.Generator
) -> np.ndarray:
    """Film-like grain of ``sigma`` (of 255), ``softness`` px wide, strongest in the mid-tones; float32.

    ``colour`` is the share of the grain that differs between the channels.
    """
    common = random.standard_normal(picture.shape[:2], dtype=np.float32)[..., None]
    own = random.standard_normal(picture.shape, dtype=np.float32)
    grain = np.sqrt(1 - colour) * common + np.sqrt(colour) * own
    if softness > 0.2:
        grain = cv2.GaussianBlur(grain, (0, 0), softness)
    grain *= np.float32(sigma) / max(1e-6, float(grain.std()))
    level = picture.astype(np.float32).mean(axis=2, keepdims=True) / 255
    return picture + grain * (0.45 + 2.2 * level * (1 - level))


def haloed(picture: np.ndarray, amount: float, radius: float) -> np.ndarray:
    """Oversharpened by an unsharp mask, with the halos that leaves; float32."""
    picture = picture.astype(np.float32)
    return picture + amount * (picture - cv2.GaussianBlur(picture, (0, 0), radius))


def any_noise(picture: np.ndarray, most: float, random: np.random.Generator) -> np.ndarray:
    """One of the noises above, from faint up to about ``most`` (of 255); float32 before a file is written."""
    strength = most * random.random() ** 1.3
    draw = random.random()
    if draw < 0.4:
        return picture + strength * random.standard_normal(picture.shape, dtype=np.float32)
    if draw < 0.75:
        # Mid-grey noise of about `strength` after the sRGB curve.
        photons = 25_000 / max(1.0, strength) ** 2
        return sensor(picture, photons, random.uniform(0, 0.0004) * strength, random)
    return grainy(picture, strength, random.uniform(0, 1.3), random.uniform(0, 0.7), random)


def stretched_noise(sharp: np.ndarray, noisy: np.ndarray, ratio: float) -> np.ndarray:
    """The noise of ``noisy`` enlarged by ``ratio`` and so correlated, on the unchanged picture; float32."""
    height, width = sharp.shape[:2]
    noise = (noisy - sharp)[: round(height / ratio), : round(width / ratio)]
    return sharp + cv2.resize(noise, (width, height), interpolation=cv2.INTER_CUBIC)


def any_blur(picture: np.ndarray, most: float, random: np.random.Generator) -> np.ndarray:
    """Softness, missed focus or movement of up to ``most`` px; float32."""
    size = most * random.random()
    draw = random.random()
    if draw < 0.5:
        return cv2.GaussianBlur(picture.astype(np.float32), (0, 0), max(0.1, 0.6 * size))
    kernel = disc(max(0.3, size)) if draw < 0.8 else streak(max(0.6, 2 * size), random.uniform(0, 180))
    return blurred(picture, kernel)


def any_file(picture: np.ndarray, lowest: int, random: np.random.Generator) -> np.ndarray:
    """Written as JPEG (sometimes twice, the second time off the grid of the first) or as WebP; uint8."""
    picture = eight(picture)
    quality = int(random.integers(lowest, 97))
    if random.random() < 0.15:
        return webp(picture, quality)
    picture = jpeg(picture, quality, int(random.choice([0, 1, 2], p=[0.25, 0.1, 0.65])))
    if random.random() < 0.2:
        dy, dx = (int(shift) for shift in random.integers(1, 8, 2))
        rolled = np.roll(picture, (dy, dx), (0, 1))
        again = jpeg(rolled, int(random.integers(max(lowest, 40), 97)), int(random.choice([0, 2])))
        picture = np.roll(again, (-dy, -dx), (0, 1))
    return picture


def faithful_source(sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
    """The mix Faithful learns from: mostly clean shrinks, some soft, a few lightly noisy or compressed."""
    picture = sharp
    if random.random() < 0.2:
        sigma = random.uniform(0.1, 0.45) * factor
        picture = cv2.GaussianBlur(picture, (0, 0), sigma)
    kernel = str(random.choice(["bicubic", "lanczos", "area"], p=[0.7, 0.15, 0.15]))
    picture = shrink(picture, factor, kernel)
    if random.random() < 0.12:
        picture = add_noise(picture, random.uniform(0.5, 4), random)
    if random.random() < 0.12:
        picture = jpeg(picture, int(random.integers(84, 98)), int(random.choice([0, 2])))
    return picture


def darkened(patch: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Every fifth patch as it is in deep shade, where grain and compression are mistaken for cloth; uint8 in and out."""
    if random.random() >= 0.2:
        return patch
    return eight(255 * random.uniform(0.35, 0.9) * (patch / 255) ** random.uniform(1.2, 2.2))


def found_source(sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
    """The mix Crisp learns from, photographs as they are found: more than half as Faithful's, the rest with grain and as JPEG.

    Grain and blocks are among the sources and not among the truths, so that no web is drawn through them.
    """
    if random.random() < 0.55:
        return faithful_source(sharp, factor, random)
    picture: np.ndarray = shrink(sharp, factor, str(random.choice(["bicubic", "lanczos", "area"])))
    if random.random() < 0.4:
        picture = cv2.GaussianBlur(picture, (0, 0), random.uniform(0.3, 0.8))
    if random.random() < 0.7:
        picture = grainy(picture, random.uniform(1, 7), random.uniform(0, 1.2), random.uniform(0, 0.5), random)
    return jpeg(eight(picture), int(random.integers(68, 94)), int(random.choice([0, 2], p=[0.25, 0.75])))


def shared_file(picture: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """The commonest damage: a little noise, a little softness in either order, and a JPEG file as people share them."""
    steps = ["noise", "soft"]
    random.shuffle(steps)
    for step in steps:
        if step == "noise":
            picture = add_noise(picture, random.uniform(2, 14), random)
        else:
            picture = eight(cv2.GaussianBlur(picture, (0, 0), random.uniform(0.5, 1.8)))
    return jpeg(picture, int(random.integers(40, 88)), int(random.choice([0, 2], p=[0.2, 0.8])))


def worn_source(sharp: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
    """The mix Salvage learns from: several damages, each at random strength, in random order, then a file."""
    height, width = (side // factor for side in sharp.shape[:2])
    picture = shrink(sharp, factor, str(random.choice(list(KERNELS))))
    draw = random.random()
    if draw < 0.4:
        return shared_file(picture, random)
    if draw < 0.6:
        # Compressed and nothing else: fine texture is not always grain.
        return any_file(picture, 30, random)
    damages = ["blur"] * (random.random() < 0.7) + ["noise"] * (random.random() < 0.75)
    damages += ["halo"] * (random.random() < 0.15) + ["resize"] * (random.random() < 0.25)
    damages += ["file"] * (random.random() < 0.3)
    random.shuffle(damages)
    for damage in damages:
        if damage == "blur":
            picture = any_blur(picture, 2.2, random)
        elif damage == "noise":
            picture = any_noise(picture, 18, random)
        elif damage == "halo":
            picture = haloed(picture, random.uniform(0.3, 1.5), random.uniform(0.6, 1.6))
        elif damage == "resize":
            ratio = random.uniform(0.55, 1.5)
            there = resize(
                eight(picture), round(width * ratio), round(height * ratio), str(random.choice(list(KERNELS)))
            )
            picture = resize(there, width, height, str(random.choice(list(KERNELS))))
        else:
            picture = any_file(picture, 55, random)
    return any_file(picture, 35, random) if random.random() < 0.8 else eight(picture)
