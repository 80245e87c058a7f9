"""What is measured on a result when the truth is known. Pictures are H×W×3 in 0..255 unless said otherwise."""

from __future__ import annotations

import itertools

import cv2
import numpy as np
from scipy.ndimage import convolve1d, uniform_filter
from skimage.color import deltaE_ciede2000, rgb2lab
from skimage.metrics import structural_similarity

#: Windows whose texture counts as strong, and those that count as flat, by rank of the truth's.
TEXTURED, FLAT = 0.7, 0.3


def luma(picture: np.ndarray) -> np.ndarray:
    """Y of Y'CbCr as ITU-R BT.601 codes it: 16 to 235, as the literature measures PSNR-Y."""
    return 16 + picture @ np.array([65.481, 128.553, 24.966]) / 255


def rounded(picture: np.ndarray) -> np.ndarray:
    """As an 8-bit file would hold it, float64."""
    return np.clip(np.rint(picture), 0, 255).astype(np.float64)


def _psnr(a: np.ndarray, b: np.ndarray) -> float:
    return float(10 * np.log10(255**2 / max(1e-12, float(np.mean((a - b) ** 2)))))


def _inner(picture: np.ndarray, border: int) -> np.ndarray:
    return picture[border:-border, border:-border] if border else picture


def psnr_y(result: np.ndarray, truth: np.ndarray, border: int = 0) -> float:
    """PSNR of luma in dB, ``border`` pixels cut on every side."""
    return _psnr(_inner(luma(rounded(result)), border), _inner(luma(truth.astype(np.float64)), border))


def psnr_rgb(result: np.ndarray, truth: np.ndarray) -> float:
    """PSNR over all three channels in dB, borders included."""
    return _psnr(rounded(result), truth.astype(np.float64))


def ssim_y(result: np.ndarray, truth: np.ndarray, border: int = 0) -> float:
    a, b = _inner(luma(rounded(result)), border), _inner(luma(truth.astype(np.float64)), border)
    return float(structural_similarity(a, b, data_range=255))


def haarpsi(result: np.ndarray, truth: np.ndarray) -> float:
    """Haar wavelet-based perceptual similarity index of luma, 0..1; 1 is the same.

    References
    ----------
    R. Reisenhofer, S. Bosse, G. Kutyniok, T. Wiegand, "A Haar wavelet-based perceptual similarity index for image
    quality assessment", Signal Processing: Image Communication 61, 2018.
    """
    constant, alpha = 30.0, 4.2
    greys = [uniform_filter(luma(p), 2)[::2, ::2] for p in (rounded(result), truth.astype(np.float64))]

    def coefficients(grey: np.ndarray) -> list[list[np.ndarray]]:
        """Absolute Haar responses, by direction and scale."""
        directions = []
        for axis in (0, 1):
            scales = []
            for scale in (1, 2, 3):
                half = 2 ** (scale - 1)
                low, high = (
                    np.full(2 * half, 2.0**-scale),
                    np.concatenate([np.ones(half), -np.ones(half)]) * 2.0**-scale,
                )
                along = convolve1d(grey, high * 2**0.0, axis=axis, mode="mirror")
                scales.append(np.abs(convolve1d(along, low, axis=1 - axis, mode="mirror") * 2**scale))
            directions.append(scales)
        return directions

    similarity, weight = 0.0, 0.0
    for own, wanted in zip(coefficients(greys[0]), coefficients(greys[1]), strict=True):
        local = (
            sum(
                (2 * a * b + constant**2) / (a**2 + b**2 + constant**2)
                for a, b in zip(own[:2], wanted[:2], strict=True)
            )
            / 2
        )
        weights = np.maximum(own[2], wanted[2])
        similarity += float((weights / (1 + np.exp(-alpha * local))).sum())
        weight += float(weights.sum())
    mean = similarity / weight
    return float((np.log(mean / (1 - mean)) / alpha) ** 2)


def texture(picture: np.ndarray) -> np.ndarray:
    """Local strength of fine texture: RMS in 9×9 windows of the band between Gaussians of σ 0.8 and 2.4, H×W."""
    grey = luma(picture.astype(np.float64)).astype(np.float32)
    fine = cv2.GaussianBlur(grey, (0, 0), 0.8) - cv2.GaussianBlur(grey, (0, 0), 2.4)
    return np.sqrt(np.maximum(cv2.blur(fine * fine, (9, 9)), 0))


def texture_ratio(result: np.ndarray, truth: np.ndarray) -> tuple[float, float]:
    """Strength of texture over the truth's: where the truth is textured, and where it is flat."""
    own, wanted = texture(rounded(result)), texture(truth)
    low, high = np.quantile(wanted, [FLAT, TEXTURED])
    textured, flat = wanted >= high, wanted <= low
    return float(own[textured].mean() / wanted[textured].mean()), float(
        own[flat].mean() / max(0.05, wanted[flat].mean())
    )


