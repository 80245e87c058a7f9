"""Where a picture that was made elsewhere lies on its source: scale, shift and a small turn; or that it is another one."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.errors import PictureError
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region, Size, level_of
from kitecore.pipeline.luma import luma
from kitecore.pipeline.run import Run

Plane = npt.NDArray[np.float32]
Affine = npt.NDArray[np.float64]

#: Pictures are compared at about this many pixels a side.
_SIDE = 900
_FEATURES, _RATIO, _TOLERANCE, _FEWEST = 3000, 0.8, 3.0, 12
#: Agreement of fine structure, as a correlation, from which on it is the same picture.
_SAME = 0.45
_LARGEST_TURN = 12.0
#: Share of the source that must be seen.
_LEAST_SEEN = 0.1
#: Lying exactly edge on edge is believed if it agrees as well as the best fit but for this.
_EXACT = 0.01


@dataclass(frozen=True)
class Alignment:
    """How the pixels of a source become those of another file: ``file = matrix @ (x, y, 1)``, both from upper left corners."""

    #: Two rows of three.
    matrix: tuple[float, float, float, float, float, float]
    #: The whole pixels of the source that the file covers.
    covered: Region
    #: Correlation of fine structure, 0..1.
    agreement: float

    @property
    def scale(self) -> float:
        """Pixels of the file for one of the source, on average."""
        a, b, _, d, e, _ = self.matrix
        return math.sqrt(abs(a * e - b * d))

    @property
    def angle(self) -> float:
        """Degrees by which the file is turned against the source, clockwise."""
        return math.degrees(math.atan2(self.matrix[3], self.matrix[0]))

    @property
    def size(self) -> Size:
        """The covered part at the file's own resolution."""
        return Size(max(1, round(self.covered.width * self.scale)), max(1, round(self.covered.height * self.scale)))


def align(file: Source, source: Source, run: Run) -> Alignment:
    """Find where ``file`` lies on ``source``.

    Features that both show give a first answer, or, where there are none, the assumption that both show the whole
    picture; fine structure is then brought into register to a fraction of a pixel (Lowe 2004 for the features,
    Evangelidis and Psarakis 2008 for the register).

    Raises PictureError with a sentence if it shows another picture, is turned further than 12°, or mirrored.
    """
    below, below_scale = _overview(source, run)
    above, above_scale = _overview(file, run)
    whole = np.array([[file.size.width / source.size.width, 0, 0], [0, file.size.height / source.size.height, 0]])
    tried: list[tuple[float, Affine]] = []
    for start in (_by_features(below, above, below_scale, above_scale), whole):
        if start is None:
            continue
        run.check()
        matrix = _registered(below, above, below_scale, above_scale, start)
        tried.append((_agreement(below, above, below_scale, above_scale, matrix), matrix))
    agreement, matrix = max(tried, key=lambda one: one[0])
    if agreement < _SAME:
        raise PictureError(
            f"{file.name} does not show the same picture as {source.name}: their fine structure does not agree "
            f"({agreement:.2f}, where {_SAME} is needed). Choose a file that was made from it."
        )
    if _agreement(below, above, below_scale, above_scale, whole) > agreement - _EXACT:
        matrix = whole
    angle = math.degrees(math.atan2(matrix[1, 0], matrix[0, 0]))
    if np.linalg.det(matrix[:, :2]) <= 0 or abs(angle) > _LARGEST_TURN:
        raise PictureError(
            f"{file.name} is turned or mirrored against {source.name}; turn it upright and add it again."
        )
    covered = _covered(matrix, file.size, source.size)
    if covered.width * covered.height < _LEAST_SEEN * source.size.pixels:
        raise PictureError(f"{file.name} shows too little of {source.name} to be compared with it.")
    flat = tuple(float(value) for value in matrix.ravel())
    assert len(flat) == 6
    return Alignment(flat, covered, round(agreement, 3))


def _overview(source: Source, run: Run) -> tuple[Plane, float]:
    """Luma at about the size pictures are compared at, and its pixels for one of the picture."""
    stage = source.stage(level_of(max(source.size.width, source.size.height) / _SIDE))
    grey = luma(stage.render(stage.size.region, run))
    shrink = min(1.0, _SIDE / max(grey.shape))
    if shrink < 1:
        side = (max(1, round(grey.shape[1] * shrink)), max(1, round(grey.shape[0] * shrink)))
        grey = np.asarray(cv2.resize(grey, side, interpolation=cv2.INTER_AREA), np.float32)
    return np.ascontiguousarray(grey), grey.shape[1] / source.size.width


