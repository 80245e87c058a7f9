"""Filling: what is missing is made of what lies around, so that every small piece of it looks like a piece of the rest.

Y. Wexler, E. Shechtman, M. Irani, “Space-time completion of video” (2007), made fast by the search of C. Barnes et al.,
“PatchMatch” (2009); from coarse to fine, so that what is large goes on as it does around. Thin places are continued by
diffusion along what leads to them (cv2.inpaint after M. Bertalmio et al., 2001).
"""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.filters.mending import Plane, Where
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

#: Half a side of the pieces that are compared, px.
_HALF = 3
#: Longest side of the coarsest picture, and how much smaller each is than the next.
_COARSEST, _SHRUNK = 32, 0.7
#: How often pieces are looked for and laid over each other, coarsest and finest.
_MOST_ROUNDS, _LEAST_ROUNDS = 10, 3
#: How far a random search reaches at first, as a share of what is looked through.
_FAR = 0.6
#: A piece may be made so much lighter or darker as a whole, each channel for itself, to suit its place: light goes on evenly.
_LIGHTER = 0.06
#: How much that counts against it, beside what else is unlike.
_AGAINST = 0.5
#: Places so thin, px, are continued by diffusion: 1 dB farther from the truth than pieces, in a hundredth of the time (measured
#: on drawn dust, scratches and creases of 5 to 14 px on photographs).
THIN = 16.0
_SEED = 20210
#: How far around a thin place diffusion looks.
_RADIUS = 4.0
#: What is finer than that, px, is texture; and how far around a thin place it is measured.
_FINE, _NEAR = 2.0, 8
#: Where texture may be taken from: so many pixels down and right.
_BESIDE = [
    (round(away * np.sin(turn)), round(away * np.cos(turn)))
    for away in (6, 10, 16, 24)
    for turn in np.arange(12) * np.pi / 6
]
_FARTHEST = 24

Rows = npt.NDArray[np.intp]


def filled(target: Pixels, where: Where, known: Where, run: Run) -> Pixels:
    """``target`` (H×W×C, coded) with what ``where`` marks made of what is not marked and is ``known`` (H×W): a copy.

    The same for the same input. Where there is nothing to make it of, it is left as it is. Raises Cancelled.

    >>> flat = np.full((40, 40, 1), 0.5, np.float32)
    >>> hole = np.zeros((40, 40), np.bool_); hole[16:24, 16:24] = True
    >>> bool(np.allclose(filled(np.where(hole[..., None], 1, flat), hole, ~hole, Run()), 0.5, atol=1e-3))
    True
    """
    if not where.any() or where.all():
        return target.copy()
    if thickness(where) <= THIN:
        return _diffused(target, where, known)
    return _by_exemplars(target, where, known & ~where, run)


def thickness(where: Where) -> float:
    """How thick a marked place is where it is thickest, px."""
    return 2 * float(cv2.distanceTransform(np.pad(where, 1).astype(np.uint8), cv2.DIST_L2, 5).max())


def _diffused(target: Pixels, where: Where, known: Where) -> Pixels:
    """Continued along what leads to it, with the texture of what lies around."""
    missing = (where | ~known).astype(np.uint8)
    result = target.copy()
    for band in range(target.shape[2]):
        plane = np.ascontiguousarray(target[..., band], np.float32)
        result[..., band] = np.where(where, cv2.inpaint(plane, missing, _RADIUS, cv2.INPAINT_NS), plane)
    result[where] += _texture_for(target, result, where, known & ~where)
    return result


