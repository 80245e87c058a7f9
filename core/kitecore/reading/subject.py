"""Subject: what stands out from the rim of a picture and is sharp, or what a box was drawn around and strokes lie on."""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np

from kitecore.filters.guided import Plane, guided
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.reading.cut import (
    LIKELY,
    LIKELY_NOT,
    SURE,
    SURE_NOT,
    Marks,
    Seen,
    Where,
    away_from,
    cut_out,
    grey_of,
    lab_of,
    main_colours,
)
from kitecore.reading.sharp_area import sharp_area

#: Share of the sides that counts as the rim, how many colours it may have, and the share below which one is rare.
_RIM, _RIM_COLOURS, _RARE = 0.05, 5, 0.06
#: A subject is at least and at most this share of the picture.
_LEAST, _MOST = 0.004, 0.9
#: Radius over which the outline follows the picture, as a share of the long side, and the differences that are its edges.
_OUTLINE, _EDGE = 0.006, 0.02
_ROUNDS = 4


class Hints(NamedTuple):
    """What somebody said of a picture: where the subject is, and where it is not, both H×W."""

    subject: Where
    rest: Where


def find_subject(seen: Seen, run: Run, box: Region | None = None, hints: Hints | None = None) -> Plane | None:
    """How far each pixel is the subject, H×W, 0..1; None if nothing stands out. Meant for at most 640 px a side.

    ``box`` is drawn around it; ``hints`` are strokes over it and over what is not part of it.
    """
    run.check()
    marks = _marks(seen, box, hints, run)
    if marks is None:
        return None
    calm = np.asarray(cv2.bilateralFilter(seen, 5, 18, 2), np.uint8)
    cut = cut_out(calm, marks, _ROUNDS, run)
    if cut is None:
        return None
    subject = _touched(cut, hints.subject) if hints is not None and hints.subject.any() else _whole(cut)
    if not _LEAST / (20 if box or hints else 1) < subject.mean() < _MOST:
        return None
    radius = max(2, round(_OUTLINE * max(seen.shape[:2])))
    return np.asarray(np.clip(guided(subject.astype(np.float32), grey_of(seen), radius, _EDGE), 0, 1), np.float32)


def _marks(seen: Seen, box: Region | None, hints: Hints | None, run: Run) -> Marks | None:
    """What is known before the cut."""
    if box:
        marks = _boxed(seen, box)
    elif hints is not None and hints.subject.any():
        marks = _like_strokes(seen, hints)
    else:
        marks = _standing_out(seen, run)
    if marks is not None and hints is not None:
        marks[hints.subject] = SURE
        marks[hints.rest] = SURE_NOT
    return marks


def _like_strokes(seen: Seen, hints: Hints) -> Marks:
    """Likely is what has rather the colours under the strokes than those of the rest: where it is said to be, or the rim."""
    lab = lab_of(seen)
    rest = hints.rest.copy()
    if not rest.any():
        wide = max(2, round(_RIM * min(seen.shape[:2])))
        rest[:wide], rest[-wide:], rest[:, :wide], rest[:, -wide:] = True, True, True, True
        rest &= ~hints.subject
    own, other = (away_from(lab, main_colours(lab[where], _RIM_COLOURS)[0]) for where in (hints.subject, rest))
    return np.where(own < other, LIKELY, LIKELY_NOT).astype(np.uint8)


def _touched(subject: Where, strokes: Where) -> Where:
    """The pieces that strokes lie on, without pinholes."""
    _, labels = cv2.connectedComponents(subject.astype(np.uint8), connectivity=8)
    return _filled(np.isin(labels, np.setdiff1d(np.unique(labels[strokes]), [0])))


def _boxed(seen: Seen, box: Region) -> Marks | None:
    inside = box.intersection(Region(0, 0, seen.shape[1], seen.shape[0]))
    if inside is None or inside.size.pixels >= 0.98 * seen.shape[0] * seen.shape[1]:
        return None
    marks = np.full(seen.shape[:2], SURE_NOT, np.uint8)
    marks[inside.y : inside.bottom, inside.x : inside.right] = LIKELY
    return marks


def _standing_out(seen: Seen, run: Run) -> Marks | None:
    """Marks for the cut by what is unlike the rim, sharp, and not at the rim."""
    unlike = _unlike_rim(seen)
    sharp = sharp_area(seen, run)
    standing = unlike * (0.35 + 0.65 * sharp) if sharp is not None else unlike
    standing = np.asarray(standing * _middle(seen.shape[0], seen.shape[1]), np.float32)
    soft = np.asarray(cv2.GaussianBlur(standing, (0, 0), 0.01 * max(seen.shape[:2])), np.float32)
    levels = np.rint(255 * soft / max(float(soft.max()), 1e-3)).astype(np.uint8)
    threshold, _ = cv2.threshold(levels, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    likely = levels > threshold
    if not _LEAST < likely.mean() < _MOST:
        return None
    marks = np.where(likely, LIKELY, LIKELY_NOT).astype(np.uint8)
    marks[levels > threshold + 0.6 * (255 - threshold)] = SURE
    marks[levels < 0.25 * threshold] = SURE_NOT
    return marks


def _unlike_rim(seen: Seen) -> Plane:
    """How unlike the colours of the rim each pixel is, H×W, 0..1."""
    lab = lab_of(seen)
    wide = max(2, round(_RIM * min(seen.shape[:2])))
    rim = np.concatenate([lab[:wide].reshape(-1, 3), lab[:, :wide].reshape(-1, 3), lab[:, -wide:].reshape(-1, 3)])
    middles, shares = main_colours(rim, _RIM_COLOURS)
    # Colours that are rare at the rim belong to what reaches it.
    away = away_from(lab, middles[shares > min(_RARE, float(shares.max()) / 2)])
    return np.asarray(np.clip(away / max(float(np.quantile(away, 0.98)), 8.0), 0, 1), np.float32)


def _middle(height: int, width: int) -> Plane:
    """1 in the middle, less towards the rim."""
    x, y = np.linspace(-1, 1, width)[None], np.linspace(-1, 1, height)[:, None]
    return np.asarray(np.exp(-0.9 * (x * x + y * y)), np.float32)


def _whole(subject: Where) -> Where:
    """Without crumbs, and without pinholes."""
    count, labels, boxes, _ = cv2.connectedComponentsWithStats(subject.astype(np.uint8), connectivity=8)
    if count < 2:
        return subject
    areas = boxes[1:, cv2.CC_STAT_AREA]
    kept = np.isin(labels, 1 + np.flatnonzero(areas >= 0.04 * areas.max()))
    return _filled(kept)


def _filled(kept: Where) -> Where:
    holes, labels, boxes, _ = cv2.connectedComponentsWithStats((~kept).astype(np.uint8), connectivity=4)
    small = [label for label in range(1, holes) if boxes[label, cv2.CC_STAT_AREA] < 0.002 * kept.sum()]
    return np.asarray(kept | np.isin(labels, small))
