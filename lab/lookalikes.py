"""Put into a scene what looks like damage and is none: rims, seams, wires, mortar, glints.

They are there before the picture is blurred and grainy, so they are as soft and as grainy as all of it; and they have the
tones of what they lie on, made lighter or darker, not those of dust and broken emulsion.
"""

from __future__ import annotations

import cv2
import numpy as np

#: Shapes are drawn so many times as large, and made small by area.
_FINER = 4


def put_into(scene: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """``scene`` (H×W×3 uint8) with one to three such things."""
    result = scene.astype(np.float32)
    for _ in range(int(random.integers(1, 4))):
        draw = (_rim, _rim, _seam, _wires, _glints)[random.integers(5)]
        result = draw(result, random)
    return np.clip(np.rint(result), 0, 255).astype(np.uint8)


def _curve(shape: tuple[int, ...], random: np.random.Generator) -> np.ndarray:
    """A gently bent line right through the picture, N×2 places on the finer grid."""
    height, width = shape[:2]
    angle, reach = random.uniform(0, np.pi), 1.5 * max(height, width)
    along = np.linspace(-reach, reach, 80)
    bend = random.normal(0, 0.25) * along**2 / reach
    direction = np.array([np.cos(angle), np.sin(angle)])
    start = random.uniform(0.1, 0.9, 2) * (width, height)
    return np.asarray((start + along[:, None] * direction + bend[:, None] * (direction[::-1] * (-1, 1))) * _FINER)


def _drawn(shape: tuple[int, ...], curves: list[np.ndarray], width: float) -> np.ndarray:
    """How much of each pixel lines of a width cover, H×W in 0..1."""
    canvas = np.zeros((shape[0] * _FINER, shape[1] * _FINER), np.uint8)
    for curve in curves:
        points = np.rint(curve).astype(np.int32).reshape(-1, 1, 2)
        cv2.polylines(canvas, [points], False, 255, max(1, round(width * _FINER)), cv2.LINE_AA)
    return cv2.resize(canvas, shape[1::-1], interpolation=cv2.INTER_AREA).astype(np.float32) / 255


def _beside(shape: tuple[int, ...], curve: np.ndarray) -> np.ndarray:
    """How much of each pixel lies on one side of a line right through, H×W in 0..1."""
    canvas = np.zeros((shape[0] * _FINER, shape[1] * _FINER), np.uint8)
    direction = curve[-1] - curve[0]
    away = np.array([-direction[1], direction[0]]) * 2
    corners = np.rint(np.vstack([curve, curve[-1] + away, curve[0] + away])).astype(np.int32).reshape(-1, 1, 2)
    cv2.fillPoly(canvas, [corners], 255, cv2.LINE_AA)
    return cv2.resize(canvas, shape[1::-1], interpolation=cv2.INTER_AREA).astype(np.float32) / 255


def _toned(picture: np.ndarray, share: np.ndarray, random: np.random.Generator, most: float = 0.7) -> np.ndarray:
    """Lighter or darker where ``share`` says: towards white by screening, towards black by multiplying."""
    strength = share[..., None] * random.uniform(0.15, most)
    if random.random() < 0.5:
        return np.asarray(255 - (255 - picture) * (1 - strength), np.float32)
    return np.asarray(picture * (1 - strength), np.float32)


def _rim(picture: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """The edge of a thing: another tone on one side, a light or dark line along it."""
    curve = _curve(picture.shape, random)
    tinted = picture + _beside(picture.shape, curve)[..., None] * random.normal(0, 35, 3).astype(np.float32)
    line = cv2.GaussianBlur(_drawn(picture.shape, [curve], random.uniform(1, 6)), (0, 0), random.uniform(0.4, 2))
    return _toned(np.clip(tinted, 0, 255), line, random)


def _seam(picture: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """A fold or a seam: a dark line with a light one beside it."""
    curve, width = _curve(picture.shape, random), random.uniform(0.8, 3)
    dark, light = (_drawn(picture.shape, [curve + offset], width) for offset in (0, width * _FINER))
    return _toned(picture * (1 - dark[..., None] * random.uniform(0.2, 0.6)), light, random, 0.4)


def _wires(picture: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Equal lines side by side: mortar, planks, wires, stripes."""
    curve, apart = _curve(picture.shape, random), random.uniform(6, 40) * _FINER
    direction = curve[-1] - curve[0]
    across = np.array([-direction[1], direction[0]]) / np.linalg.norm(direction) * apart
    many = [curve + turn * across for turn in range(-int(random.integers(1, 12)), int(random.integers(1, 12)))]
    return _toned(picture, _drawn(picture.shape, many, random.uniform(0.7, 3)), random)


def _glints(picture: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Light on something shiny: bright in the middle, fading out, mostly several."""
    light = np.zeros(picture.shape[:2], np.float32)
    rows, columns = np.mgrid[: picture.shape[0], : picture.shape[1]]
    for _ in range(int(random.integers(1, 6))):
        x, y = random.uniform(0, 1, 2) * picture.shape[1::-1]
        size = np.exp(random.uniform(np.log(0.9), np.log(5)))
        stretch, turn = random.uniform(0.3, 1), random.uniform(0, np.pi)
        along = (columns - x) * np.cos(turn) + (rows - y) * np.sin(turn)
        beside = ((rows - y) * np.cos(turn) - (columns - x) * np.sin(turn)) / stretch
        light = np.maximum(light, random.uniform(0.5, 1.3) * np.exp(-(along**2 + beside**2) / (2 * size**2)))
    return np.asarray(255 - (255 - picture) * (1 - np.minimum(1, light)[..., None]), np.float32)