def _texture_for(target: Pixels, made: Pixels, where: Where, known: Where) -> Pixels:
    """What is fine in a place beside that looks alike, N×C for the pixels of ``where``: as much as what was made lacks."""
    box = _around(where, _NEAR + _FARTHEST)
    target, made, where, known = target[box], made[box], where[box], known[box]
    near = cv2.dilate(where.astype(np.uint8), np.ones((2 * _NEAR + 1,) * 2, np.uint8)).astype(bool) & known
    ys, xs = np.nonzero(where)
    if near.sum() < 30:
        return np.zeros((ys.size, target.shape[2]), np.float32)
    smooth = _smooth(target, known)
    fine = (target - smooth) * known[..., None]
    # Robust: an edge that leads past is no texture.
    wanted, there = (_strength(one) for one in (fine[near], (made - _smooth(made, np.ones_like(where)))[where]))
    lacking = np.sqrt(np.clip(1 - (there / np.maximum(wanted, 1e-6)) ** 2, 0, 1))
    best, least = None, np.inf
    for dy, dx in _BESIDE:
        y, x = ys + dy, xs + dx
        if (
            y.min() < 0
            or x.min() < 0
            or y.max() >= where.shape[0]
            or x.max() >= where.shape[1]
            or not known[y, x].all()
        ):
            continue
        unlike = float(np.abs(smooth[y, x] - made[ys, xs]).mean())
        if unlike < least:
            best, least = fine[y, x], unlike
    if best is None:
        best = np.random.default_rng(_SEED).standard_normal((ys.size, target.shape[2]), np.float32) * wanted
    return np.asarray(lacking * np.clip(best, -3 * wanted, 3 * wanted), np.float32)


def _smooth(pixels: Pixels, known: Where) -> Pixels:
    """Blurred over what is known."""
    share = cv2.GaussianBlur(known.astype(np.float32), (0, 0), _FINE)
    blurred = cv2.GaussianBlur(np.ascontiguousarray(pixels * known[..., None]), (0, 0), _FINE).reshape(pixels.shape)
    return np.asarray(blurred / np.maximum(share, 1e-3)[..., None], np.float32)


def _strength(fine: Pixels) -> npt.NDArray[np.float32]:
    """Of N×C values, for each channel: their standard deviation, but for the strongest."""
    return np.asarray(1.48 * np.median(np.abs(fine), axis=0), np.float32)


def _around(where: Where, far: int) -> tuple[slice, slice]:
    rows, columns = np.flatnonzero(where.any(axis=1)), np.flatnonzero(where.any(axis=0))
    return (
        slice(max(0, int(rows[0]) - far), int(rows[-1]) + far + 1),
        slice(max(0, int(columns[0]) - far), int(columns[-1]) + far + 1),
    )


class _Level(NamedTuple):
    """A picture, what is missing of it and what is known, at one size."""

    pixels: Pixels
    where: Where
    known: Where


def _by_exemplars(target: Pixels, where: Where, known: Where, run: Run) -> Pixels:
    levels = _pyramid(target, where, known)
    if levels is None:
        return target.copy()
    random = np.random.default_rng(_SEED)
    made = _membrane(levels[0])
    offsets: Rows | None = None
    for number, level in enumerate(levels):
        rounds = max(_LEAST_ROUNDS, _MOST_ROUNDS - 2 * number)
        search = _Search(level, offsets, random)
        if number:
            # What was made so far says what this is to look like.
            large = cv2.resize(made, level.where.shape[::-1], interpolation=cv2.INTER_CUBIC).reshape(level.pixels.shape)
            made = np.where(level.where[..., None], large, level.pixels)
        for round_ in range(rounds):
            run.check()
            # At first nothing is known of what is missing: pieces are chosen by what they hold of the rest.
            search.look(made, run, trust=1.0 if number else min(1.0, round_ / 3))
            made = search.laid(made)
        offsets = search.offsets
    return np.asarray(made, np.float32)


