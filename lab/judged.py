"""What the parts of the judge share: the core's results, and means of scores."""

from __future__ import annotations

import numpy as np
from measures import haarpsi, psnr_y, ssim_y

from kitecore.steps import AnyStep, Enlarge
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.render import render_array


def mean(values: list[float], digits: int = 2) -> float:
    return round(float(np.mean(values)), digits)


def by(steps: list[AnyStep], samples: np.ndarray) -> np.ndarray:
    """The core's result in 0..255."""
    return render_array(samples, steps) * 255


def enlarged(engine: str, small: np.ndarray, factor: int) -> np.ndarray:
    return by([Enlarge(engine=engine, target=ByFactor(factor=factor))], small)


def scores(results: list[tuple[np.ndarray, np.ndarray]], border: int) -> dict[str, float]:
    """Means over (result, truth)."""
    return {
        "psnr_y": mean([psnr_y(result, truth, border) for result, truth in results]),
        "ssim": mean([ssim_y(result, truth, border) for result, truth in results], 4),
        "haarpsi": mean([haarpsi(result, truth) for result, truth in results], 4),
    }
