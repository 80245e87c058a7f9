"""How noisy a picture is: standard deviation of luminance and of colour noise, from its flattest areas."""

from __future__ import annotations

import itertools
from functools import cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Plane = npt.NDArray[np.float32]

#: Side of the blocks that are compared, and how far they are apart.
_BLOCK, _STRIDE = 12, 6
#: Tones are looked at apart, since sensor noise depends on them.
_TONES = 6
#: Share of a tone's blocks taken for flat.
_FLAT = 0.06
#: Blocks with more than this share of clipped samples hide their noise.
_CLIPPED = 0.02
_END = 1 / 255
#: Widths of noise that are told apart, σ in pixels.
_WIDTHS = np.geomspace(0.2, 2.5, 40)
#: How often the width is found again from the blocks it gives, and how far their variances may spread: beyond, it is texture.
_TURNS, _MOST_SPREAD = 4, 6.0


def noise_of(planes: list[Plane], tone: list[Plane]) -> tuple[float, float]:
    """(σ on a scale of 0..255, confidence 0..1) of the noise in one plane of a picture.

    Parameters
    ----------
    planes
        Parts of the plane, H×W float32 (0..1, or ±0.5 for colour differences).
    tone
        The same parts of the picture's luma, by which blocks are grouped.

    Notes
    -----
    The residual of a curved surface fitted to each block; in every group of tones the flattest few per cent count. A block of
    noise alone has a known spread about its variance, so that choosing the smallest ones is allowed for; where
    variances spread more than that, the flattest blocks may hold texture, and less is to be made of the estimate.
    """
    variances, means, clipped, _ = (np.concatenate(parts) for parts in zip(*map(_blocks, planes, tone), strict=True))
    inside = clipped < _CLIPPED
    if inside.sum() < 20:
        return 0.0, 0.0
    variances, means = variances[inside], means[inside]
    estimates, weights, spreads = [], [], []
    edges = np.quantile(means, np.linspace(0, 1, _TONES + 1))
    for low, high in itertools.pairwise(edges):
        group = (means >= low) & (means <= high)
        count = int(group.sum())
        if count < 20:
            continue
        ordered = np.sort(variances[group])
        flat = ordered[: max(8, int(_FLAT * count))]
        estimates.append(float(np.median(flat)))
        spreads.append(float(np.sqrt(ordered[int(0.2 * count)] / max(1e-12, ordered[int(0.02 * count)]))))
        weights.append(count)
    if not estimates:
        return 0.0, 0.0
    # The flattest of many blocks of pure noise vary less than its true variance, by about a fifth.
    total = float(np.average(np.sqrt(estimates), weights=weights)) * 1.1
    spread = float(np.median(spreads))
    confidence = float(np.clip(1.6 - 0.45 * spread, 0.15, 0.95))
    return total * 255, confidence


def grain_of(planes: list[Plane], tone: list[Plane]) -> tuple[float, float]:
    """(σ on a scale of 0..255, width) of the noise in one plane, as it is meant to be made again.

    Width is the σ in pixels of the Gaussian that white noise was blurred by, 0.2 (as good as white) up to 2.5, from how
    alike neighbours are. Arguments as for :func:`noise_of`, which tells less of wide noise: the surface that is fitted takes
    some of it, and the wider it is, the more the variances of blocks spread, and the less the flattest have of it. Here as
    many blocks count as noise of the width found so far would give, and what the surface takes is given back.
    """
    variances, _, clipped, alike = (np.concatenate(parts) for parts in zip(*map(_blocks, planes, tone), strict=True))
    inside = (clipped < _CLIPPED) & (variances > 0)
    if inside.sum() < 20:
        return 0.0, float(_WIDTHS[0])
    order = np.argsort(variances[inside])
    variances, alike = variances[inside][order], alike[inside][order]
    flattest = float(np.median(variances[: max(8, int(_FLAT * len(variances)))]))
    width = float(_WIDTHS[0])
    for _ in range(_TURNS):
        freedom = float(np.interp(width, _WIDTHS, _width_table().freedom))
        near = variances <= min(_MOST_SPREAD, _quantile(freedom, 2.33) / _quantile(freedom, -1.88)) * flattest
        ratio = float(alike[near].sum() / (variances[near].sum() * (1 - 6 / _BLOCK**2)))
        width = float(np.interp(ratio, _width_table().alike, _WIDTHS))
    seen = float(np.interp(width, _WIDTHS, _width_table().seen))
    return float(np.sqrt(variances[near].mean() / seen)) * 255, width