def _eight(grey: Plane) -> npt.NDArray[np.uint8]:
    return np.asarray(np.clip(grey * 255, 0, 255), np.uint8)


def _by_features(below: Plane, above: Plane, below_scale: float, above_scale: float) -> Affine | None:
    """Similarity from source to file pixels that most matching features agree on; None if there are too few."""
    finder = cv2.SIFT_create(_FEATURES)  # type: ignore[attr-defined]
    points, described = zip(*(finder.detectAndCompute(_eight(plane), None) for plane in (below, above)), strict=True)
    if any(one is None or len(one) < _FEWEST for one in described):
        return None
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(described[0], described[1], 2)
    good = [pair[0] for pair in pairs if len(pair) == 2 and pair[0].distance < _RATIO * pair[1].distance]
    if len(good) < _FEWEST:
        return None
    start = np.array([points[0][one.queryIdx].pt for one in good]) + 0.5
    end = np.array([points[1][one.trainIdx].pt for one in good]) + 0.5
    cv2.setRNGSeed(1)
    matrix, inliers = cv2.estimateAffinePartial2D(
        start / below_scale, end / above_scale, method=cv2.RANSAC, ransacReprojThreshold=_TOLERANCE / above_scale
    )
    return None if matrix is None or int(inliers.sum()) < _FEWEST else np.asarray(matrix, np.float64)


def _between_overviews(matrix: Affine, below_scale: float, above_scale: float) -> Affine:
    """The same map between sample centres of the overviews, as OpenCV counts them."""
    linear, shift = matrix[:, :2] * (above_scale / below_scale), matrix[:, 2] * above_scale
    return np.column_stack([linear, shift + linear @ [0.5, 0.5] - 0.5])


def _between_pictures(matrix: Affine, below_scale: float, above_scale: float) -> Affine:
    linear = matrix[:, :2]
    shift = matrix[:, 2] - linear @ [0.5, 0.5] + 0.5
    return np.column_stack([linear * (below_scale / above_scale), shift / above_scale])


def _structure(grey: Plane) -> Plane:
    """Fine structure without tone: what any treatment leaves recognisable."""
    fine = cv2.GaussianBlur(grey, (0, 0), 1.0) - cv2.GaussianBlur(grey, (0, 0), 6.0)
    return np.asarray(fine, np.float32)


def _registered(below: Plane, above: Plane, below_scale: float, above_scale: float, start: Affine) -> Affine:
    """``start`` improved until fine structure lies on fine structure; as it was where that fails."""
    warp = _between_overviews(start, below_scale, above_scale).astype(np.float32)
    try:
        _, found = cv2.findTransformECC(  # type: ignore[call-overload]
            _structure(below), _structure(above), warp, cv2.MOTION_AFFINE,
            (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 60, 1e-6), None, 3,
        )  # fmt: skip
    except cv2.error:
        return start
    return _between_pictures(np.asarray(found, np.float64), below_scale, above_scale)


def _agreement(below: Plane, above: Plane, below_scale: float, above_scale: float, matrix: Affine) -> float:
    """Correlation of fine structure where both are seen; 0 where hardly anything is."""
    warp = _between_overviews(matrix, below_scale, above_scale)
    size = (below.shape[1], below.shape[0])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    seen = cv2.warpAffine(np.ones_like(above), warp, size, flags=flags) > 0.99
    if seen.mean() < _LEAST_SEEN / 2:
        return 0.0
    laid = np.asarray(cv2.warpAffine(above, warp, size, flags=flags), np.float32)
    mine, its = _structure(below)[seen], _structure(laid)[seen]
    return float(np.corrcoef(mine, its)[0, 1]) if mine.std() > 1e-5 and its.std() > 1e-5 else 0.0


def _covered(matrix: Affine, file: Size, source: Size) -> Region:
    """The largest upright rectangle of whole source pixels inside the file, cut to the source."""
    back = np.linalg.inv(np.vstack([matrix, [0, 0, 1]]))
    corners = np.array([[0, 0, 1], [file.width, 0, 1], [0, file.height, 1], [file.width, file.height, 1]]).T
    (x0, x1, x2, x3), (y0, y1, y2, y3) = (back @ corners)[:2]
    tolerance = 0.02
    left, right = math.ceil(max(x0, x2, 0) - tolerance), math.floor(min(x1, x3, source.width) + tolerance)
    top, bottom = math.ceil(max(y0, y1, 0) - tolerance), math.floor(min(y2, y3, source.height) + tolerance)
    return Region.between(left, top, max(left + 1, right), max(top + 1, bottom))
