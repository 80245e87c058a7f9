"""Places that tell most about a treatment: eyes, texture, even tone, edges, lettering, corners, noisy shadow."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.faces import Face, find_faces
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Plane = npt.NDArray[np.float32]

#: Pictures are looked at in halves until their long side is at most this.
_LONGEST = 2048
#: Side of the areas that are compared, as a share of the short side, and its bounds in pixels.
_AREA_SHARE, _AREA_LEAST, _AREA_MOST = 0.09, 16, 96
_MOST_FACES = 3
#: In faces at least this wide both eyes are worth a place each, in pixels.
_EYES_APART = 140


@dataclass(frozen=True)
class Proposal:
    """A place in the upright source, what it is called and why it is worth looking at."""

    place: Place
    name: str
    reason: str


def propose_spots(source: Source, run: Run) -> list[Proposal]:
    """At most some fourteen places, most telling first; none twice. What a picture does not have is not proposed."""
    halvings = max(0, (max(source.size.width, source.size.height) - 1) // _LONGEST).bit_length()
    stage = source.stage(halvings)
    pixels = stage.render(stage.size.region, run)
    grey = luma(pixels)
    found = [*_faces(pixels, run), *_areas(grey), *_corners(grey)]
    scale_x, scale_y = source.size.width / grey.shape[1], source.size.height / grey.shape[0]
    side = _area_side(grey)
    kept: list[Proposal] = []
    for proposal in found:
        place = proposal.place
        if all(abs(place.x - other.place.x) + abs(place.y - other.place.y) > side for other in kept):
            kept.append(proposal)
    return [
        Proposal(Place(one.place.x * scale_x, one.place.y * scale_y), one.name, one.reason) for one in kept
    ]  # fmt: skip


def _area_side(grey: Plane) -> int:
    return int(np.clip(_AREA_SHARE * min(grey.shape), _AREA_LEAST, _AREA_MOST))


def _faces(pixels: Pixels, run: Run) -> list[Proposal]:
    """The eyes of the largest faces."""
    faces = find_faces(pixels, run)[:_MOST_FACES]
    names = [""] if len(faces) == 1 else [f" {number}" for number in range(1, len(faces) + 1)]
    return [proposal for face, name in zip(faces, names, strict=True) for proposal in _eyes(face, name)]


def _eyes(face: Face, name: str) -> list[Proposal]:
    reason = f"a face, about {round(face.width)} px wide"
    one, other = sorted(face.eyes, key=lambda eye: eye.x)
    if face.width < _EYES_APART:
        return [Proposal(Place((one.x + other.x) / 2, (one.y + other.y) / 2), f"eyes{name}", reason)]
    return [Proposal(one, f"left eye{name}", reason), Proposal(other, f"right eye{name}", reason)]


def _areas(grey: Plane) -> list[Proposal]:
    side = _area_side(grey)
    if min(grey.shape) < 2 * side:
        return []
    mean = cv2.blur(grey, (side, side))
    fine = grey - cv2.GaussianBlur(grey, (0, 0), 1.5)
    broad = cv2.GaussianBlur(grey, (0, 0), 2.0)
    deviation = np.sqrt(np.maximum(cv2.blur(broad * broad, (side, side)) - cv2.blur(broad, (side, side)) ** 2, 0))
    strength = np.sqrt(np.maximum(cv2.blur(fine * fine, (side, side)), 0))
    # Fine texture is strong everywhere in its area; a single edge is strong in a small part of it.
    spread = cv2.blur(np.minimum(np.abs(fine), 0.02), (side, side))
    across, along = cv2.Sobel(broad, cv2.CV_32F, 1, 0), cv2.Sobel(broad, cv2.CV_32F, 0, 1)
    slope = np.hypot(across, along)
    middle = (mean > 0.15) & (mean < 0.93)
    shadow = (mean > 0.015) & (mean < 0.25)
    written = _writing(grey, side)

    found: list[Proposal] = []
    if (place := _best(written, side, least=0.35)) is not None:
        found.append(Proposal(place, "lettering", "two tones in strokes close together"))
    if (place := _best(spread * strength * (1 - np.minimum(3 * written, 1)), side, least=1e-6)) is not None:
        found.append(
            Proposal(place, "fine texture", f"strongest fine texture, {_at(strength, place) * 255:.1f} of 255")
        )
    if (place := _best(np.where(middle, 1 / (0.003 + deviation + strength), 0), side)) is not None:
        found.append(Proposal(place, "even tone", f"flattest tone, varies by {_at(deviation, place) * 255:.1f} of 255"))
    if (place := _best(slope, side, least=0.05)) is not None:
        found.append(Proposal(place, "hard edge", "hardest edge"))
    if (place := _best(np.where(shadow, strength / (0.01 + deviation), 0), side, least=0.02)) is not None:
        found.append(Proposal(place, "shadow", f"noisiest shadow, {_at(strength, place) * 255:.1f} of 255"))
    return found


def _writing(grey: Plane, side: int) -> Plane:
    """How much areas look like lettering, 0..1: nearly all pixels of two tones, and many steps between them."""
    kernel = np.ones((side, side), np.uint8)
    low, high = cv2.erode(grey, kernel), cv2.dilate(grey, kernel)
    contrast = high - low
    level = (grey - low) / np.maximum(contrast, 0.05)
    two_toned = cv2.blur(((level < 0.22) | (level > 0.78)).astype(np.float32), (side, side))
    steps = (np.abs(np.diff((level > 0.5).astype(np.float32), axis=1, append=0))).astype(np.float32)
    dense = np.minimum(cv2.blur(steps, (side, side)) * side / 6, 1)
    return np.where(contrast > 0.25, np.clip((two_toned - 0.5) * 2, 0, 1) * dense, 0).astype(np.float32)


def _best(score: Plane, side: int, least: float = 0.0) -> Place | None:
    """The middle of the best area that lies wholly in the picture; None if none is better than ``least``."""
    half = side // 2
    inner = score[half:-half, half:-half]
    if not inner.size or float(inner.max()) <= least:
        return None
    row, column = np.unravel_index(int(inner.argmax()), inner.shape)
    return Place(float(column + half) + 0.5, float(row + half) + 0.5)


def _at(plane: Plane, place: Place) -> float:
    return float(plane[int(place.y), int(place.x)])


def _corners(grey: Plane) -> list[Proposal]:
    height, width = grey.shape
    inset = _area_side(grey) / 2
    sides = {"left": inset, "right": width - inset}, {"upper": inset, "lower": height - inset}
    return [
        Proposal(Place(x, y), f"{vertical} {horizontal}", "a corner, where lenses are weakest")
        for vertical, y in sides[1].items()
        for horizontal, x in sides[0].items()
    ]
