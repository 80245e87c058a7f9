"""What a retoucher could use from an open library instead: the methods the engines are judged against.

Each is given its best setting for the damage at hand, which in practice nobody knows.
"""

from __future__ import annotations

from collections.abc import Iterable

import cv2
import numpy as np
from measures import psnr_rgb, psnr_y
from skimage.restoration import denoise_nl_means, denoise_wavelet, estimate_sigma, richardson_lucy

_FRAME = 48


def _best(results: Iterable[np.ndarray], truth: np.ndarray, score: object) -> np.ndarray:
    return max(results, key=lambda result: score(result, truth))  # type: ignore[operator]


def non_local_means(noisy: np.ndarray, truth: np.ndarray) -> np.ndarray:
    """The best of OpenCV's colour non-local means and scikit-image's, at several strengths; 0..255 out."""
    results = [cv2.fastNlMeansDenoisingColored(noisy, None, h, h, 5, 21) for h in (5, 10, 15, 21, 30, 42)]
    picture = (noisy / 255).astype(np.float32)
    sigma = float(estimate_sigma(picture, average_sigmas=True, channel_axis=2))
    options = {"patch_size": 5, "patch_distance": 6, "fast_mode": True, "channel_axis": 2}
    results += [denoise_nl_means(picture, h=share * sigma, sigma=sigma, **options) * 255 for share in (0.4, 0.6, 0.8)]
    results += [denoise_nl_means(picture, h=share * sigma, **options) * 255 for share in (0.6, 0.8, 1.1)]
    return _best(results, truth, psnr_rgb)


def wavelet(noisy: np.ndarray, truth: np.ndarray) -> np.ndarray:
    """scikit-image's wavelet shrinkage (BayesShrink and VisuShrink, in Y'CbCr); 0..255 out."""
    picture = noisy / 255.0
    options = {"channel_axis": 2, "convert2ycbcr": True, "rescale_sigma": True}
    results = [denoise_wavelet(picture, method=method, **options) * 255 for method in ("BayesShrink", "VisuShrink")]
    return _best(results, truth, psnr_rgb)


def smoothed(worn: np.ndarray, truth: np.ndarray) -> np.ndarray:
    """For compression: the best of bilateral filters and mild non-local means; uint8 in and out."""
    results = [worn]
    results += [cv2.bilateralFilter(worn, 5, colour, space) for colour in (8, 16, 28, 40) for space in (1, 2, 4)]
    results += [cv2.fastNlMeansDenoisingColored(worn, None, h, h, 5, 15) for h in (2, 4, 6, 9)]
    return _best(results, truth, psnr_y)


def lucy(soft: np.ndarray, psf: np.ndarray, truth: np.ndarray) -> np.ndarray:
    """Richardson–Lucy at the best of 5 to 30 iterations, mirrored at the borders; 0..255 out."""
    framed = cv2.copyMakeBorder(soft, _FRAME, _FRAME, _FRAME, _FRAME, cv2.BORDER_REFLECT_101).astype(np.float32) / 255

    def result(iterations: int) -> np.ndarray:
        planes = [richardson_lucy(framed[..., plane], psf, num_iter=iterations) for plane in range(3)]
        return np.stack(planes, axis=2)[_FRAME:-_FRAME, _FRAME:-_FRAME] * 255

    return _best((result(iterations) for iterations in (5, 10, 15, 20, 30)), truth, psnr_rgb)
