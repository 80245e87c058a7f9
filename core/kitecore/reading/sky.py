"""Sky: found by the line it ends at in every column, then by its colours, between branches and behind what flies in it.

The line: Y. Shen, Q. Wang, “Sky region detection in a single image for autonomous ground robot navigation” (2013).
"""

from __future__ import annotations

import cv2
import numpy as np

from kitecore.filters.guided import Plane, guided
from kitecore.pipeline.run import Run
from kitecore.reading.cut import (
    LIKELY,
    LIKELY_NOT,
    SURE,
    SURE_NOT,
    Seen,
    Where,
    away_from,
    cut_out,
    grey_of,
    lab_of,
    main_colours,
)

#: Slopes of luma per pixel (of 255) at which the sky may end that are tried.
_SLOPES = np.geomspace(2.0, 40.0, 14)
#: Sky less than this share of the picture, or that looks rougher than this (mean slope), is none.
_LEAST, _ROUGHEST = 0.02, 6.0
#: How far apart sky and the rest must be, in spreads of both.
_APART = 0.9
#: Radius of the rim that follows the picture, as a share of the long side, and the differences that are its edges.
_RIM, _EDGE = 0.008, 0.02
_ROUNDS = 3
#: Distances in CIELAB from the nearest of a sky's colours from which on a pixel is none of it, and below which it may be.
_UNLIKE, _LIKE = 20.0, 6.0
#: How far beside a column others tell where its sky ends, as a share of the width.
_BESIDE = 0.3
#: How far apart, of 255, two parts of one sky may be in their middle colours.
_ALIKE = 40.0


def find_sky(seen: Seen, run: Run) -> Plane | None:
    """How far each pixel is sky, H×W, 0..1; None if there is none. Meant for pictures of at most 640 px a side."""
    run.check()
    slope = _slope(seen)
    first = _above_the_line(seen, slope)
    if first is None:
        return None
    run.check()
    cut = _cut(seen, first, run)
    if cut.mean() < _LEAST or slope[cut].mean() > _ROUGHEST:
        return None
    radius = max(2, round(_RIM * max(seen.shape[:2])))
    return np.asarray(np.clip(guided(cut.astype(np.float32), grey_of(seen), radius, _EDGE), 0, 1), np.float32)


def _slope(seen: Seen) -> Plane:
    smooth = cv2.GaussianBlur(seen, (5, 5), 1.0).astype(np.float32)
    across, down = cv2.Sobel(smooth, cv2.CV_32F, 1, 0) / 8, cv2.Sobel(smooth, cv2.CV_32F, 0, 1) / 8
    return np.asarray(np.hypot(across, down).max(axis=2), np.float32)


def _above_the_line(seen: Seen, slope: Plane) -> Where | None:
    """What is reached from the top without crossing an edge and ends no lower than columns around it, with the edge strength
    that parts colours best."""
    best, found = 0.0, None
    for steep in _SLOPES:
        above = _reached(seen, slope, float(steep))
        if not _LEAST < above.mean() < 0.995:
            continue
        apart = _apart(seen, above)
        if apart is None:
            continue
        # Land that was let in is rougher than sky.
        apart /= (1 + float(slope[above].mean())) ** 3
        if apart > best:
            best, found = apart, above
    return found if best > 0 else None


def _reached(seen: Seen, slope: Plane, steep: float) -> Where:
    height, width = slope.shape
    edges = slope > steep
    ends = np.where(edges.any(axis=0), edges.argmax(axis=0), height)
    # Columns that something stands or flies in end early; those beside them tell where the sky ends.
    beside = max(3, round(_BESIDE * width)) | 1
    lowest = cv2.dilate(ends.astype(np.float32)[None], np.ones((1, beside), np.uint8))[0]
    if (ends >= height).mean() < 0.5:
        # A few columns without any edge are leaks.
        lowest = np.minimum(lowest, np.quantile(ends, 0.9) + 0.02 * height)
    free = (~edges & (np.arange(height)[:, None] < lowest)).astype(np.uint8)
    _, labels = cv2.connectedComponents(free, connectivity=4)
    at_top = labels[1]
    if not at_top.any():
        return np.zeros(slope.shape, np.bool_)
    # What else reaches the upper border is sky if it looks like most of what does.
    main = int(np.bincount(at_top[at_top > 0]).argmax())
    colour = seen[labels == main].mean(axis=0)
    alike = [
        label
        for label in np.unique(at_top[at_top > 0])
        if label == main or np.linalg.norm(seen[labels == label].mean(axis=0) - colour) < _ALIKE
    ]
    return np.isin(labels, alike)


def _apart(seen: Seen, above: Where) -> float | None:
    """How even both parts are; None where their colours are too much alike to be sky and something else."""
    sky, rest = seen[above].astype(np.float64), seen[~above].astype(np.float64)
    spreads = [np.cov(part.T) + np.eye(3) for part in (sky, rest)]
    away = sky.mean(axis=0) - rest.mean(axis=0)
    if float(away @ np.linalg.solve(spreads[0] + spreads[1], away)) ** 0.5 < _APART:
        return None
    evenness = [np.linalg.det(spread) + np.linalg.eigvalsh(spread)[-1] ** 2 for spread in spreads]
    return float(1 / (2 * evenness[0] + evenness[1]))


def _cut(seen: Seen, first: Where, run: Run) -> Where:
    """The sky by its colours, from what is above the line."""
    marks = np.where(first, LIKELY, LIKELY_NOT).astype(np.uint8)
    # But for its rim it is sure.
    marks[cv2.erode(first.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0] = SURE
    # What is unlike every colour of the sky is none, whatever the rest of the picture has more of.
    lab = lab_of(seen)
    middles, _ = main_colours(lab[first], 8)
    away = away_from(lab, middles)
    marks[(away > _UNLIKE) & ~first] = SURE_NOT
    # What is like it and above where it ends is likely to be: clouds, corners that something cuts off.
    ends = np.flatnonzero(first.any(axis=1))[-1] + 1
    marks[:ends][(away[:ends] < _LIKE) & ~first[:ends]] = LIKELY
    calm = np.asarray(cv2.bilateralFilter(seen, 7, 24, 3), np.uint8)
    sky = cut_out(calm, marks, _ROUNDS, run)
    return first if sky is None else _hanging_together(sky)


def _hanging_together(sky: Where) -> Where:
    """Without what is sky by its colour alone and lies below it: water, windows, snow."""
    count, labels, boxes, _ = cv2.connectedComponentsWithStats(sky.astype(np.uint8), connectivity=8)
    touching = {int(label) for label in np.unique(labels[: max(1, len(sky) // 50)]) if label}
    lowest = np.zeros(sky.shape[1], np.intp)
    for label in touching:
        part = labels == label
        bottom = len(sky) - part[::-1].argmax(axis=0)
        lowest = np.maximum(lowest, np.where(part.any(axis=0), bottom, 0))
    kept = np.isin(labels, list(touching))
    for label in range(1, count):
        x, y, width, height = boxes[label][:4]
        # A hole between branches has sky beside it.
        if label not in touching and y + height <= np.median(lowest[max(0, x - 4 * width) : x + 5 * width]):
            kept |= labels == label
    return np.asarray(kept)
