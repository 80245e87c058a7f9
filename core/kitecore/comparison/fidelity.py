"""Does a result still equal its source? What a treatment added, took away or shifted, each with a number and a place."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, Field

from kitecore.comparison.colour_shift import measure_colour_shift
from kitecore.pipeline.area_means import brought_back
from kitecore.pipeline.geometry import Region, Size, evenly_spread
from kitecore.pipeline.luma import luma
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.reading.noise import noise_of

Plane = npt.NDArray[np.float32]
Word = Literal["fine", "look", "problem"]
Measure = Literal["return", "drift", "halo", "smoothing", "seams", "invention"]

#: Side of the areas that are compared, in source pixels, and the most of them; of larger pictures they are spread evenly.
AREA, MOST_AREAS = 96, 100
#: Source pixels around an area that its filters look at.
_MARGIN = 8
_WORST = 3
#: Bands of detail by the σ of the Gaussians between which they lie, in source pixels, finest first.
_BANDS = ((0.0, 0.8), (0.8, 1.6), (1.6, 3.2))


class Spot(BaseModel):
    """A place of the result, in its pixels, and what was measured there."""

    x: int
    y: int
    value: float


class Finding(BaseModel):
    """One thing that was measured, in plain words."""

    measure: Measure
    title: str
    value: float
    unit: str
    word: Word
    says: str = Field(description="What the number means, in a sentence.")
    places: list[Spot] = Field(description="Where it is worst, worst first.")


class FidelityReport(BaseModel):
    findings: list[Finding]
    structure: float = Field(description="Mean structural similarity of the result brought back to source size, 0..1.")
    bands: list[float] = Field(description="Share of texture kept, finest band first, where the source has texture.")
    areas: int


@dataclass(frozen=True)
class AreaMeasures:
    """What is measured in one area. Tones on a scale of 0..255."""

    squared_error: float
    structure: float
    halo: float
    kept: tuple[float, ...] | None
    invented: float | None
    #: Middle of the area in the result.
    x: int
    y: int


def areas_of(size: Size) -> list[Region]:
    """The areas of a source of ``size`` that are compared: all of them, or evenly spread ones if there are too many."""
    across, down = math.ceil(size.width / AREA), math.ceil(size.height / AREA)
    thin = max(1.0, math.sqrt(across * down / MOST_AREAS))
    columns, rows = max(1, int(across / thin)), max(1, int(down / thin))
    return evenly_spread(size, Size(AREA, AREA), columns, rows)


def report_of(
    source: Stage, result: Stage, profile: bytes | None, run: Run, progress: Callable[[float], None] = lambda _: None
) -> FidelityReport:
    """Compare ``result`` with the framed ``source`` it was made from, both in the colour space of ``profile``."""
    areas = areas_of(source.size)
    scale_x, scale_y = result.size.width / source.size.width, result.size.height / source.size.height
    noise = _noise(source, areas, run)
    measured = []
    for number, area in enumerate(areas):
        run.check()
        measured.append(_area(source, result, area, scale_x, scale_y, noise, run))
        progress(0.9 * (number + 1) / len(areas))
    shift = measure_colour_shift(source, result, profile, run)
    progress(0.97)
    seam = _seam(result, run)
    progress(1.0)
    kept = [area.kept for area in measured if area.kept]
    bands = [round(float(np.median([one[band] for one in kept])), 3) for band in range(len(_BANDS))] if kept else []
    return FidelityReport(
        findings=[
            _return(measured),
            _finding(
                "drift",
                "Tone and colour",
                shift.most,
                "ΔE2000",
                (1.0, 2.5),
                "Largest shift of an area's colour; below 1 nobody sees it.",
                [Spot(x=shift.x, y=shift.y, value=shift.most)],
            ),
            _finding(
                "halo",
                "Halo",
                _high([area.halo for area in measured]),
                "of 255",
                (6.0, 14.0),
                "How far edges overshoot the tones the source has around them.",
                _worst(measured, lambda area: area.halo),
            ),
            _smoothing(measured, bands),
            _finding(
                "seams",
                "Seams",
                seam.value,
                "of 255",
                (0.6, 1.5),
                "Difference between parts computed apart and together.",
                [seam],
            ),
            _invention(measured),
        ],
        structure=round(float(np.mean([area.structure for area in measured])), 4),
        bands=bands,
        areas=len(areas),
    )


def _noise(source: Stage, areas: list[Region], run: Run) -> float:
    """σ of the source's luma noise, 0..1."""
    planes = [luma(source.render(area, run)) for area in areas[:: max(1, len(areas) // 24)]]
    sigma, _ = noise_of(planes, planes)
    # In small pictures nothing is flat; the finest diagonal detail is then nearer to the noise (Immerkær 1996).
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32) / 6
    finest = [float(np.median(np.abs(cv2.filter2D(plane, cv2.CV_32F, kernel)))) / 0.6745 for plane in planes]
    return min(sigma / 255, float(np.quantile(finest, 0.25)))


def _area(
    source: Stage, result: Stage, area: Region, scale_x: float, scale_y: float, noise: float, run: Run
) -> AreaMeasures:
    around = area.grown(_MARGIN)
    pixels = source.extended(around, run)
    place = area.scaled(scale_x, scale_y).intersection(result.size.region)
    assert place is not None
    made = result.render(place, run)
    back = luma(brought_back(made, place, area, scale_x, scale_y))
    own = luma(pixels)
    inner = own[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN]
    shown = luma(made)
    plain = _plainly(own, around, place, scale_x, scale_y)
    return AreaMeasures(
        squared_error=float(((back - inner) ** 2).mean()) * 255**2,
        structure=structural_similarity(back, inner),
        halo=halo(back, own) * 255,
        kept=kept_texture(back, inner, noise),
        invented=invented_texture(shown, plain, noise),
        x=place.x + place.width // 2, y=place.y + place.height // 2,
    )  # fmt: skip


def _plainly(own: Plane, around: Region, place: Region, scale_x: float, scale_y: float) -> Plane:
    """The source's luma at the result's pixels of ``place``, by cubic interpolation between sample centres."""
    x = (np.arange(place.x, place.right) + 0.5) / scale_x - 0.5 - around.x
    y = (np.arange(place.y, place.bottom) + 0.5) / scale_y - 0.5 - around.y
    columns, rows = np.meshgrid(x.astype(np.float32), y.astype(np.float32))
    return np.asarray(cv2.remap(own, columns, rows, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT_101), np.float32)


def structural_similarity(first: Plane, second: Plane) -> float:
    """Mean structural similarity (Wang et al. 2004) with Gaussian windows of σ 1.5, tones 0..1."""

    def blurred(plane: Plane) -> Plane:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), 1.5), np.float32)

    mean_a, mean_b = blurred(first), blurred(second)
    variance_a, variance_b = blurred(first**2) - mean_a**2, blurred(second**2) - mean_b**2
    covariance = blurred(first * second) - mean_a * mean_b
    similarity = (2 * mean_a * mean_b + 1e-4) * (2 * covariance + 9e-4)
    return float((similarity / ((mean_a**2 + mean_b**2 + 1e-4) * (variance_a + variance_b + 9e-4))).mean())


