"""Quick measurements of a torch network while it trains; the judge proper runs the shipped engines."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import damage
import numpy as np
import torch
from measures import lattice, psnr_y, texture_ratio
from reserved import reserved_pictures
from torch import Tensor

#: A torch network that enlarges: ``run(N×3×H×W in 0..1, factor)``.
Enlarger = Callable[[Tensor, int], Tensor]
_EDGE = 16


def enlarged(run: Enlarger, small: np.ndarray, factor: int) -> np.ndarray:
    """H×W×3 uint8 to fH×fW×3 in 0..255, mirrored at the borders as the core does it."""
    planes = torch.from_numpy(small.copy()).permute(2, 0, 1)[None].float() / 255
    padded = torch.nn.functional.pad(planes, (_EDGE, _EDGE, _EDGE, _EDGE), mode="reflect")
    with torch.no_grad():
        result = run(padded, factor)[0].permute(1, 2, 0).numpy() * 255
    edge = _EDGE * factor
    return result[edge:-edge, edge:-edge]


def psnr_table(run: Enlarger, factors: tuple[int, ...]) -> dict[str, float]:
    """Mean PSNR-Y on bicubic-shrunk reserved photographs."""
    return {
        f"x{factor}": round(float(np.mean([
            psnr_y(enlarged(run, damage.shrink(truth, factor), factor), truth, factor)
            for truth in reserved_pictures().values()
        ])), 3)
        for factor in factors
    }  # fmt: skip


def texture_table(run: Enlarger, factors: tuple[int, ...]) -> dict[str, float]:
    """Strength of texture ÷ the truth's, where that is textured and where it is flat."""
    return _pairs(run, factors, ("textured", "flat"), lambda result, truth, _: texture_ratio(result, truth))


def lattice_table(run: Enlarger, factors: tuple[int, ...]) -> dict[str, float]:
    """How far what is fine repeats itself from source pixel to source pixel, in strength and in sign."""
    return _pairs(run, factors, ("lattice", "dots"), lambda result, _, factor: lattice(result, factor))


def _pairs(
    run: Enlarger,
    factors: tuple[int, ...],
    names: tuple[str, str],
    measure: Callable[[np.ndarray, np.ndarray, int], tuple[float, float]],
) -> dict[str, float]:
    """What ``measure`` says of a result, its truth and the factor: two means over the reserved photographs, by factor."""
    table = {}
    for factor in factors:
        found = [
            measure(enlarged(run, damage.shrink(truth, factor), factor), truth, factor)
            for truth in reserved_pictures().values()
        ]
        for name, value in zip(names, np.mean(found, axis=0), strict=True):
            table[f"x{factor} {name}"] = round(float(value), 3)
    return table


def worn(truth: np.ndarray, factor: int, random: np.random.Generator) -> np.ndarray:
    """The judge's worn source: shrunk, noise σ 8, blur σ 1.2, JPEG 60."""
    small = damage.shrink(truth, factor)
    noisy = damage.eight(small + random.normal(0, 8, small.shape))
    return damage.jpeg(damage.eight(cv2.GaussianBlur(noisy, (0, 0), 1.2)), 60)


def worn_psnr(run: Enlarger) -> dict[str, float]:
    """PSNR-Y ×4 on worn sources."""
    random = np.random.default_rng(11)
    scores = [psnr_y(enlarged(run, worn(truth, 4, random), 4), truth, 4) for truth in reserved_pictures().values()]
    return {"worn x4": round(float(np.mean(scores)), 3)}


def drawn_gain(run: Enlarger, pictures: dict[str, np.ndarray]) -> dict[str, float]:
    """PSNR-Y over Lanczos at ×4, by picture."""
    table = {}
    for name, truth in pictures.items():
        small = damage.shrink(truth, 4)
        plain = damage.resize(small, truth.shape[1], truth.shape[0], "lanczos")
        table[name] = round(psnr_y(enlarged(run, small, 4), truth, 4) - psnr_y(plain, truth, 4), 2)
    return table
