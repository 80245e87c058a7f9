"""How hard a picture was compressed as JPEG, from the grid and the steps its pixels still lie on."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.files.jpeg_quality import table

Plane = npt.NDArray[np.float32]

#: Low frequencies, by row and column, whose coefficients tell the step.
_TOLD = [(0, 1), (1, 0), (1, 1), (0, 2), (2, 0), (1, 2), (2, 1), (0, 3), (3, 0), (2, 2), (1, 3), (3, 1)]
_MOST_BLOCKS = 6000
#: How much better than chance coefficients must lie on the steps of a table.
_LEAST = 0.3


@dataclass(frozen=True)
class CompressionFound:
    """``quality`` 1..100, None where there are no traces; the block grid begins ``x``, ``y`` px from the corner."""

    quality: int | None
    x: int
    y: int
    confidence: float


#: Nobody writes files below; steps as large as theirs fit the strongest edges of any picture.
_LEAST_QUALITY = 5
#: A fit is more than chance from so many standard deviations on.
_CHANCE = 4.5


def compression_of(planes: list[Plane]) -> CompressionFound:
    """The compression whose grid and steps the pixels still show.

    ``planes`` are parts of the picture's luma, H×W float32, 0..1, cut at multiples of eight pixels from its corner.

    Notes
    -----
    Decompressed coefficients are multiples of the quantiser's steps (Fan and de Queiroz 2003). The largest step that
    fits decides, since every multiple of a step fits its divisors as well.
    """
    best = CompressionFound(None, 0, 0, 0.5)
    strongest = 0.0
    for x, y in _grids(planes):
        coefficients = _coefficients(planes, x, y)
        if coefficients.shape[0] < 40:
            continue
        quality, fit = _best_quality(coefficients)
        if fit > strongest:
            strongest = fit
            if fit > _LEAST:
                best = CompressionFound(quality, x, y, float(np.clip(0.4 + 0.7 * fit, 0, 0.98)))
    return best if best.quality else CompressionFound(None, 0, 0, float(np.clip(0.9 - strongest, 0.3, 0.9)))


def _grids(planes: list[Plane]) -> list[tuple[int, int]]:
    """The likeliest places for the block grid to begin: the corner, and where steps between neighbours are largest."""
    down, across = np.zeros(8), np.zeros(8)
    for plane in planes:
        for steps, axis in ((down, 0), (across, 1)):
            middle = np.abs(np.diff(plane, axis=axis))
            # A step across a block's edge against those to both sides of it.
            excess = middle - 0.5 * (np.roll(middle, 1, axis) + np.roll(middle, -1, axis))
            row = np.clip(excess, -0.05, 0.05).mean(axis=1 - axis)[1:-1]
            for offset in range(8):
                steps[offset] += row[(offset - 2) % 8 :: 8].mean() if row.size >= 8 else 0
    rows, columns = np.argsort(-down)[:2], np.argsort(-across)[:2]
    return list(dict.fromkeys([(0, 0), *((int(x), int(y)) for y in rows for x in columns)]))


def _coefficients(planes: list[Plane], x: int, y: int) -> npt.NDArray[np.float64]:
    """Told coefficients of whole blocks, N×12, on the scale of 8-bit samples; clipped blocks are left out."""
    blocks = []
    for plane in planes:
        part = plane[y : y + (plane.shape[0] - y) // 8 * 8, x : x + (plane.shape[1] - x) // 8 * 8]
        if part.size:
            cut = part.reshape(part.shape[0] // 8, 8, part.shape[1] // 8, 8).swapaxes(1, 2).reshape(-1, 8, 8)
            blocks.append(cut[(cut.min(axis=(1, 2)) > 1 / 255) & (cut.max(axis=(1, 2)) < 254 / 255)])
    if not blocks:
        return np.empty((0, len(_TOLD)))
    every = np.concatenate(blocks)
    every = every[:: max(1, len(every) // _MOST_BLOCKS)].astype(np.float64) * 255
    transform = cv2.dct(np.eye(8), flags=cv2.DCT_ROWS).T
    spectra = np.einsum("ij,njk,lk->nil", transform, every, transform)
    return np.stack([spectra[:, row, column] for row, column in _TOLD], axis=1)


def _best_quality(coefficients: npt.NDArray[np.float64]) -> tuple[int, float]:
    """(quality, fit) of the table on whose steps the coefficients lie best; a fit of 0 is chance, of 1 exact."""
    fits = np.zeros(101)
    for quality in range(_LEAST_QUALITY, 100):
        steps = np.array([table(quality)[row, column] for row, column in _TOLD])
        # Coefficients below half a step say nothing, nor do steps that rounding to 8 bits hides.
        telling = (np.abs(coefficients) > 0.6 * steps) & (steps >= 2)
        count = telling.sum()
        if count < 60:
            continue
        phase = np.cos(2 * np.pi * coefficients / steps)
        # Rounding to samples spreads coefficients by about 0.35; what is left of the cosine then is what can be had.
        most = np.exp(-2 * (np.pi * 0.35 / steps) ** 2)
        fit = (phase * telling).sum() / np.broadcast_to(most, telling.shape)[telling].sum()
        # The mean of so many cosines of chance has this σ; several hundred tables and grids are tried.
        fits[quality] = fit if fit > _CHANCE / np.sqrt(2 * count) else 0.0
    top = min(1.0, float(fits.max()))
    if top <= 0:
        return _LEAST_QUALITY, 0.0
    # Finer tables that divide this one fit as well: the one that was used is among the coarsest of those that fit.
    coarsest = int(np.argmax(fits > top - 0.08))
    return coarsest + int(np.argmax(fits[coarsest : coarsest + 4])), top
