"""How noisy a picture is: standard deviation of luminance and of colour noise, from its flattest areas."""

from __future__ import annotations

import itertools

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
    variances, means, clipped = (np.concatenate(parts) for parts in zip(*map(_blocks, planes, tone), strict=True))
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


def _blocks(plane: Plane, tone: Plane) -> tuple[npt.NDArray[np.float64], ...]:
    """Per block: variance left after fitting a curved surface, mean tone, share of clipped samples."""
    windows = _cut(plane)
    y, x = np.mgrid[0:_BLOCK, 0:_BLOCK] - (_BLOCK - 1) / 2
    basis = np.stack([np.ones_like(x), x, y, x * y, x * x - (x * x).mean(), y * y - (y * y).mean()]).reshape(6, -1)
    basis /= np.linalg.norm(basis, axis=1, keepdims=True)
    q, _ = np.linalg.qr(basis.T)
    rest = windows - (windows @ q) @ q.T
    tones = _cut(tone)
    clipped = ((tones <= _END) | (tones >= 1 - _END)).mean(axis=1)
    return (rest**2).sum(axis=1) / (_BLOCK * _BLOCK - 6), tones.mean(axis=1), clipped


def _cut(plane: Plane) -> npt.NDArray[np.float64]:
    """Blocks as rows, N×(side²)."""
    if min(plane.shape) < _BLOCK:
        return np.empty((0, _BLOCK * _BLOCK))
    views = np.lib.stride_tricks.sliding_window_view(plane, (_BLOCK, _BLOCK))[::_STRIDE, ::_STRIDE]
    return views.reshape(-1, _BLOCK * _BLOCK).astype(np.float64)