def _pyramid(target: Pixels, where: Where, known: Where) -> list[_Level] | None:
    """Coarsest first; None if nothing is known from which pieces could be taken."""
    levels = [_Level(np.ascontiguousarray(target, np.float32), where, known)]
    while max(levels[-1].where.shape) * _SHRUNK > _COARSEST and thickness(levels[-1].where) > 2 * _HALF:
        last = levels[-1]
        size = tuple(max(2 * _HALF + 2, round(side * _SHRUNK)) for side in last.where.shape[::-1])
        share = cv2.resize((last.known & ~last.where).astype(np.float32), size, interpolation=cv2.INTER_AREA)
        weighted = last.pixels * (last.known & ~last.where)[..., None]
        small = cv2.resize(weighted, size, interpolation=cv2.INTER_AREA).reshape(*size[::-1], -1)
        small = small / np.maximum(share, 1e-3)[..., None]
        inside = cv2.resize(last.where.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.2
        levels.append(_Level(np.asarray(small, np.float32), inside, (share > 0.8) & ~inside))
    usable = [level for level in levels if _sources(level).any()]
    return usable[::-1] if usable and usable[0] is levels[0] else None


def _sources(level: _Level) -> Where:
    """Middles of pieces all of which is known."""
    kernel = np.ones((2 * _HALF + 1, 2 * _HALF + 1), np.uint8)
    return cv2.erode(level.known.astype(np.uint8), kernel, borderType=cv2.BORDER_CONSTANT, borderValue=0).astype(bool)


def _membrane(level: _Level) -> Pixels:
    """A first guess: what is around, from ever farther away."""
    share = (level.known & ~level.where).astype(np.float32)
    guess, weight = np.zeros_like(level.pixels), np.zeros_like(share)
    for sigma in (1.5, 4, 10, 30):
        blurred = cv2.GaussianBlur(share, (0, 0), sigma)
        mean = cv2.GaussianBlur(level.pixels * share[..., None], (0, 0), sigma).reshape(level.pixels.shape)
        new = (blurred > 1e-2) & (weight == 0)
        guess[new] = mean[new] / blurred[new][:, None]
        weight[new] = 1
    return np.where(level.where[..., None], guess, level.pixels)


class _Search:
    """For every piece that holds something missing, the one most like it among those that are known."""

    def __init__(self, level: _Level, before: Rows | None, random: np.random.Generator) -> None:
        self._level, self._random = level, random
        kernel = np.ones((2 * _HALF + 1, 2 * _HALF + 1), np.uint8)
        height, width = level.where.shape
        touched = cv2.dilate(level.where.astype(np.uint8), kernel).astype(bool)
        touched[:_HALF] = touched[-_HALF:] = touched[:, :_HALF] = touched[:, -_HALF:] = False
        self._valid = _sources(level)
        self._ys, self._xs = np.nonzero(touched)
        self._place = np.full((height, width), -1, np.intp)
        self._place[self._ys, self._xs] = np.arange(self._ys.size)
        steps = np.arange(-_HALF, _HALF + 1)
        self._dy, self._dx = (one.ravel() for one in np.meshgrid(steps, steps, indexing="ij"))
        self._missing = level.where[self._ys[:, None] + self._dy, self._xs[:, None] + self._dx]
        self._trust = 1.0
        candidates = np.stack(np.nonzero(self._valid), axis=1)
        chosen = candidates[random.integers(len(candidates), size=self._ys.size)]
        if before is not None:
            chosen = self._from_before(before, chosen)
        self._best = chosen
        self._cost = np.full(self._ys.size, np.inf, np.float32)

    @property
    def offsets(self) -> Rows:
        """H×W×2: how far down and right each piece's own lies; 0 where none is looked for."""
        result = np.zeros((*self._level.where.shape, 2), np.intp)
        result[self._ys, self._xs] = self._best - np.stack([self._ys, self._xs], axis=1)
        return result

    def _from_before(self, before: Rows, otherwise: Rows) -> Rows:
        """Where pieces lay in the coarser picture, if they can lie there."""
        height, width = self._level.where.shape
        scale = np.array([height / before.shape[0], width / before.shape[1]])
        y = np.clip((self._ys / scale[0]).astype(np.intp), 0, before.shape[0] - 1)
        x = np.clip((self._xs / scale[1]).astype(np.intp), 0, before.shape[1] - 1)
        wanted = np.stack([self._ys, self._xs], axis=1) + np.rint(before[y, x] * scale).astype(np.intp)
        wanted = np.clip(wanted, 0, np.array([height - 1, width - 1]))
        fits = self._valid[wanted[:, 0], wanted[:, 1]]
        return np.where(fits[:, None], wanted, otherwise)

    def look(self, made: Pixels, run: Run, trust: float) -> None:
        """One round: what suits a neighbour is tried beside it, then places at random, ever nearer.

        ``trust`` says how much what was made counts beside what is known, 0..1.
        """
        self._trust = trust
        own = made[self._ys[:, None] + self._dy, self._xs[:, None] + self._dx]
        everything = np.arange(self._ys.size)
        self._cost = self._unlike(own, self._best, everything)
        for dy, dx in ((0, 1), (1, 0), (0, -1), (-1, 0)):
            neighbour = self._place[self._ys + dy, self._xs + dx]
            has = neighbour >= 0
            self._try(own, np.where(has[:, None], self._best[neighbour] - np.array([dy, dx]), self._best))
        run.check()
        reach = _FAR * max(self._level.where.shape)
        while reach >= 1:
            moved = self._random.uniform(-reach, reach, (self._ys.size, 2))
            self._try(own, self._best + np.rint(moved).astype(np.intp))
            reach /= 2

    def _try(self, own: Pixels, wanted: Rows) -> None:
        height, width = self._level.where.shape
        wanted = np.clip(wanted, _HALF, np.array([height - 1 - _HALF, width - 1 - _HALF]))
        fits = self._valid[wanted[:, 0], wanted[:, 1]]
        cost = np.full(self._cost.shape, np.inf, np.float32)
        if fits.any():
            cost[fits] = self._unlike(own[fits], wanted[fits], np.flatnonzero(fits))
        better = cost < self._cost
        self._best[better], self._cost[better] = wanted[better], cost[better]

    def _unlike(self, own: Pixels, places: Rows, which: Rows) -> Plane:
        """Squared difference of pieces, N×P×C, and of those at places, made as light as each other as far as that goes."""
        difference = own - self._pieces(places)
        counts = np.where(self._missing[which], np.float32(self._trust), np.float32(1))
        counts /= np.maximum(counts.sum(axis=1, keepdims=True), np.float32(1e-3))
        lighter = np.clip(np.einsum("ijk,ij->ik", difference, counts), -_LIGHTER, _LIGHTER)
        difference -= lighter[:, None]
        unlike = np.einsum("ijk,ijk,ij->i", difference, difference, counts)
        return np.asarray(unlike + _AGAINST * (lighter * lighter).sum(axis=1), np.float32)

    def _pieces(self, places: Rows) -> Pixels:
        return np.asarray(self._level.pixels[places[:, :1] + self._dy, places[:, 1:] + self._dx])

    def laid(self, made: Pixels) -> Pixels:
        """All pieces laid over each other, those that suit best counting most, where something is missing."""
        total, weight = np.zeros_like(made), np.zeros(made.shape[:2], np.float32)
        scale = max(float(np.quantile(self._cost, 0.75)), 1e-7)
        counts = np.exp(-self._cost / (0.7 * scale)).astype(np.float32) + np.float32(1e-4)
        pieces = self._pieces(self._best)
        own = made[self._ys[:, None] + self._dy, self._xs[:, None] + self._dx]
        pieces += np.clip((own - pieces).mean(axis=1, keepdims=True), -_LIGHTER, _LIGHTER)
        for number, (dy, dx) in enumerate(zip(self._dy, self._dx, strict=True)):
            values = pieces[:, number] * counts[:, None]
            # Pieces lie a pixel apart: none falls on another at the same shift.
            total[self._ys + dy, self._xs + dx] += values
            weight[self._ys + dy, self._xs + dx] += counts
        mean = total / np.maximum(weight, 1e-9)[..., None]
        return np.asarray(np.where((self._level.where & (weight > 0))[..., None], mean, made), np.float32)