def _quantile(freedom: float, deviations: float) -> float:
    """Of chi-square over its mean (Wilson and Hilferty), so many deviations from the middle."""
    spread = 2 / (9 * freedom)
    return float(max(0.02, 1 - spread + deviations * np.sqrt(spread)) ** 3)


class _WidthTable(NamedTuple):
    """For each of the widths: how alike neighbours are in what a fitted surface leaves of a block, the share of variance it
    leaves, and how many independent values the block is worth."""

    alike: npt.NDArray[np.float64]
    seen: npt.NDArray[np.float64]
    freedom: npt.NDArray[np.float64]


@cache
def _width_table() -> _WidthTable:
    rows, columns = (place.ravel() for place in np.mgrid[0:_BLOCK, 0:_BLOCK])
    down, across = (np.abs(place[:, None] - place[None]) for place in (rows, columns))
    apart = down + across
    fitted = _surface()
    found = []
    for width in _WIDTHS:
        # Of white noise that was blurred by a kernel in whole pixels, as programs and the grain step do it.
        kernel = np.exp(-(np.arange(-_BLOCK, _BLOCK + 1) ** 2) / (2 * width**2))
        shared = np.correlate(kernel, kernel, "full")[2 * _BLOCK :][:_BLOCK] / (kernel**2).sum()
        covariance = shared[down] * shared[across]
        half = covariance - fitted @ (fitted.T @ covariance)
        left = half - (half @ fitted) @ fitted.T
        total = np.trace(left)
        found.append(
            (left[apart == 1].mean() / (total / _BLOCK**2), total / (_BLOCK**2 - 6), total**2 / (left**2).sum())
        )
    return _WidthTable(*np.array(found).T)


@cache
def _surface() -> npt.NDArray[np.float64]:
    """An orthonormal basis of curved surfaces over a block, N×6."""
    y, x = np.mgrid[0:_BLOCK, 0:_BLOCK] - (_BLOCK - 1) / 2
    basis = np.stack([np.ones_like(x), x, y, x * y, x * x - (x * x).mean(), y * y - (y * y).mean()]).reshape(6, -1)
    q, _ = np.linalg.qr((basis / np.linalg.norm(basis, axis=1, keepdims=True)).T)
    return q


def _blocks(plane: Plane, tone: Plane) -> tuple[npt.NDArray[np.float64], ...]:
    """Per block: variance left after fitting a curved surface, mean tone, share of clipped samples, product of neighbours."""
    windows = _cut(plane)
    q = _surface()
    rest = windows - (windows @ q) @ q.T
    square = rest.reshape(-1, _BLOCK, _BLOCK)
    across = (square[:, :, 1:] * square[:, :, :-1]).mean(axis=(1, 2))
    down = (square[:, 1:] * square[:, :-1]).mean(axis=(1, 2))
    tones = _cut(tone)
    clipped = ((tones <= _END) | (tones >= 1 - _END)).mean(axis=1)
    return (rest**2).sum(axis=1) / (_BLOCK * _BLOCK - 6), tones.mean(axis=1), clipped, (across + down) / 2


def _cut(plane: Plane) -> npt.NDArray[np.float64]:
    """Blocks as rows, N×(side²)."""
    if min(plane.shape) < _BLOCK:
        return np.empty((0, _BLOCK * _BLOCK))
    views = np.lib.stride_tricks.sliding_window_view(plane, (_BLOCK, _BLOCK))[::_STRIDE, ::_STRIDE]
    return views.reshape(-1, _BLOCK * _BLOCK).astype(np.float64)