def halo(back: Plane, own: Plane) -> float:
    """How far a result overshoots, 0..1: beyond the lightest and darkest of the source within two pixels, at edges.

    ``back`` is the result brought back to the source's pixels, ``own`` the source around them by :data:`_MARGIN`. True
    detail averages out on the way back; a halo, which lies beside the edge, does not. The 99th percentile beside edges;
    0 where there are none.
    """
    kernel = np.ones((5, 5), np.uint8)
    inner = slice(_MARGIN, -_MARGIN)
    high, low = cv2.dilate(own, kernel)[inner, inner], cv2.erode(own, kernel)[inner, inner]
    edge = high - low > 0.15
    if edge.sum() < 40:
        return 0.0
    over = np.maximum(np.maximum(back - high, low - back), 0)[edge]
    return float(np.percentile(over, 99))


def kept_texture(back: Plane, own: Plane, noise: float) -> tuple[float, ...] | None:
    """Share of the source's texture that is still there, per band; None where it has none beyond its noise."""
    shares = []
    for fine, coarse in _BANDS:
        before, after = (_band(plane, fine, coarse) for plane in (own, back))
        # White noise of σ leaves this much in the band.
        response = _band(_impulse(), fine, coarse)
        noisy = noise**2 * float((response**2).sum())
        energy = float((before**2).mean()) - noisy
        if energy < max(noisy, (1.2 / 255) ** 2):
            return None
        # What follows the source is texture that was kept; the rest is noise that went or texture that came.
        shares.append(math.sqrt(max(0.0, float((before * after).mean()) - noisy * _passed(before, after)) / energy))
    return tuple(min(1.5, share) for share in shares)


def _passed(before: Plane, after: Plane) -> float:
    """How much of noise is likely to have passed: as much as of everything."""
    return float(np.clip((before * after).mean() / max(1e-9, (before**2).mean()), 0, 1))


