"""Whether a picture has been enlarged already, and by how much: its true resolution."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Plane = npt.NDArray[np.float32]

_LARGEST = 8.0
#: A peak this many times the level around it is the trace of interpolation.
_PEAK = 4.0
#: Nepers that must be missing beyond the old picture's highest frequency: where the spectrum was seen to repeat, and
#: where it was not.
_MISSING_COHERENT, _MISSING = 0.9, 1.4
#: Factors people enlarge by, tried one by one.
_USUAL = (1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0)
#: From here on part of the spectrum is taken for a copy of another. Blocks of JPEG repeat every eight pixels, which
#: looks a little like enlarging by a power of two.
_COHERENT, _COHERENT_ON_BLOCKS = 0.3, 0.5
#: The same where a period has been seen already.
_COHERENT_PERIOD = 0.25


@dataclass(frozen=True)
class EnlargementFound:
    """``factor`` is 1 where no trace of enlarging was found."""

    factor: float
    confidence: float


def enlargement_of(planes: list[Plane], gridded: bool = False) -> EnlargementFound:
    """The factor a picture was enlarged by before it came here.

    ``planes`` are parts of its luma, H×W float32, 0..1; ``gridded`` says that they show the block grid of JPEG.

    Notes
    -----
    Enlarging repeats the old spectrum, which is seen for the usual factors (:func:`_coherence`) through compression as
    well. For other factors: interpolated samples are smoother between old samples than on them, so that the strength of
    second differences repeats with the factor (Gallagher 2005). The period is ambiguous (one of 3 is a factor of 3 or
    of 1.5); that nothing lies beyond the old picture's highest frequency tells which it is.
    """
    repeated = _repeated(planes)
    if repeated > 1:
        return EnlargementFound(_round(repeated), 0.95)
    frequencies, power = _profile(planes)
    coherence, usual = max((_coherence(planes, factor), factor) for factor in _USUAL)
    needed = _COHERENT_ON_BLOCKS if gridded and usual in (2, 4, 8) else _COHERENT
    if coherence > needed and _missing(frequencies, power, usual) > _MISSING_COHERENT:
        return EnlargementFound(usual, float(np.clip(coherence, 0.4, 0.97)))
    for frequency, strength in _peaks(planes, gridded):
        for factor in (1 / frequency, 1 / (1 - frequency)):
            missing = _missing(frequencies, power, factor)
            # A period of 3 that is no copy of the lowest frequencies is a factor of 1.5.
            copied = factor < 2 or _coherence(planes, factor) > _COHERENT_PERIOD
            if 1.15 <= factor <= _LARGEST and missing > _MISSING and copied:
                return EnlargementFound(
                    _round(factor), float(np.clip(0.4 + 0.02 * strength + 0.1 * missing, 0.5, 0.97))
                )
    return EnlargementFound(1.0, 0.7)


def _coherence(planes: list[Plane], factor: float) -> float:
    """How surely the spectrum beyond the old picture's follows from that within it, 0..1.

    Enlarging puts new samples between old ones and smooths them, so that the old spectrum repeats every 1/``factor``
    cycles per pixel: what lies at a frequency is what lies that far away, by a ratio that is the same in all rows.
    Rows that were not enlarged know nothing of this.
    """
    periods = round(64 / factor)
    side = round(periods * factor)
    window = np.hanning(side)
    # From a third of the old picture's highest frequency on, where the copy is not smoothed away yet.
    first = np.arange(max(2, side // 32), max(4, round(0.45 * periods)))
    first = first[first >= 0.3 * 0.5 * periods] if factor < 2.5 else first
    cross, own, other = (np.zeros(len(first), kind) for kind in (np.complex128, np.float64, np.float64))
    for plane in planes:
        for turned in (plane, plane.T):
            for start in range(0, turned.shape[1] - side + 1, side // 2):
                strip = turned[:, start : start + side].astype(np.float64)
                spectra = np.fft.fft((strip - strip.mean(axis=1, keepdims=True)) * window, axis=1)
                here, there = spectra[:, first], spectra[:, (first - periods) % side]
                cross += (here * there.conj()).sum(axis=0) * np.exp(-2j * np.pi * start / factor)
                own += (np.abs(here) ** 2).sum(axis=0)
                other += (np.abs(there) ** 2).sum(axis=0)
    return float(np.max(np.abs(cross) / np.sqrt(own * other + 1e-12)))


def _missing(frequencies: npt.NDArray[np.float64], power: npt.NDArray[np.float64], factor: float) -> float:
    """How much weaker than natural the spectrum is beyond the highest frequency of a picture enlarged by ``factor``.

    In nepers; natural spectra fall with the square of frequency.
    """
    end = 0.5 / factor
    inside = (frequencies > 0.4 * end) & (frequencies < 0.8 * end)
    beyond = (frequencies > min(1.25 * end, 0.44)) & (frequencies < min(2.1 * end, 0.5))
    if inside.sum() < 2 or beyond.sum() < 2:
        return 0.0
    level = power + 2 * np.log(np.maximum(frequencies, 1e-3))
    return float(level[inside].mean() - level[beyond].mean())


def _round(factor: float) -> float:
    """To whole and half factors where it is all but one of them, else to two digits."""
    half = round(2 * factor) / 2
    return half if abs(factor - half) < 0.03 * factor else round(factor, 2)


def _repeated(planes: list[Plane]) -> float:
    """The factor if samples were simply repeated, whole or not; 1 if they were not."""
    largest = max(planes, key=lambda plane: plane.size)
    factors = []
    for turned in (largest, largest.T):
        changes = np.flatnonzero(np.abs(np.diff(turned, axis=1)).max(axis=0) > 1e-4)
        runs = np.diff(changes)
        # What is longer is an even margin.
        runs = runs[runs <= _LARGEST + 1]
        if len(runs) < 20:
            return 1.0
        factor = float(runs.mean())
        if (np.abs(runs - factor) >= 1).mean() > 0.02:
            return 1.0
        factors.append(factor)
    return factors[0] if abs(factors[0] - factors[1]) < 0.05 and factors[0] > 1.15 else 1.0


def _peaks(planes: list[Plane], gridded: bool) -> list[tuple[float, float]]:
    """(frequency in cycles per pixel, strength) of what repeats in the strength of second differences, strongest first."""
    size = 1024
    total = np.zeros(size // 2 + 1)
    for plane in planes:
        for turned in (plane, plane.T):
            if turned.shape[1] < 64:
                continue
            second = np.abs(turned[:, 2:] - 2 * turned[:, 1:-1] + turned[:, :-2])
            line = np.log(np.minimum(second, 0.05).mean(axis=0) + 1e-5)
            line = (line - line.mean())[:size]
            spectrum = np.abs(np.fft.rfft(line * np.hanning(len(line)), size))
            total += spectrum / (np.median(spectrum) + 1e-12)
    level = np.array([np.median(total[max(0, i - 30) : i + 31]) for i in range(len(total))])
    ratio = total / (level + 1e-12)
    found = []
    for index in range(size // 9, size // 2 + 1):
        frequency = index / size
        # Eighths are the block grid's of JPEG.
        if gridded and min(abs(frequency - k / 8) for k in range(1, 5)) < 0.004:
            continue
        around = ratio[max(0, index - 2) : index + 3]
        if ratio[index] > _PEAK and ratio[index] == around.max():
            found.append((frequency, float(ratio[index])))
    return sorted(found, key=lambda one: -one[1])[:4]


def _profile(planes: list[Plane]) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """(cycles per pixel, mean log power) along the rows and columns, whichever reaches further."""
    side = 128
    sums = np.zeros(side // 2 + 1)
    count = 0
    window = np.hanning(side)
    for plane in planes:
        for turned in (plane, plane.T):
            for start in range(0, turned.shape[1] - side + 1, side // 2):
                strip = turned[::2, start : start + side].astype(np.float64)
                power = np.abs(np.fft.rfft((strip - strip.mean(axis=1, keepdims=True)) * window, axis=1)) ** 2
                sums += np.log(power.mean(axis=0) + 1e-9)
                count += 1
    return np.asarray(np.fft.rfftfreq(side), np.float64), sums / max(1, count)
