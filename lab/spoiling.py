"""Draw on a picture what time does to prints, negatives and the glass of scanners: dust, hairs, scratches, creases.

What is drawn is known to the pixel; that is the truth a finder of such damage learns from.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import cv2
import numpy as np

#: Shapes are drawn so many times as large, and made small by area.
_FINER = 4
#: Drawn more weakly than that, of 255 in the mean of the channels, or than so many times the texture around it, nobody sees
#: it: it is not damage that has to be found.
VISIBLE, _OVER_TEXTURE = 16.0, 1.2
#: Side of what counts as around it, px.
_AROUND = 15
#: The criterion of Rose (1948): what is seen stands out of the noise around it, times the root of its area in px, by five.
_ROSE = 5.0
#: A pixel belongs to the damage from this share on.
COVERED = 0.3

Drawn = Callable[[np.ndarray, np.random.Generator], None]


class Spoilt(NamedTuple):
    """A damaged picture, float32 H×W×3 in 0..255, each thing on it that can be seen, and what nobody can see; H×W bool."""

    picture: np.ndarray
    things: list[np.ndarray]
    hidden: np.ndarray

    @property
    def where(self) -> np.ndarray:
        """All that is damaged, H×W bool."""
        return np.any(self.things, axis=0) if self.things else np.zeros(self.picture.shape[:2], np.bool_)


def _place(canvas: np.ndarray, random: np.random.Generator) -> np.ndarray:
    return random.uniform(0, 1, 2) * canvas.shape[1::-1]


def _fixed(points: np.ndarray) -> list[np.ndarray]:
    return [np.rint(points).astype(np.int32).reshape(-1, 1, 2)]


def _line(canvas: np.ndarray, points: np.ndarray, width: float) -> None:
    cv2.polylines(canvas, _fixed(points), False, 255, max(1, round(width * _FINER)), cv2.LINE_AA)


def speck(canvas: np.ndarray, random: np.random.Generator) -> None:
    """A crumb of dust or a spot of damp: mostly small; torn, round or in between."""
    radius = float(np.exp(random.uniform(np.log(0.8), np.log(14)))) * _FINER
    kind = random.random()
    if kind < 0.3:
        axes = (max(1, round(radius)), max(1, round(radius * random.uniform(0.45, 1))))
        middle = np.rint(_place(canvas, random)).astype(int)
        cv2.ellipse(
            canvas, (int(middle[0]), int(middle[1])), axes, random.uniform(0, 180), 0, 360, 255, -1, cv2.LINE_AA
        )
        return
    if kind < 0.55:
        _blob(canvas, radius, random)
        return
    angles = np.sort(random.uniform(0, 2 * np.pi, int(random.integers(5, 12))))
    away = radius * random.uniform(0.55, 1.2, angles.size)
    stretch, turn = random.uniform(0.45, 1), random.uniform(0, np.pi)
    shape = np.stack([away * np.cos(angles), stretch * away * np.sin(angles)], axis=1)
    rotation = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    cv2.fillPoly(canvas, _fixed(shape @ rotation + _place(canvas, random)), 255, cv2.LINE_AA)


def _blob(canvas: np.ndarray, radius: float, random: np.random.Generator) -> None:
    """A round shape whose edge swings in and out softly."""
    angles = np.linspace(0, 2 * np.pi, 40, endpoint=False)
    away = np.full_like(angles, radius)
    for swings in range(2, 6):
        away += radius * random.normal(0, 0.22 / swings) * np.cos(swings * angles + random.uniform(0, 2 * np.pi))
    shape = np.stack([away * np.cos(angles), random.uniform(0.5, 1) * away * np.sin(angles)], axis=1)
    cv2.fillPoly(canvas, _fixed(shape + _place(canvas, random)), 255, cv2.LINE_AA)


def _walk(start: np.ndarray, length: float, bend: float, step: float, random: np.random.Generator) -> np.ndarray:
    """A line of ``length`` from ``start`` whose direction drifts."""
    count = max(2, int(length / step))
    turning = cv2.GaussianBlur(random.standard_normal((count, 1)), (1, 9), 0, sigmaY=2)
    angle = random.uniform(0, 2 * np.pi) + np.cumsum(turning[:, 0] * bend + random.normal(0, bend / 4))
    return np.asarray(start + np.cumsum(step * np.stack([np.cos(angle), np.sin(angle)], axis=1), axis=0))


def hair(canvas: np.ndarray, random: np.random.Generator) -> None:
    """A hair or a lint: long, thin, curled."""
    length = random.uniform(15, 110) * _FINER
    points = _walk(_place(canvas, random), length, random.uniform(0.05, 0.6), 3 * _FINER, random)
    _line(canvas, points, random.uniform(0.6, 2.4))


def scratch(canvas: np.ndarray, random: np.random.Generator) -> None:
    """A nearly straight line, often broken; half of them upright, as rollers leave them."""
    upright = random.random() < 0.5
    angle = np.pi / 2 + random.normal(0, 0.04) if upright else random.uniform(0, np.pi)
    length = float(np.exp(random.uniform(np.log(20), np.log(300)))) * _FINER
    count = 24
    along = np.linspace(-0.5, 0.5, count) * length
    sway = cv2.GaussianBlur(random.standard_normal((count, 1)), (1, 0), 0.01, sigmaY=4)[:, 0] * length * 0.01
    direction = np.array([np.cos(angle), np.sin(angle)])
    points = _place(canvas, random) + along[:, None] * direction + sway[:, None] * direction[::-1] * [-1, 1]
    width = random.uniform(0.6, 2.6)
    if random.random() < 0.6:
        _line(canvas, points, width)
        return
    at = 0
    while at < count - 1:
        until = min(count - 1, at + int(random.integers(2, 9)))
        _line(canvas, points[at : until + 1], width * random.uniform(0.7, 1.2))
        at = until + int(random.integers(1, 4))


def crease(canvas: np.ndarray, random: np.random.Generator) -> None:
    """A fold: emulsion broken along a line, with short cracks to its sides."""
    points = _walk(_place(canvas, random), random.uniform(40, 260) * _FINER, 0.03, 4 * _FINER, random)
    points += random.normal(0, 0.4 * _FINER, points.shape)
    width = random.uniform(0.9, 4)
    _line(canvas, points, width)
    for _ in range(int(random.integers(0, 14))):
        start = points[random.integers(len(points))]
        _line(canvas, _walk(start, random.uniform(2, 9) * _FINER, 0.3, 2 * _FINER, random), width * 0.5)


_KINDS: tuple[tuple[Drawn, float], ...] = ((speck, 0.4), (hair, 0.2), (scratch, 0.25), (crease, 0.15))


def _cover(side: tuple[int, int], draw: Drawn, random: np.random.Generator) -> np.ndarray:
    """How much of each pixel a thing covers, H×W in 0..1, as soft as what it was seen through."""
    height, width = side
    canvas = np.zeros((height * _FINER, width * _FINER), np.uint8)
    draw(canvas, random)
    small = cv2.resize(canvas, (width, height), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    return cv2.GaussianBlur(small, (0, 0), random.uniform(0.25, 0.9))


def spoilt(picture: np.ndarray, count: int, random: np.random.Generator) -> Spoilt:
    """``picture`` (H×W×3, 0..255) with so many things drawn on it; those that nobody could see are not among what is told."""
    result = picture.astype(np.float32)
    hidden = np.zeros(picture.shape[:2], np.bool_)
    texture = _texture(result)
    least = np.maximum(VISIBLE, _OVER_TEXTURE * texture)
    chances = [chance for _, chance in _KINDS]
    bright = random.uniform(0.15, 0.85)
    things = []
    for _ in range(count):
        cover = _cover(picture.shape[:2], _KINDS[random.choice(len(_KINDS), p=chances)][0], random)
        tone = random.uniform(205, 255) if random.random() < bright else random.uniform(0, 45)
        warm = np.array([1.0, random.uniform(0.93, 1.0), random.uniform(0.82, 1.0)], np.float32)
        share = cover * (1.0 if random.random() < 0.25 else random.uniform(0.45, 1.0))
        before = result
        result = before + share[..., None] * (np.float32(tone) * warm - before)
        there = cover > COVERED
        change = np.abs(result - before).mean(axis=2)
        seen = there & (change > least)
        # Half of it has to be seen: what lies on its own tone is nothing a person would touch.
        if seen.sum() >= max(3, 0.5 * there.sum()) and _stands_out(change[seen], texture[seen]):
            things.append(seen)
        hidden |= cover > 0.05
    for thing in things:
        hidden &= ~thing
    return Spoilt(result, things, hidden)


def _stands_out(change: np.ndarray, texture: np.ndarray) -> bool:
    """Whether what was changed at N pixels can be told from the texture there, both of 255."""
    return bool(change.mean() * np.sqrt(change.size) >= _ROSE * texture.mean())


def _texture(picture: np.ndarray) -> np.ndarray:
    """Standard deviation of brightness around each pixel, H×W, of 255."""
    grey = picture.mean(axis=2)
    mean, square = (cv2.boxFilter(one, -1, (_AROUND, _AROUND)) for one in (grey, grey * grey))
    return np.sqrt(np.maximum(square - mean * mean, 0))