def lattice(result: np.ndarray, factor: int) -> tuple[float, float]:
    """How far what is fine depends on where in the square of its source's pixel a pixel lies, two factors cut at the border.

    Its strength: how far it is from place to place, of its mean; and its sign: the mean of each place, of the strength. Both
    are the RMS over the places of a square; 0 where every place is like every other.
    """
    grey = luma(result).astype(np.float32)
    fine = (grey - cv2.blur(grey, (3, 3)))[2 * factor : -2 * factor, 2 * factor : -2 * factor]
    height, width = (side // factor for side in fine.shape)
    places = fine[: height * factor, : width * factor].reshape(height, factor, width, factor)
    strength, middle = (places**2).mean(axis=(0, 2)), places.mean(axis=(0, 2))
    usual = strength.mean() + 1e-9
    return float(np.sqrt(((strength / usual - 1) ** 2).mean())), float(np.sqrt((middle**2).mean() / usual))


def drift(result: np.ndarray, truth: np.ndarray, side: int = 24) -> float:
    """Mean ΔE2000 between the means of ``side``×``side`` blocks: tone and colour apart from detail."""
    height, width = (length // side * side for length in truth.shape[:2])

    def blocks(picture: np.ndarray) -> np.ndarray:
        cut = rounded(picture)[:height, :width]
        means = cut.reshape(height // side, side, width // side, side, 3).mean(axis=(1, 3))
        return rgb2lab(means / 255)

    return float(deltaE_ciede2000(blocks(result), blocks(truth)).mean())


def out_of_range_on_flats(result: np.ndarray, source: np.ndarray, factor: int) -> float:
    """How far, of 255, results leave the range of the 5×5 source pixels around them where the source is flat.

    Flat: those 5×5 differ by no more than 4 in any channel. Returns the 99.9th percentile, 0 where nothing is flat.
    """
    window = np.ones((5, 5), np.uint8)
    low, high = cv2.erode(source, window), cv2.dilate(source, window)
    flat = ((high.astype(int) - low) <= 4).all(axis=2)
    if not flat.any():
        return 0.0
    beyond = np.zeros(flat.shape)
    for y in range(factor):
        for x in range(factor):
            part = result[y::factor, x::factor]
            beyond = np.maximum(beyond, np.maximum(part - high.astype(float), low.astype(float) - part).max(axis=2))
    return float(np.quantile(np.maximum(beyond[flat], 0), 0.999))


def seam_energy(result: np.ndarray, truth: np.ndarray, every: int) -> float:
    """Mean step across the lines where tiles of ``every`` pixels meet ÷ mean step elsewhere, less the truth's own.

    0: lines cannot be told from the rest; 0.05: steps are a twentieth higher there.
    """
    return _line_steps(rounded(result), every) - _line_steps(rounded(truth), every)


def _line_steps(picture: np.ndarray, every: int) -> float:
    grey = luma(picture)
    ratios = []
    for axis in (0, 1):
        steps = np.abs(np.diff(grey, 2, axis=axis)).mean(axis=1 - axis)
        lines = np.arange(every - 1, len(steps), every)
        at = np.concatenate([lines - 1, lines])
        at = at[at < len(steps)]
        elsewhere = np.setdiff1d(np.arange(len(steps)), at)
        ratios.append(steps[at].mean() / max(1e-9, steps[elsewhere].mean()))
    return float(np.mean(ratios))


def grain_spectrum_ratio(result: np.ndarray, source: np.ndarray, factor: int) -> list[float]:
    """Power of grain kept, by band of frequency, on flat pictures of grain: result ÷ source.

    Three bands up to three quarters of the source's Nyquist frequency, per mm at the same printed size.
    """

    def power(picture: np.ndarray, scale: int) -> tuple[np.ndarray, np.ndarray]:
        grey = luma(picture.astype(np.float64))
        grey = grey - grey.mean()
        spectrum = np.abs(np.fft.fft2(grey) / grey.size) ** 2
        radius = np.hypot(*np.meshgrid(np.fft.fftfreq(grey.shape[0]), np.fft.fftfreq(grey.shape[1]), indexing="ij"))
        return spectrum, radius * scale

    (own, own_radius), (wanted, wanted_radius) = power(result, factor), power(source, 1)
    edges = (0.02, 0.125, 0.25, 0.375)
    return [
        float(
            own[(own_radius >= low) & (own_radius < high)].sum()
            / wanted[(wanted_radius >= low) & (wanted_radius < high)].sum()
        )
        for low, high in itertools.pairwise(edges)
    ]
