"""The mean log spectrum of a picture's most textured parts, and what blurs leave of a spectrum."""

from __future__ import annotations

from functools import cache

import numpy as np
import numpy.typing as npt

from kitecore.filters.psf import Kernel

Plane = npt.NDArray[np.float32]
#: Of each of the cells of a half spectrum that are compared.
Spectrum = npt.NDArray[np.float64]

SIDE = 128
_MOST_PATCHES = 120
#: Planes of fewer patches than this beside each other are small.
_FEW = 6
#: Pixels a side from which a picture is continued, and until which.
_LEAST_SIDE, _FEW_ACROSS = 90, 176
#: Cycles per pixel between which spectra are compared.
LOWEST, HIGHEST = 0.03, 0.5


@cache
def window() -> Spectrum:
    edge = np.hanning(SIDE + 2)[1:-1]
    return np.outer(edge, edge)


@cache
def frequencies() -> tuple[npt.NDArray[np.float64], npt.NDArray[np.bool_]]:
    """Cycles per pixel of every cell of the half spectrum, and which of them are compared."""
    across, along = np.fft.rfftfreq(SIDE), np.fft.fftfreq(SIDE)
    radius = np.hypot(along[:, None], across[None])
    # The axes hold what the borders of the picture and its verticals leave there.
    off_axis = (np.abs(along[:, None]) > 1.5 / SIDE) & (across[None] > 1.5 / SIDE)
    return np.maximum(radius, 1e-6), (radius > LOWEST) & (radius < HIGHEST) & off_axis


def patches_of(planes: list[Plane]) -> list[Plane]:
    """The most textured squares of planes H×W, of ``SIDE`` pixels a side, most textured first."""
    found: list[tuple[float, int, Plane]] = []
    for plane in planes:
        height, width = plane.shape
        # Small pictures have few places: they overlap more.
        step = SIDE // 2 if plane.size > _FEW * SIDE**2 else SIDE // 8
        for y in range(0, height - SIDE + 1, step):
            for x in range(0, width - SIDE + 1, step):
                patch = plane[y : y + SIDE, x : x + SIDE]
                found.append((float(np.abs(np.diff(patch[::2, ::2], axis=0)).mean()), len(found), patch))
    found.sort(key=lambda one: -one[0])
    # Smooth patches show the noise, not the blur.
    enough = 0.4 * found[len(found) // 20][0] if found else 0.0
    return [patch for texture, _, patch in found[:_MOST_PATCHES] if texture >= enough]


def mirrored_out(plane: Plane) -> Plane | None:
    """A small plane continued by its mirror image until a few patches lie in it; None if it is too small even for that."""
    height, width = plane.shape
    if min(height, width) < _LEAST_SIDE:
        return None
    down, across = (max(0, _FEW_ACROSS - side) for side in (height, width))
    around = ((down // 2, down - down // 2), (across // 2, across - across // 2))
    return np.pad(plane, around, mode="reflect")


def log_power(patch: Plane) -> Spectrum:
    centred = (patch - patch.mean()) * window()
    power = np.abs(np.fft.rfft2(centred)) ** 2
    _, compared = frequencies()
    return np.asarray(np.log(power[compared] + 1e-10), np.float64)


def transfer_of(psf: Kernel) -> Spectrum:
    padded = np.zeros((SIDE, SIDE))
    padded[: psf.shape[0], : psf.shape[1]] = psf
    _, compared = frequencies()
    # Patches are windowed, which smears the zeros of a transfer function over neighbouring cells.
    return np.asarray(np.abs(np.fft.rfft2(padded))[compared] ** 2 + 2e-4, np.float64)
