"""What lies where on a head: hair, brows, beard, cheeks, cloth; told by place on the neutral head, once for all people."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from people import Body, Points


class Noise:
    """Smooth noise in space: sums of waves of chance direction, about ``grain`` metres from hill to hill; about σ 1."""

    def __init__(self, chance: np.random.Generator, grain: float, waves: int = 20) -> None:
        directions = chance.normal(size=(waves, 3))
        self._waves = directions / np.linalg.norm(directions, axis=1, keepdims=True) * 2 * np.pi / grain
        self._waves *= chance.uniform(0.6, 1.5, (waves, 1))
        self._phases = chance.uniform(0, 2 * np.pi, waves)

    def __call__(self, points: Points) -> np.ndarray:
        return np.asarray(np.sin(points @ self._waves.T + self._phases).sum(1) * np.sqrt(2 / len(self._phases)))


def step(values: np.ndarray, low: float, high: float) -> np.ndarray:
    share = np.clip((values - low) / (high - low), 0, 1)
    return np.asarray(share * share * (3 - 2 * share))


@dataclass
class Look:
    """How strongly something shows, at every fine point of the skin, 0..1; made once for all people."""

    scalp: np.ndarray
    brow: np.ndarray
    beard: np.ndarray
    moustache: np.ndarray
    cheek: np.ndarray
    nose: np.ndarray
    lids: np.ndarray
    cloth: np.ndarray
    forehead: np.ndarray
    crow: np.ndarray
    #: How much of its depth the hair has: little at its edge.
    deep: np.ndarray

    @staticmethod
    def of(body: Body) -> Look:
        x, y, z = body.neutral.T
        side = np.abs(x)
        around = np.degrees(np.arctan2(side, y + 0.075))  # 0 in front, 180 behind
        # The line at which hair begins, by the way around the head: forehead, temple, in front of the ear, nape.
        line = (
            np.interp(around, [0, 22, 40, 55, 66, 80, 92, 100, 125, 180], [67, 66, 58, 40, 8, -12, 30, 34, -45, -62])
            / 1e3
        )
        line = line + 0.002 * Noise(np.random.default_rng(3), 0.012)(body.neutral)
        scalp = step(z - line, -0.004, 0.010)
        deep = step(z - line, 0.0, 0.045)
        ear = (side > 0.066) & (np.abs(z + 0.012) < 0.04) & (np.abs(y + 0.095) < 0.03)
        scalp = np.where(ear, 0, scalp) * (z > -0.07)
        deep = deep * scalp
        brow_middle = np.interp(side, [0.010, 0.020, 0.035, 0.048, 0.056], [17.5, 21, 24, 22, 17]) / 1e3
        thick = np.interp(side, [0.008, 0.014, 0.030, 0.045, 0.057], [1.5, 4.2, 3.8, 2.6, 0.8]) / 1e3
        brow = np.exp(-(((z - brow_middle) / thick) ** 2)) * step(side, 0.007, 0.013) * (1 - step(side, 0.050, 0.058))
        brow *= y > -0.06
        lips = body.lips
        jaw = np.interp(around, [0, 30, 60, 75, 90], [-60, -58, -45, -20, -5]) / 1e3
        beard = (
            (1 - step(z - jaw, -0.012, 0.006)) * step(z, -0.150, -0.125) * (around < 86) * (1 - np.clip(lips * 3, 0, 1))
        )
        mouth_sides = 1 - step(np.abs(z + 0.079), 0.018, 0.026)
        beard *= 1 - mouth_sides * (1 - step(side, 0.020, 0.032)) * (z > -0.072)
        moustache = (
            step(z, -0.073, -0.068) * (1 - step(z, -0.058, -0.053)) * (1 - step(side, 0.022, 0.030)) * (y > 0)
            * (1 - np.clip(lips * 2, 0, 1))
        )  # fmt: skip
        cheek = np.exp(-(((side - 0.040) / 0.018) ** 2) - ((z + 0.040) / 0.017) ** 2) * (y > -0.05)
        nose = np.exp(-((side / 0.013) ** 2) - ((z + 0.040) / 0.014) ** 2) * (y > 0)
        lids = np.exp(-(((side - 0.0314) / 0.017) ** 2) - (z / 0.010) ** 2) * (y > -0.03)
        cloth = 1 - step(z + 0.35 * np.clip(-y - 0.05, -0.2, 0.2), -0.172, -0.164)
        forehead = step(z, 0.026, 0.036) * (1 - step(z, 0.056, 0.066)) * (1 - step(side, 0.035, 0.05)) * (y > -0.06)
        crow = np.exp(-(((side - 0.058) / 0.008) ** 2) - (z / 0.012) ** 2) * (y > -0.06)
        return Look(scalp, brow, beard, moustache, cheek, nose, lids, cloth, forehead, crow, deep)
