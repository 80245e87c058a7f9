"""The stage of the step faces: squares restored once each, and their change laid over whatever region is asked for."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from dataclasses import dataclass
from typing import Literal, TypeAlias

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.engines import Engine
from kitecore.faces.lending import lent
from kitecore.faces.skin import skin_share
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place, Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels, has_alpha
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.grain import noise_at

Plane: TypeAlias = npt.NDArray[np.float32]

#: What is blended in.
Part: TypeAlias = Literal["skin", "hair", "neck"]

#: Middle across and down, half width and half height of what is blended in, in sides of the square; and the softness of its rim.
_OVALS: dict[Part, tuple[float, float, float, float]] = {
    "skin": (0.5, 0.52, 0.25, 0.35), "hair": (0.5, 0.47, 0.40, 0.46), "neck": (0.5, 0.55, 0.46, 0.50),
}  # fmt: skip
_SOFT, _RIM = 0.3, 0.05
#: The same of eyes with their brows, and of nose and mouth: what is not skin there belongs to the face all the same.
_FEATURES = ((0.5, 0.39, 0.30, 0.15), (0.5, 0.55, 0.20, 0.27))
#: Squares are at least so large; their sides divide by the other.
_LEAST_SIDE, _STRIDE = 64, 16
#: Rounds of bringing a restored square back to the source's size and correcting it.
_ROUNDS = 8
#: Samples of the square that are held, for one of the source: its grid lies across the source's. With 1 the error at the source's
#: size is 0.6 of 255, with 1.5 it is 0.16 (test_faces).
_HELD = 1.5
#: A face that has fewer samples for one of its source lacks no detail that could be lent.
_LEAST_FINER = 1.3
#: Restored squares that are remembered, whatever take they are of.
_MOST_REMEMBERED = 64


@dataclass(frozen=True)
class FaceWork:
    """What is wanted of a face: its square in pixels of the stage, how many of them a source pixel is, shares of 1.

    ``most`` is the side of the square it is restored in at most; ``liveliness`` the share of the lively method.
    """

    square: FaceSquare
    scale: float
    strength: float
    freedom: float
    part: Part
    most: int
    liveliness: float = 0.0
    #: Upright square T×T×3 of a sharp picture of the same person, and how much of its detail is lent.
    reference: Pixels | None = None
    lending: float = 0.0


def side_for(side: float, most: int) -> int:
    """Samples a side that a square of ``side`` pixels is restored at."""
    wanted = math.ceil(min(side, most) / _STRIDE) * _STRIDE
    return max(_LEAST_SIDE, min(wanted, most // _STRIDE * _STRIDE))


def finer_of(factor: float) -> float:
    """What the network is told of a square that has ``factor`` samples for one of the source, 0..1."""
    return min(1.0, max(0.0, math.log2(max(1.0, factor)) / 4))


@dataclass(frozen=True)
class _Change:
    """What becomes of a square: what is added S×S×3 at its strength, where S×S, and the σ of the grain that it lacks.

    ``departure`` is how far it is from the source at the source's size: the mean of what differs there, of 1.
    """

    added: Pixels
    weights: Plane
    grain: float
    departure: float


class FacesStage(Stage):
    """``source`` with faces restored. Each square is looked at as a whole when a region that it touches is asked for."""

    def __init__(
        self, source: Stage, works: list[FaceWork], steady: Engine, lively: Engine | None, grain: float
    ) -> None:
        super().__init__(source.size, source.bands)
        self._source, self._works, self._grain = source, works, grain
        self._steady, self._lively = steady, lively
        self._changes: dict[int, _Change] = {}
        self._alone = threading.Lock()

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        result = self._source.render(region, run)
        for index, work in enumerate(self._works):
            common = bounds_of(work.square).intersection(region)
            if common is None:
                continue
            change = self._change(index, run)
            part = result[common.y - region.y :, common.x - region.x :][: common.height, : common.width]
            _lay(part, common, work, change)
        return result

    def departures(self, run: Run) -> list[float]:
        """How far each face departs from the source, brought to its size: the mean of what differs there, of 1."""
        return [self._change(index, run).departure for index in range(len(self._works))]

    def _change(self, index: int, run: Run) -> _Change:
        with self._alone:
            if index not in self._changes:
                self._changes[index] = self._restored(self._works[index], run)
            return self._changes[index]

    def _restored(self, work: FaceWork, run: Run) -> _Change:
        run.check()
        bounds = bounds_of(work.square)
        around = self._source.extended(bounds, run)
        colours = around[..., : self.bands - has_alpha(self.bands)]
        grey = colours.shape[2] == 1 or bool((colours == colours[..., :1]).all())
        rgb = np.repeat(colours, 3, axis=2) if colours.shape[2] == 1 else colours
        side = side_for(work.square.side, work.most)
        middle = Place(work.square.middle.x - bounds.x, work.square.middle.y - bounds.y)
        inside = FaceSquare(middle, work.square.side, work.square.turn)
        given = cut_square(np.ascontiguousarray(rgb), inside, side)
        finer = work.scale * side / work.square.side
        added = self._method(given, finer_of(finer), work.liveliness) - given
        if grey:
            added[:] = added.mean(axis=2, keepdims=True)
        # Of the source's own size in the square; a square that is no finer has no room to depart in.
        held = _held(added, _small(side, finer))
        added = np.asarray(work.strength * (held + work.freedom * (added - held)), np.float32)
        if work.reference is not None and work.lending and finer >= _LEAST_FINER:
            added += work.lending * self._lent(given + added, work, finer, grey)
        weights = _weights(given, work.part)
        lost = _grain_lost(rgb, inside, given, added, weights) * self._grain
        added = np.ascontiguousarray(added, np.float32)
        return _Change(added, weights, lost, _departure(added, weights, finer))

    def _lent(self, face: Pixels, work: FaceWork, finer: float, grey: bool) -> Pixels:
        """What the reference adds to a face as it has become, held to the source as the face itself is."""
        assert work.reference is not None
        added, where = lent(np.ascontiguousarray(face), work.reference, finer)
        added = where[..., None] * added
        if grey:
            added[:] = added.mean(axis=2, keepdims=True)
        held = _held(added, _small(face.shape[0], finer))
        return np.asarray(held + work.freedom * (added - held), np.float32)

    def _method(self, given: Pixels, finer: float, liveliness: float) -> Pixels:
        """The square as both methods restore it, mixed: the lively one goes on from what the steady one made."""
        steady = _through(self._steady, given, finer)
        if not liveliness or self._lively is None:
            return steady
        lively = _through(self._lively, steady, finer)
        return np.asarray(steady + np.float32(liveliness) * (lively - steady), np.float32)


_remembered: OrderedDict[tuple[str, float, bytes], Pixels] = OrderedDict()
_remembering = threading.Lock()


def restored_square(engine: Engine, given: Pixels, finer: float) -> Pixels:
    """A square S×S×3 as a faces network restores it: the mean of it and of its mirror image mirrored back.

    Worth 0.07 to 0.10 dB on the lab's reserved people.
    """
    maps = np.broadcast_to(np.array([finer], np.float32), (*given.shape[:2], 1))
    mirrored = engine.restore(np.ascontiguousarray(given[:, ::-1]), maps)[:, ::-1]
    return np.asarray((engine.restore(given, maps) + mirrored) / 2, np.float32)


def _through(engine: Engine, given: Pixels, finer: float) -> Pixels:
    """The restored square; one that was asked for before is remembered."""
    key = (engine.fingerprint, round(finer, 4), given.tobytes())
    with _remembering:
        if key in _remembered:
            _remembered.move_to_end(key)
            return _remembered[key].copy()
    restored = restored_square(engine, given, finer)
    with _remembering:
        _remembered[key] = restored.copy()
        while len(_remembered) > _MOST_REMEMBERED:
            _remembered.popitem(last=False)
    return restored


def _small(side: int, finer: float) -> int:
    """Samples a side that a square is held to its source at."""
    return max(4, round(_HELD * side / max(1.0, finer)))


def _held(added: Pixels, small: int) -> Pixels:
    """As much of ``added`` as leaves the square, brought down to ``small`` samples a side, as it was."""
    side = added.shape[0]
    if small >= side:
        return np.zeros_like(added)
    held = added.copy()
    for _ in range(_ROUNDS):
        error = cv2.resize(held, (small, small), interpolation=cv2.INTER_AREA)
        held -= cv2.resize(error, (side, side), interpolation=cv2.INTER_CUBIC).reshape(held.shape)
    return held


def _departure(added: Pixels, weights: Plane, finer: float) -> float:
    """The mean of what is added once it is as small as the source, where it is blended in."""
    own = max(4, round(added.shape[0] / max(1.0, finer)))
    small, share = (cv2.resize(plane, (own, own), interpolation=cv2.INTER_AREA) for plane in (added, weights))
    return float((share * np.abs(small).mean(axis=2)).sum() / max(float(share.sum()), 1e-6))


def oval(x: npt.NDArray[np.float64], y: npt.NDArray[np.float64], part: Part) -> npt.NDArray[np.float64]:
    """How much of a square is blended in at places of it (0..1 across and down), 0..1: nothing at its border."""
    border = np.clip(np.minimum(x, 1 - x) / _RIM, 0, 1) * np.clip(np.minimum(y, 1 - y) / _RIM, 0, 1)
    return _ellipse(x, y, _OVALS[part]) * border


def _ellipse(
    x: npt.NDArray[np.float64], y: npt.NDArray[np.float64], where: tuple[float, float, float, float]
) -> npt.NDArray[np.float64]:
    middle_x, middle_y, wide, high = where
    share = np.clip((1 - np.hypot((x - middle_x) / wide, (y - middle_y) / high)) / _SOFT, 0, 1)
    return np.asarray(share * share * (3 - 2 * share))


def _weights(given: Pixels, part: Part) -> Plane:
    """How much of each pixel of a square S×S×3 is blended in, S×S: where only skin is, hair that falls into it stays as it is."""
    at = (np.arange(given.shape[0]) + 0.5) / given.shape[0]
    x, y = at[None], at[:, None]
    share = oval(x, y, part)
    if part == "skin":
        share = share * np.maximum(skin_share(given), np.maximum(*(_ellipse(x, y, one) for one in _FEATURES)))
    return np.asarray(share, np.float32)


def bounds_of(square: FaceSquare) -> Region:
    """The smallest region that holds a square; it may reach outside the picture."""
    corners = square.corners()
    left, top = np.floor(corners.min(axis=0)).astype(int) - 1
    right, bottom = np.ceil(corners.max(axis=0)).astype(int) + 1
    return Region.between(int(left), int(top), int(right), int(bottom))


def _lay(part: Pixels, region: Region, work: FaceWork, change: _Change) -> None:
    """Add to ``part``, which is ``region`` of the picture, what becomes of a square there."""
    side = change.added.shape[0]
    from_picture = cv2.invertAffineTransform(work.square.to_picture(side))
    x = np.arange(region.x, region.right, dtype=np.float64)[None] + 0.5
    y = np.arange(region.y, region.bottom, dtype=np.float64)[:, None] + 0.5
    across = (from_picture[0, 0] * x + from_picture[0, 1] * y + from_picture[0, 2] - 0.5).astype(np.float32)
    down = (from_picture[1, 0] * x + from_picture[1, 1] * y + from_picture[1, 2] - 0.5).astype(np.float32)
    weights = cv2.remap(change.weights, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=0)
    weights = np.asarray(weights, np.float32)[..., None]
    added = np.asarray(
        cv2.remap(change.added, across, down, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE), np.float32
    )
    if change.grain:
        added = added + np.float32(work.strength * change.grain) * grain_at(region)[..., None]
    colours = part[..., : part.shape[2] - has_alpha(part.shape[2])]
    colours += weights * (added.mean(axis=2, keepdims=True) if colours.shape[2] == 1 else added)


def grain_at(region: Region) -> Plane:
    """Fine grain of σ 1 that depends on the place alone, H×W."""
    drawn = noise_at(region.grown(2), 77)
    fine = drawn - cv2.GaussianBlur(drawn, (5, 5), 1.0)
    return np.asarray(fine[2:-2, 2:-2] / np.float32(0.87), np.float32)


def _grain_lost(rgb: Pixels, inside: FaceSquare, given: Pixels, added: Pixels, weights: Plane) -> float:
    """σ of the fine grain that a square has around the face and that the restored face would lack."""
    if inside.side > 2 * given.shape[0]:
        # What is added is too coarse to take grain away.
        return 0.0
    before, after = _fineness(luma(given)), _fineness(luma(given + added))
    around, within = weights < 0.1, weights > 0.7
    if not around.any() or not within.any():
        return 0.0
    usual, left = (float(np.median(plane[where])) for plane, where in ((before, around), (after, within)))
    own = float(np.median(before[within]))
    # No more than the face itself had.
    return math.sqrt(max(0.0, min(usual, own) ** 2 - left**2))


def _fineness(plane: Plane) -> Plane:
    """σ of what is finer than two pixels, about each."""
    fine = plane - cv2.GaussianBlur(plane, (5, 5), 1.0)
    return np.asarray(1.25 * cv2.blur(np.abs(fine), (9, 9)) / 0.87, np.float32)