def _impulse() -> Plane:
    plane = np.zeros((33, 33), np.float32)
    plane[16, 16] = 1
    return plane


def _band(plane: Plane, fine: float, coarse: float) -> Plane:
    first = cv2.GaussianBlur(plane, (0, 0), fine) if fine else plane
    return np.asarray(first - cv2.GaussianBlur(plane, (0, 0), coarse), np.float32)


def invented_texture(shown: Plane, plain: Plane, noise: float) -> float | None:
    """Fine texture of a result beyond that of the plainly enlarged source, RMS of 255, where that is flat; None elsewhere."""
    broad = cv2.GaussianBlur(plain, (0, 0), 4.0)
    slope = np.hypot(cv2.Sobel(broad, cv2.CV_32F, 1, 0), cv2.Sobel(broad, cv2.CV_32F, 0, 1))
    fine_plain = plain - broad
    calm = (slope < 0.02) & (cv2.blur(fine_plain**2, (15, 15)) < max((2.0 / 255) ** 2, (1.6 * noise) ** 2))
    # Firmer edges nearby are no texture.
    calm = cv2.erode(calm.astype(np.uint8), np.ones((13, 13), np.uint8)) > 0
    if calm.mean() < 0.1:
        return None
    fine = shown - cv2.GaussianBlur(shown, (0, 0), 4.0)
    more = float((fine[calm] ** 2).mean() - (fine_plain[calm] ** 2).mean())
    return math.sqrt(max(0.0, more)) * 255


def _seam(result: Stage, run: Run) -> Spot:
    """The largest difference along a border between two parts computed apart, from the same part computed whole."""
    size = result.size
    side = min(64, size.width // 2, size.height // 2)
    if side < 2:
        return Spot(x=0, y=0, value=0.0)
    x, y = size.width // 2, size.height // 2
    whole = result.render(Region(x - side, y - side, 2 * side, 2 * side), run)
    left = result.render(Region(x - side, y - side, side, 2 * side), run)
    right = result.render(Region(x, y - side, side, 2 * side), run)
    apart = np.concatenate([left, right], axis=1)
    return Spot(x=x, y=y, value=round(float(np.abs(apart - whole).max()) * 255, 3))


def _high(values: list[float]) -> float:
    """What only the worst twentieth exceeds."""
    return float(np.percentile(values, 95)) if values else 0.0


def _worst(
    measured: list[AreaMeasures], value: Callable[[AreaMeasures], float | None], most: bool = True
) -> list[Spot]:
    known = [(found, area) for area in measured if (found := value(area)) is not None]
    known.sort(key=lambda one: one[0], reverse=most)
    return [Spot(x=area.x, y=area.y, value=round(found, 3)) for found, area in known[:_WORST]]


def _finding(
    measure: Measure, title: str, value: float, unit: str, limits: tuple[float, float], says: str, places: list[Spot]
) -> Finding:
    """Fine below the first limit, a problem from the second on."""
    word: Word = "fine" if value < limits[0] else "look" if value < limits[1] else "problem"
    return Finding(measure=measure, title=title, value=round(value, 3), unit=unit, word=word, says=says, places=places)


def _return(measured: list[AreaMeasures]) -> Finding:
    psnr = 10 * math.log10(255**2 / max(1e-3, float(np.mean([area.squared_error for area in measured]))))

    def decibels(area: AreaMeasures) -> float:
        return 10 * math.log10(255**2 / max(1e-3, area.squared_error))

    word: Word = "fine" if psnr >= 36 else "look" if psnr >= 29 else "problem"
    return Finding(
        measure="return", title="Back at source size", value=round(psnr, 2), unit="dB", word=word,
        says="How nearly the result, brought back to source size, equals the source; what was cleaned away counts as well.",
        places=_worst(measured, decibels, most=False),
    )  # fmt: skip


def _smoothing(measured: list[AreaMeasures], bands: list[float]) -> Finding:
    lost = 100 * max(0.0, 1 - min(bands)) if bands else 0.0
    return _finding(
        "smoothing",
        "Texture lost",
        lost,
        "%",
        (20.0, 40.0),
        "Texture of the source that is no longer there, in the band that lost most.",
        _worst(measured, lambda area: 100 * (1 - min(area.kept)) if area.kept else None),
    )


def _invention(measured: list[AreaMeasures]) -> Finding:
    values = [area.invented for area in measured if area.invented is not None]
    return _finding(
        "invention", "Texture invented", _high(values), "of 255", (2.5, 5.0), "Texture that appeared where the source is flat.",
        _worst(measured, lambda area: area.invented),
    )  # fmt: skip
