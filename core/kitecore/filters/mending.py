"""Mending: a damaged place is given the texture of another one, in the tone and light of what lies around it."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Where = npt.NDArray[np.bool_]
Plane = npt.NDArray[np.float32]

#: How far around a damaged place it is looked at, as a share of its size, pixels at least and at most.
_RING, _LEAST_RING, _MOST_RING = 0.5, 4, 24
#: How far away another place is looked for, in sizes of what is looked at.
FAR = 4.0
#: A place as far away as that would have to be so much more alike, as a share, to be taken.
_NEARER = 0.25
#: Rows and columns around a damaged place that the guess of what is inside looks at; when it is near enough.
_RIM, _MOST_STEPS, _ENOUGH = 24, 400, 2e-4


class Offset(NamedTuple):
    """Where another place lies, in pixels right of and below the damaged one."""

    x: int
    y: int


def mended(target: Pixels, source: Pixels, where: Where, run: Run) -> Pixels:
    """``source`` where ``where`` is set, in tone and light joined to ``target`` around it; all H×W(×C), coded values.

    P. Pérez, M. Gangnet, A. Blake, “Poisson image editing” (2003): the difference of the two goes on smoothly from the border
    inwards. Where the border of the arrays is reached, the difference goes on evenly. Raises Cancelled.

    >>> flat = np.full((9, 9, 1), 0.5, np.float32)
    >>> other = np.full((9, 9, 1), 0.2, np.float32)
    >>> hole = np.zeros((9, 9), np.bool_); hole[3:6, 3:6] = True
    >>> bool(np.allclose(mended(flat, other, hole, Run()), 0.5, atol=1e-3))
    True
    """
    if not where.any() or where.all():
        return source if where.all() else target
    # Only what lies in a box around it takes part.
    rows, columns = np.flatnonzero(where.any(axis=1)), np.flatnonzero(where.any(axis=0))
    box = np.s_[max(0, rows[0] - _RIM) : rows[-1] + _RIM + 1, max(0, columns[0] - _RIM) : columns[-1] + _RIM + 1]
    membrane = _smoothly_inwards((target[box] - source[box]).astype(np.float32), where[box], run)
    result = target.copy()
    result[box] = np.where(where[box][..., None], source[box] + membrane, target[box])
    return result


def _smoothly_inwards(values: Pixels, where: Where, run: Run) -> Pixels:
    """``values`` outside of ``where``, inside what solves Laplace's equation; by conjugate gradients."""
    inside = where[..., None].astype(np.float32)
    neighbours = _summed(np.ones_like(inside))
    result = values * (1 - inside) + _guess(values, where) * inside
    left = (_summed(result) - neighbours * result) * inside
    way, length = left.copy(), float((left * left).sum())
    enough = max(length * _ENOUGH**2, 1e-12 * left.size)
    for _ in range(_MOST_STEPS):
        if length <= enough:
            break
        run.check()
        ahead = (neighbours * way - _summed(way)) * inside
        step = length / max(float((way * ahead).sum()), 1e-20)
        result += np.float32(step) * way
        left -= np.float32(step) * ahead
        before, length = length, float((left * left).sum())
        way = left + np.float32(length / before) * way
    return result


def _summed(values: Pixels) -> Pixels:
    """Of the four neighbours of each pixel; beyond the border there are none."""
    total = np.zeros_like(values)
    total[1:] += values[:-1]
    total[:-1] += values[1:]
    total[:, 1:] += values[:, :-1]
    total[:, :-1] += values[:, 1:]
    return total


def _guess(values: Pixels, where: Where) -> Pixels:
    """Means of what is known, from ever farther away: what the solution is near to."""
    known = (~where).astype(np.float32)
    guess, found = np.zeros_like(values), np.zeros(where.shape, np.bool_)
    for sigma in (2, 6, 18, 54):
        share = cv2.GaussianBlur(known, (0, 0), sigma)
        sure = (share > 1e-3) & ~found
        if sure.any():
            blurred = cv2.GaussianBlur(values * known[..., None], (0, 0), sigma).reshape(values.shape)
            guess[sure] = blurred[sure] / share[sure][:, None]
            found |= sure
    return guess


def ring_of(where: Where) -> int:
    """How far around a damaged place is looked at, in pixels."""
    rows, columns = np.flatnonzero(where.any(axis=1)), np.flatnonzero(where.any(axis=0))
    size = max(rows[-1] - rows[0], columns[-1] - columns[0]) + 1
    return int(np.clip(round(_RING * size), _LEAST_RING, _MOST_RING))


def best_offset(pixels: Pixels, where: Where, spoilt: Where, run: Run) -> Offset | None:
    """The place whose surroundings are most like those of what ``where`` marks in H×W×C pixels; the nearer of two that are alike.

    Nothing ``spoilt`` (what is damaged elsewhere, H×W) is taken from. None if there is no such place.
    """
    run.check()
    ring = ring_of(where)
    rows, columns = np.flatnonzero(where.any(axis=1)), np.flatnonzero(where.any(axis=0))
    top, bottom = max(0, rows[0] - ring), min(where.shape[0], rows[-1] + ring + 1)
    left, right = max(0, columns[0] - ring), min(where.shape[1], columns[-1] + ring + 1)
    height, width = bottom - top, right - left
    far_y, far_x = round(FAR * height), round(FAR * width)
    y0, y1 = max(0, top - far_y), min(where.shape[0], bottom + far_y)
    x0, x1 = max(0, left - far_x), min(where.shape[1], right + far_x)
    bad = spoilt[y0:y1, x0:x1] | where[y0:y1, x0:x1]
    around = ~bad[top - y0 : bottom - y0, left - x0 : right - x0]
    if not around.any() or y1 - y0 <= height or x1 - x0 <= width:
        return None
    colours = pixels[..., :3] if pixels.shape[2] >= 3 else pixels[..., :1]
    seen = np.ascontiguousarray(colours[y0:y1, x0:x1], np.float32)
    wanted = np.ascontiguousarray(colours[top:bottom, left:right], np.float32)
    mask = np.repeat(around[..., None].astype(np.float32), wanted.shape[2], axis=2)
    run.check()
    unlike = cv2.matchTemplate(seen, wanted, cv2.TM_SQDIFF, mask=mask) / float(mask.sum())
    run.check()
    # Whatever is taken must be whole.
    taken = cv2.matchTemplate(bad.astype(np.float32), np.ones((height, width), np.float32), cv2.TM_CCORR)
    allowed = taken < 0.5
    if not allowed.any():
        return None
    ys, xs = np.mgrid[: unlike.shape[0], : unlike.shape[1]]
    away = np.hypot((ys + y0 - top) / max(1, far_y), (xs + x0 - left) / max(1, far_x))
    worth = np.where(allowed, (np.maximum(unlike, 0) + 1e-6) * (1 + _NEARER * away), np.inf)
    y, x = np.unravel_index(int(np.argmin(worth)), worth.shape)
    return Offset(int(x + x0 - left), int(y + y0 - top))
