"""What kind of blur a picture has and how large it is, from the mean spectrum of its textured parts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from itertools import product
from typing import Literal, TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.filters.psf import disc, gaussian, streak
from kitecore.reading.rings import rings_of
from kitecore.reading.spectrum import Plane, frequencies, log_power, mirrored_out, patches_of, transfer_of, window

Kind = Literal["none", "focus", "motion", "soft"]

#: Spectra of natural pictures fall with frequency to one of these powers.
_SLOPES = (1.8, 2.2, 2.6)
#: Shares of the noise that was read which may truly be noise.
_NOISE_SHARES = (1.0, 0.4, 0.15)
#: One in so many frequencies is looked at first, and so many candidates of a kind are then compared in all of them.
_ROUGHLY, _LIKED = 7, 10
#: Softness that sharp pictures have as well, of lens and sensor, in px.
_SHARP = (0.2, 0.35, 0.5, 0.65)
#: How much better, in squared nepers, a blur must explain the spectrum than sharpness or softness do.
_MARGIN = {"soft": 0.012, "focus": 0.012, "motion": 0.03}
#: Rings that are not sure, but so likely and so nearly of the size that the spectrum tells: then that is trusted so far.
_LIKE_RINGS, _SAME_RADIUS, _BOTH_SAY_SO = 0.55, 0.35, 0.8
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
    Rings in the mean log spectrum of the most textured patches tell missed focus. Where there are none the spectrum is
    compared with that of natural pictures (a power of frequency) times each candidate's transfer function plus the noise.
    Fergus et al. 2006 for the prior, Cannon 1976 for blur read from the mean log spectrum.
    """
    patches = patches_of(planes)
    if len(patches) < 3:
        return _of_small(planes)
    spectrum = np.mean([log_power(patch) for patch in patches], axis=0)
    rings = rings_of(spectrum)
    if rings.sure:
        return BlurFound("focus", rings.radius, 0.0, 0.95 if rings.rise > 0.1 else 0.85)
    # Fine texture reads as noise; what is truly there may be less, and the zeros of missed focus then lie deeper.
    floors = [(share * noise) ** 2 * float((window() ** 2).sum()) + 1e-9 for share in _NOISE_SHARES]
    scored = list(_scored(spectrum, floors))
    best = {kind: min(one for one in scored if one[1] == kind) for kind in ("none", "soft", "focus", "motion")}
    plain = best["none"][0]
    round_ = min(best["soft"], best["focus"])
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
    if kind == "focus" and rings.likeness > _LIKE_RINGS and abs(rings.radius - chosen[2]) < _SAME_RADIUS:
        confidence = max(confidence, _BOTH_SAY_SO)
    return BlurFound(kind, chosen[2], chosen[3], confidence)


def _of_small(planes: list[Plane]) -> BlurFound:
    """The missed focus of a picture that is too small for anything else to be read: its rings stay where it is mirrored."""
    patches = patches_of([plane for plane in map(mirrored_out, planes) if plane is not None])
    if len(patches) >= 3:
        rings = rings_of(np.mean([log_power(patch) for patch in patches], axis=0))
        if rings.sure:
            return BlurFound("focus", rings.radius, 0.0, 0.85)
    return BlurFound("none", 0.0, 0.0, 0.0)


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
            found.append((_misfit(spectrum, transfer_of(streak(near, turned)), floors), kind, near, turned))
    return found


def _misfit(
    spectrum: npt.NDArray[np.float64],
    transfer: npt.NDArray[np.float64],
    floors: list[float],
    part: slice = slice(None),
) -> float:
    """Mean squared difference, in nepers, between a spectrum and the best one of natural pictures seen through a blur.

    ``part`` says which of the compared frequencies are looked at.
    """
    radius, compared = frequencies()
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
        yield "none", 0.0, 0.0, transfer_of(gaussian(sigma))
    for sigma in (*np.arange(0.8, 2.05, 0.1), *np.arange(2.2, 5.1, 0.2)):
        yield "soft", float(sigma), 0.0, transfer_of(gaussian(float(sigma)))
    for radius in (*np.arange(1.0, 4.05, 0.15), *np.arange(4.3, 8.1, 0.3)):
        yield "focus", float(radius), 0.0, transfer_of(disc(float(radius)))
    for length in (*np.arange(3, 12.1, 0.75), *np.arange(13, 31, 1.0)):
        for angle in np.arange(0, 180, 6.0):
            yield "motion", float(length), float(angle), transfer_of(streak(float(length), float(angle)))
