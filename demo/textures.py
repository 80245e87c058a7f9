"""Textures made of noise: sand, stone, wood, cloth, clouds. Arrays H×W(×3), values 0..1."""

from __future__ import annotations

import cv2
import numpy as np


def fractal(
    height: int, width: int, seed: int, octaves: int = 7, rough: float = 0.55, stretch: float = 1.0
) -> np.ndarray:
    """Fractal noise 0..1; ``stretch`` > 1 draws it out along the width."""
    random = np.random.default_rng(seed)
    total, weight = np.zeros((height, width), np.float32), 1.0
    for octave in range(octaves):
        rows = min(height, 3 * 2**octave)
        columns = max(2, min(width, int(3 * 2**octave / stretch)))
        layer = random.random((rows, columns), dtype=np.float32)
        total += weight * cv2.resize(layer, (width, height), interpolation=cv2.INTER_CUBIC)
        weight *= rough
    total -= total.min()
    return total / total.max()


def coloured(values: np.ndarray, dark: tuple[float, ...], light: tuple[float, ...]) -> np.ndarray:
    """A grey texture between two colours."""
    low, high = np.array(dark, np.float32), np.array(light, np.float32)
    return low + (high - low) * values[..., None]


def planks(
    height: int, width: int, count: int, seed: int, dark: tuple[float, ...], light: tuple[float, ...]
) -> np.ndarray:
    """Wooden boards lying along the width: grain, a tone for each board, dark gaps."""
    random = np.random.default_rng(seed)
    board = height // count
    picture = np.zeros((height, width, 3), np.float32)
    for index in range(count):
        grain = fractal(board, width, seed * 100 + index, stretch=14, rough=0.7)
        rings = 0.5 + 0.5 * np.sin(grain * 38 + fractal(board, width, seed * 50 + index, 4, stretch=8) * 9)
        tone = random.uniform(0.75, 1.1)
        values = np.clip((0.6 * grain + 0.4 * rings) * tone, 0, 1)
        picture[index * board : (index + 1) * board] = coloured(values, dark, light)
        picture[index * board : index * board + max(1, board // 60)] *= 0.2
    return picture


def stones(height: int, width: int, rows: int, seed: int) -> np.ndarray:
    """A wall of cut stone: courses of blocks of uneven length, mortar between, weathered."""
    random = np.random.default_rng(seed)
    weather = fractal(height, width, seed + 1, 8, 0.65)
    picture = coloured(0.3 + 0.4 * weather, (0.30, 0.28, 0.25), (0.62, 0.58, 0.52))
    course = height // rows
    for row in range(rows):
        x = -int(random.uniform(0, course))
        while x < width:
            length = int(random.uniform(1.2, 2.8) * course)
            tint = random.uniform(0.65, 1.2) * (1 + random.normal(0, 0.05, 3))
            top, left, right = row * course, max(0, x), min(width, x + length)
            picture[top : top + course, left:right] *= tint
            gap = max(2, course // 14)
            picture[top : top + gap, left:right] *= 0.35
            picture[top : top + course, left : left + gap] *= 0.4
            x += length
    stain = fractal(height, width, seed + 2, 5, stretch=0.3)
    green = coloured(stain, (0.75, 0.85, 0.6), (1, 1, 1))
    return np.clip(picture * green, 0.01, 1)


def ripstop(height: int, width: int, threads: int, base: tuple[float, ...], seed: int) -> np.ndarray:
    """Kite cloth: fine weave with a heavier thread every eighth, a little uneven."""
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    step = width / threads
    weave = 0.9 + 0.06 * np.sin(2 * np.pi * x / step) * np.sin(2 * np.pi * y / step)
    for axis in (x, y):
        weave += 0.10 * np.exp(-(((axis % (8 * step)) - 4 * step) ** 2) / (0.5 * step) ** 2)
    weave *= 0.94 + 0.12 * fractal(height, width, seed, 6)
    return np.clip(weave[..., None] * np.array(base, np.float32), 0, 1)


def panels(height: int, width: int, colours: list[tuple[float, ...]], seed: int) -> np.ndarray:
    """A sail of vertical cloth panels with double seams."""
    picture = np.zeros((height, width, 3), np.float32)
    edges = np.linspace(0, width, len(colours) + 1).astype(int)
    for colour, left, right in zip(colours, edges, edges[1:], strict=False):
        cloth = ripstop(height, right - left, max(8, (right - left) // 6), colour, seed + left)
        picture[:, left:right] = cloth
    for edge in edges[1:-1]:
        for offset in (-7, 7):
            picture[:, edge + offset - 1 : edge + offset + 2] *= 0.55
            picture[::9, edge + offset - 1 : edge + offset + 2] *= 1.6
    return np.clip(picture, 0, 1)
