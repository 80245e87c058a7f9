"""Hairs as narrow ribbons that grow along the skin, and hang if they are long."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from look import Noise

from people import Mesh, Points

#: The head as long hair meets it: nearly an egg.
_MIDDLE, _RADII = np.array([0, -0.085, 0.015]), np.array([0.078, 0.098, 0.118])


@dataclass(frozen=True)
class Hair:
    """Hair of one kind: where it grows (by point of the skin, 0..1), how many, metres long and wide, and how it lies."""

    where: np.ndarray
    count: int
    length: float
    width: float
    colour: np.ndarray
    hanging: bool = True
    curl: float = 0.0
    parting: float = 0.0
    fringe: bool = False


def strands(hair: Hair, own: np.random.Generator, points: Points, normals: Points, neutral: Points) -> Mesh:
    """The hairs on a skin of ``points``, which are where ``neutral`` is on the neutral head."""
    weight = hair.where * (hair.where > 0.15)
    roots = own.choice(len(points), hair.count, p=weight / weight.sum())
    at, up = points[roots] + own.normal(0, 0.0008, (hair.count, 3)), normals[roots]
    home = neutral[roots]
    tuft = np.stack([Noise(own, 0.022)(home) for _ in range(3)], 1)  # neighbours lie alike
    if hair.hanging:
        # Away from the parting, back and down; a fringe falls over the forehead.
        away = np.stack(
            [np.sign(home[:, 0] - hair.parting) * 0.9, -0.6 * np.ones(hair.count), -0.45 * np.ones(hair.count)], 1
        )
        beard = home[:, 2] < -0.05
        away[beard] = np.stack([0.15 * np.sign(home[beard, 0]), 0.1 * np.ones(beard.sum()), -np.ones(beard.sum())], 1)
        front = (home[:, 1] > -0.075) & (home[:, 2] > 0.04) & hair.fringe
        away[front] = np.stack(
            [0.4 * np.sign(home[front, 0]), 0.8 * np.ones(front.sum()), -0.7 * np.ones(front.sum())], 1
        )
    else:
        away = np.stack(
            [np.sign(home[:, 0]), -0.3 * np.ones(hair.count), np.where(np.abs(home[:, 0]) < 0.03, 0.5, -0.15)], 1
        )
        front = np.zeros(hair.count, bool)
    stand = np.where(home[:, 2:] < -0.05, 0.7, 0.12 if hair.length > 0.02 else 0.3)
    along = away - up * (away * up).sum(1, keepdims=True) + stand * up
    along += 0.22 * tuft + own.normal(0, 0.07, (hair.count, 3))
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    steps = (9 if hair.length > 0.07 else 6) if hair.hanging else 4
    own_length = hair.length * own.uniform(0.7, 1.1, (hair.count, 1)) * np.clip(hair.where[roots], 0.3, 1)[:, None]
    own_length[front] = np.minimum(own_length[front], 0.05)
    path = _grown(hair, own, (at, along, home), own_length, front, steps)
    across = np.cross(along, up)
    across = across / np.linalg.norm(across, axis=1, keepdims=True) + own.normal(0, 0.6, (hair.count, 3))
    across = across / np.linalg.norm(across, axis=1, keepdims=True)
    half = across[:, None] * hair.width * np.linspace(1, 0.35, steps)[None, :, None]
    ribbons = np.stack([path - half, path + half], 2)  # strand, step, side
    first = np.arange(hair.count)[:, None] * steps * 2 + np.arange(steps - 1)[None] * 2
    faces = np.stack([first, first + 1, first + 2, first + 1, first + 3, first + 2], -1).reshape(-1, 3)
    shade = hair.colour * np.exp(own.normal(0, 0.3, (hair.count, 1)))
    colours = np.repeat(shade, steps * 2, axis=0)
    return Mesh(
        ribbons.reshape(-1, 3), faces, np.clip(colours, 0.002, 0.9), {"rough": 0.4, "specular": 0.3}, smooth=False
    )


def _grown(
    hair: Hair, own: np.random.Generator, roots: tuple[Points, Points, Points], own_length: np.ndarray, front: np.ndarray,
    steps: int,
) -> np.ndarray:  # fmt: skip
    """The ways of the hairs, count×steps×3, from their roots: places, directions, and places on the neutral head."""
    at, along, home = roots
    curl = [Noise(own, 0.025) for _ in range(3)]
    line = [at]
    for step in range(1, steps):
        here = line[-1]
        swirl = np.stack([wave(here) for wave in curl], 1) * hair.curl * 0.45
        falling = (step / steps * (3.0 if hair.length > 0.07 else 1.0)) if hair.hanging else 0.0
        direction = along + swirl + np.array([0, 0, -1.0]) * falling
        direction /= np.linalg.norm(direction, axis=1, keepdims=True)
        there = here + direction * own_length / (steps - 1)
        if hair.hanging:
            # Out of the head, which is nearly an egg, and not over the face.
            away_from = (there - _MIDDLE) / _RADII
            distance = np.linalg.norm(away_from, axis=1, keepdims=True)
            above = there[:, 2:] > -0.07
            there = np.where(above & (distance < 1.02), _MIDDLE + away_from / distance * 1.02 * _RADII, there)
            over = (there[:, 1] > -0.055) & (there[:, 2] < 0.05) & (home[:, 2] > -0.05) & ~front
            there[over, 0] = np.sign(home[over, 0] - hair.parting) * np.maximum(np.abs(there[over, 0]), 0.077)
            there[over, 1] = -0.055
            neck = (there[:, 2] < -0.07) & (home[:, 2] > -0.05)
            there[neck, 1] = np.minimum(there[neck, 1], -0.05)
        line.append(there)
    return np.stack(line, 1)
