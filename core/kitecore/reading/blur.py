"""What kind of blur a picture has and how large it is, from the mean spectrum of its textured parts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from itertools import product
from typing import Literal, TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.filters.psf import Kernel, disc, gaussian, streak

Plane = npt.NDArray[np.float32]
Kind = Literal["none", "focus", "motion", "soft"]

_SIDE = 128
_MOST_PATCHES = 120
#: Spectra of natural pictures fall with frequency to one of these powers.
_SLOPES = (1.8, 2.2, 2.6)
#: Cycles per pixel between which spectra are compared.
_LOWEST, _HIGHEST = 0.03, 0.5
#: Shares of the noise that was read which may truly be noise.
_NOISE_SHARES = (1.0, 0.4, 0.15)
#: One in so many frequencies is looked at first, and so many candidates of a kind are then compared in all of them.
_ROUGHLY, _LIKED = 7, 10
#: Softness that sharp pictures have as well, of lens and sensor, in px.
_SHARP = (0.2, 0.35, 0.5, 0.65)
#: How much better, in squared nepers, a blur must explain the spectrum than sharpness or softness do.
_MARGIN = {"soft": 0.012, "focus": 0.012, "motion": 0.03}
#: σ from which softness is seldom a lens's, and how much worse missed focus may then explain the spectrum.
_STRONG_SOFTNESS, _FOCUS_PRIOR = 1.35, 0.01
#: Misfit, kind, size and angle of a candidate.
_Scored: TypeAlias = tuple[float, Kind, float, float]


@dataclass(frozen=True)
class BlurFound:
    kind: Kind
    #: Radius of missed focus, length of movement or σ of softness, in px.
    size: float
    #: Of movement, degrees counter-clockwise from level, 0..180.
    angle: float
    confidence: float


def blur_of(planes: list[Plane], noise: float) -> BlurFound:
    """The blur that explains best how the spectrum of a picture falls.

    Parameters
    ----------
    planes
        Parts of the picture's luma, H×W float32, 0..1.
    noise
        σ of its noise on the same scale.

    Notes
    -----
    The mean log spectrum of the most textured patches is compared with that of natural pictures (a power of frequency)
    times each candidate's transfer function plus the noise. Fergus et al. 2006 for the prior, Cannon 1976 for blur
    read from the mean log spectrum.
    """
    patches = _patches(planes)
    if len(patches) < 3:
        return BlurFound("none", 0.0, 0.0, 0.0)
    spectrum = np.mean([_log_power(patch) for patch in patches], axis=0)
    # Fine texture reads as noise; what is truly there may be less, and the zeros of missed focus then lie deeper.
    floors = [(share * noise) ** 2 * float((_window() ** 2).sum()) + 1e-9 for share in _NOISE_SHARES]
    scored = list(_scored(spectrum, floors))
    best = {kind: min(one for one in scored if one[1] == kind) for kind in ("none", "soft", "focus", "motion")}
    plain = best["none"][0]
    round_ = best["focus"] if _rather_focus(best["soft"], best["focus"]) else min(best["soft"], best["focus"])
    chosen = best["none"]
    if round_[0] < plain - _MARGIN[round_[1]]:
        chosen = round_
    if best["motion"][0] < min(chosen[0], plain) - _MARGIN["motion"]:
        chosen = best["motion"]
    if chosen[1] == "motion":
        chosen = min(chosen, *_nearby_movements(spectrum, floors, chosen[2], chosen[3]))
    kind = chosen[1]
    gain = plain - chosen[0]
    others = [one[0] for name, one in best.items() if name not in (kind, "none")]
    lead = min(others) - chosen[0] if kind != "none" else min(others) - plain + 0.02
    confidence = float(np.clip(0.35 + 4 * lead + 0.5 * gain, 0.2, 0.97))
    return BlurFound(kind, chosen[2], chosen[3], confidence)


def _rather_focus(soft: _Scored, focus: _Scored) -> bool:
    """Whether missed focus, which photographs have oftener than strong softness, explains a spectrum nearly as well.

    Only where both say the same of its size: a disc of radius r is about as wide as a Gaussian of σ = r ÷ 2. Fitted on 19 of
    the lab's photographs: focus of 2.5 px is told from softness in 13 instead of 5, of 5 px in 10 instead of 8, and softness of
    2.5 px stays softness in 17.
    """
    alike = 0.6 < focus[2] / (2 * max(soft[2], 1e-6)) < 1.6
    return soft[2] > _STRONG_SOFTNESS and alike and focus[0] < soft[0] + _FOCUS_PRIOR


def _scored(spectrum: npt.NDArray[np.float64], floors: list[float]) -> Iterator[tuple[float, Kind, float, float]]:
    """Misfit, kind, size and angle of the candidates of each kind that a look at some of the frequencies likes best."""
    rough = [
        (_misfit(spectrum, one[3], floors, slice(None, None, _ROUGHLY)), index)
        for index, one in enumerate(_candidates())
    ]
    for kind in ("none", "soft", "focus", "motion"):
        liked = sorted(score for score in rough if _candidates()[score[1]][0] == kind)[:_LIKED]
        for _, index in liked:
            name, size, angle, transfer = _candidates()[index]
            yield _misfit(spectrum, transfer, floors), name, size, angle


def _nearby_movements(
    spectrum: npt.NDArray[np.float64], floors: list[float], length: float, angle: float
) -> list[tuple[float, Kind, float, float]]:
    """Misfits of movements between those that were tried."""
    kind: Kind = "motion"
    found = []
    for longer in (-0.7, -0.35, 0.0, 0.35, 0.7):
        for turn in (-3.0, -1.5, 0.0, 1.5, 3.0):
            near, turned = max(2.0, length + longer), (angle + turn) % 180
            found.append((_misfit(spectrum, _transfer(streak(near, turned)), floors), kind, near, turned))
    return found


@cache
def _window() -> npt.NDArray[np.float64]:
    edge = np.hanning(_SIDE + 2)[1:-1]
    return np.outer(edge, edge)


@cache
def _frequencies() -> tuple[npt.NDArray[np.float64], npt.NDArray[np.bool_]]:
    """Cycles per pixel of every cell of the half spectrum, and which of them are compared."""
    across, along = np.fft.rfftfreq(_SIDE), np.fft.fftfreq(_SIDE)
    radius = np.hypot(along[:, None], across[None])
    # The axes hold what the borders of the picture and its verticals leave there.
    off_axis = (np.abs(along[:, None]) > 1.5 / _SIDE) & (across[None] > 1.5 / _SIDE)
    return np.maximum(radius, 1e-6), (radius > _LOWEST) & (radius < _HIGHEST) & off_axis


def _patches(planes: list[Plane]) -> list[Plane]:
    found: list[tuple[float, int, Plane]] = []
    for plane in planes:
        height, width = plane.shape
        for y in range(0, height - _SIDE + 1, _SIDE // 2):
            for x in range(0, width - _SIDE + 1, _SIDE // 2):
                patch = plane[y : y + _SIDE, x : x + _SIDE]
                found.append((float(np.abs(np.diff(patch[::2, ::2], axis=0)).mean()), len(found), patch))
    found.sort(key=lambda one: -one[0])
    # Smooth patches show the noise, not the blur.
    enough = 0.4 * found[len(found) // 20][0] if found else 0.0
    return [patch for texture, _, patch in found[:_MOST_PATCHES] if texture >= enough]


def _log_power(patch: Plane) -> npt.NDArray[np.float64]:
    centred = (patch - patch.mean()) * _window()
    power = np.abs(np.fft.rfft2(centred)) ** 2
    _, compared = _frequencies()
    return np.asarray(np.log(power[compared] + 1e-10), np.float64)


def _misfit(
    spectrum: npt.NDArray[np.float64],
    transfer: npt.NDArray[np.float64],
    floors: list[float],
    part: slice = slice(None),
) -> float:
    """Mean squared difference, in nepers, between a spectrum and the best one of natural pictures seen through a blur.

    ``part`` says which of the compared frequencies are looked at.
    """
    radius, compared = _frequencies()
    spectrum, transfer, radius = spectrum[part], transfer[part], radius[compared][part]
    best = np.inf
    for slope, floor in product(_SLOPES, floors):
        shape = transfer * radius**-slope
        # The logarithm of a periodogram lies 0.577 below that of its mean.
        level = np.exp(np.median(spectrum - np.log(shape + floor)) + 0.577)
        for _ in range(3):
            expected = np.log(level * shape + floor) - 0.577
            share = level * shape / (level * shape + floor)
            level *= float(np.exp(((spectrum - expected) * share).sum() / max(share.sum(), 1e-6)))
        difference = spectrum - (np.log(level * shape + floor) - 0.577)
        best = min(best, float(np.mean(np.minimum(difference**2, 4.0))))
    return best


@cache
def _candidates() -> tuple[tuple[Kind, float, float, npt.NDArray[np.float64]], ...]:
    return tuple(_all_candidates())


def _all_candidates() -> Iterator[tuple[Kind, float, float, npt.NDArray[np.float64]]]:
    for sigma in _SHARP:
        yield "none", 0.0, 0.0, _transfer(gaussian(sigma))
    for sigma in (*np.arange(0.8, 2.05, 0.1), *np.arange(2.2, 5.1, 0.2)):
        yield "soft", float(sigma), 0.0, _transfer(gaussian(float(sigma)))
    for radius in (*np.arange(1.0, 4.05, 0.15), *np.arange(4.3, 10.1, 0.3)):
        yield "focus", float(radius), 0.0, _transfer(disc(float(radius)))
    for length in (*np.arange(3, 12.1, 0.75), *np.arange(13, 31, 1.0)):
        for angle in np.arange(0, 180, 6.0):
            yield "motion", float(length), float(angle), _transfer(streak(float(length), float(angle)))


def _transfer(psf: Kernel) -> npt.NDArray[np.float64]:
    padded = np.zeros((_SIDE, _SIDE))
    padded[: psf.shape[0], : psf.shape[1]] = psf
    _, compared = _frequencies()
    # Patches are windowed, which smears the zeros of a transfer function over neighbouring cells.
    return np.asarray(np.abs(np.fft.rfft2(padded))[compared] ** 2 + 2e-4, np.float64)
