"""Wiener deconvolution by kernels of limited reach, so that any region can be restored alone."""

from __future__ import annotations

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.filters.psf import Kernel
from kitecore.pipeline.pixels import Pixels

#: Reach of the restoring kernels in pixels, and the grid they are designed on.
REACH = 64
_GRID = 256

#: Noise power ÷ power of the picture's gradient: trusting, middling, careful. A noise of 1.5/255 over gradients of
#: usual strength lies near the middle one.
REGULARISATIONS = (0.0015, 0.01, 0.06)


def wiener_kernel(psf: Kernel, regularisation: float) -> npt.NDArray[np.float32]:
    """The kernel that undoes a blur as well as noise allows.

    Parameters
    ----------
    psf
        Point-spread function, odd sides, sum 1.
    regularisation
        Expected noise power ÷ expected power of the picture's gradient, > 0; more is smoother.

    Returns
    -------
    (2·REACH+1)² float32, sum 1, to be convolved with the blurred picture.

    References
    ----------
    N. Wiener, "Extrapolation, Interpolation, and Smoothing of Stationary Time Series", 1949; with the spectrum of
    natural pictures taken to fall with the square of frequency.
    """
    height, width = psf.shape
    padded = np.zeros((_GRID, _GRID))
    padded[:height, :width] = psf
    blur = np.fft.rfft2(np.roll(padded, (-(height // 2), -(width // 2)), (0, 1)))
    rows = 2 - 2 * np.cos(2 * np.pi * np.fft.fftfreq(_GRID))
    columns = 2 - 2 * np.cos(2 * np.pi * np.fft.rfftfreq(_GRID))
    gradient = rows[:, None] + columns[None]
    response = np.conj(blur) / (np.abs(blur) ** 2 + regularisation * gradient)
    kernel = np.roll(np.fft.irfft2(response, (_GRID, _GRID)), (REACH, REACH), (0, 1))
    kernel = kernel[: 2 * REACH + 1, : 2 * REACH + 1]
    # The last quarter fades, so that cutting the kernel off leaves no ringing of its own.
    fade = np.clip((REACH + 1 - np.abs(np.arange(-REACH, REACH + 1))) / (REACH / 4), 0, 1)
    kernel = kernel * np.minimum(fade[:, None], fade[None])
    return np.asarray(kernel / kernel.sum(), np.float32)


def deconvolved(pixels: Pixels, kernels: list[npt.NDArray[np.float32]]) -> list[Pixels]:
    """``pixels`` H×W×C convolved with each kernel of :func:`wiener_kernel`.

    The outermost :data:`REACH` pixels of the results are unreliable.
    """
    # OpenCV correlates; the kernels are turned to convolve. Large kernels go through the Fourier transform.
    results = []
    for kernel in kernels:
        result = cv2.filter2D(pixels, cv2.CV_32F, kernel[::-1, ::-1], borderType=cv2.BORDER_REFLECT_101)
        results.append(np.asarray(result, np.float32).reshape(pixels.shape))
    return results
