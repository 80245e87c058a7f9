"""The parts a mask is made of: painted, drawn, or told by what the picture is like. Each is one plane of weights, 0..1."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, Self, TypeAlias

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.colour.oklab import cones_of, to_oklab
from kitecore.colour.primaries import primaries_of
from kitecore.colour.transfer import transfer_of
from kitecore.faces.square import FACE_SHARE, FaceSquare
from kitecore.filters.guided import guided
from kitecore.masks.found import PlaneText, plane_of
from kitecore.masks.original import Original, Plane
from kitecore.masks.strokes import MOST_STROKES, Stroke, likeness, touched, weight
from kitecore.pipeline.geometry import Place, Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import colours_of
from kitecore.pipeline.run import Run
from kitecore.values import Percent

#: How a part meets what the parts before it made.
How: TypeAlias = Literal["add", "take", "meet"]
#: A share of the source's width, or of its height.
Share: TypeAlias = Annotated[float, Field(ge=-4, le=5)]
#: A place in pixels.
Finite: TypeAlias = Annotated[float, Field(ge=-1e5, le=1e5)]
Spot: TypeAlias = tuple[Share, Share]

#: Luma differences well above it are edges that a refined rim follows.
_EDGE = 0.03
#: How much of a rim's weight on the wrong side of an edge is taken for roughness.
_LITTLE = 0.25
#: A height of a face in widths of it, and how far above the middle of its square it begins.
_FACE_HEIGHT = 1.45


class Part(BaseModel, ABC):
    """One part; subclasses set ``by``. Lengths are in pixels of the upright source."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    #: What it is called unless somebody gave it a name, one and several.
    title: ClassVar[str]

    by: str
    name: Annotated[str, Field(max_length=40)] = ""
    on: bool = True
    how: Annotated[How, Field(description="Added to the parts before it, taken away, or only where both are.")] = "add"
    inverted: bool = False
    strength: Percent = 100.0
    feather: Annotated[float, Field(ge=0, le=60, description="σ of what softens it, px of the source.")] = 0.0
    refine: Annotated[float, Field(ge=0, le=40, description="How far its rim looks for edges of the picture, px.")] = (
        0.0
    )

    @abstractmethod
    def own(self, region: Region, original: Original, run: Run) -> Plane:
        """The bare part over a region, which may reach outside the picture: H×W, 0..1."""

    def portable(self) -> Self:
        """The part without what belongs to its picture alone but can be found again in another."""
        return self

    def values(self, region: Region, original: Original, run: Run) -> Plane:
        """The part over a region, softened, refined and inverted as it is set."""
        radius = max(1, round(self.refine / original.scale)) if self.refine else 0
        sigma = self.feather / original.scale
        reach = math.ceil(3 * sigma)
        values = self.own(region.grown(2 * radius + reach), original, run)
        if radius:
            grey = luma(original.stage.extended(region.grown(2 * radius + reach), run))
            # Where the rim was rough, both sides have something of it: what has little has none.
            values = _smooth((guided(values, grey, radius, _EDGE) - np.float32(_LITTLE)) / np.float32(1 - 2 * _LITTLE))
        if reach:
            side = 2 * reach + 1
            values = np.asarray(cv2.GaussianBlur(values, (side, side), sigma), np.float32)
        margin = 2 * radius + reach
        inner = values[margin : margin + region.height, margin : margin + region.width]
        return np.asarray(1 - inner if self.inverted else inner, np.float32)

    def called(self) -> str:
        return self.name or self.title


class Brush(Part):
    """Strokes laid one over the other, from nothing."""

    title: ClassVar[str] = "painted strokes"

    by: Literal["brush"] = "brush"
    strokes: Annotated[list[Stroke], Field(max_length=MOST_STROKES)] = []

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        values = np.zeros((region.height, region.width), np.float32)
        pixels: Plane | None = None
        for stroke in self.strokes:
            part = touched(stroke, region, original.back)
            if part is None:
                continue
            place = part.slices(region)
            own = weight(stroke, part, original.back)
            if stroke.edges and own.any():
                if pixels is None:
                    pixels = luma(original.stage.extended(region, run))
                own *= likeness(stroke, pixels[place], original.back, original.stage, run)
            own *= np.float32(stroke.strength / 100)
            below = values[place]
            np.copyto(below, below * (1 - own) if stroke.erase else np.maximum(below, own))
        return values

    def called(self) -> str:
        count = len(self.strokes)
        return self.name or f"{count} painted {'stroke' if count == 1 else 'strokes'}"


def _smooth(share: Plane) -> Plane:
    """0..1 to 0..1 without a kink."""
    held = np.clip(share, 0, 1)
    return np.asarray(held * held * (3 - 2 * held), np.float32)


class Linear(Part):
    """Whole before ``start``, nothing behind ``end``, and evenly less between them, across the line that joins them."""

    title: ClassVar[str] = "linear gradient"

    by: Literal["linear"] = "linear"
    start: Annotated[Spot, Field(description="Shares of the source's width and height.")] = (0.5, 0.0)
    end: Spot = (0.5, 0.6)

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        x, y = original.places(region)
        width, height = original.source.width, original.source.height
        across, down = (self.end[0] - self.start[0]) * width, (self.end[1] - self.start[1]) * height
        length = max(across * across + down * down, 1e-6)
        along = ((x - self.start[0] * width) * across + (y - self.start[1] * height) * down) / length
        return _smooth(np.asarray(1 - along, np.float32))


class Radial(Part):
    """Whole in the middle of an ellipse, nothing beyond it."""

    title: ClassVar[str] = "radial gradient"

    by: Literal["radial"] = "radial"
    middle: Annotated[Spot, Field(description="Shares of the source's width and height.")] = (0.5, 0.5)
    across: Annotated[float, Field(gt=0, le=5, description="Half of it, a share of the source's width.")] = 0.25
    down: Annotated[float, Field(gt=0, le=5, description="The same the other way, also of the width.")] = 0.25
    angle: Annotated[float, Field(ge=-180, le=180, description="Degrees clockwise.")] = 0.0
    softness: Annotated[
        Percent, Field(description="Share of the way from the rim to the middle over which it fades.")
    ] = 60.0

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        x, y = original.places(region)
        width = original.source.width
        x, y = x - self.middle[0] * width, y - self.middle[1] * original.source.height
        turn = math.radians(self.angle)
        along, aside = x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)
        away = np.hypot(along / (self.across * width), aside / (self.down * width))
        return _smooth(np.asarray((1 - away) / max(self.softness / 100, 1e-4), np.float32))


class ToneRange(Part):
    """Tones of the original between two values of luma, with soft ends."""

    title: ClassVar[str] = "tones"

    by: Literal["tones"] = "tones"
    low: Annotated[float, Field(ge=0, le=1)] = 0.6
    high: Annotated[float, Field(ge=0, le=1)] = 1.0
    below: Annotated[float, Field(ge=0, le=1, description="How far it fades below ``low``.")] = 0.1
    above: Annotated[float, Field(ge=0, le=1, description="How far it fades above ``high``.")] = 0.1

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        grey = np.clip(luma(original.stage.extended(region, run)), 0, 1)
        rising = _smooth((grey - np.float32(self.low - self.below)) / np.float32(max(self.below, 1e-4)))
        falling = _smooth((np.float32(self.high + self.above) - grey) / np.float32(max(self.above, 1e-4)))
        return rising * falling

    def called(self) -> str:
        return self.name or f"tones from {self.low:.0%} to {self.high:.0%}"


class ColourRange(Part):
    """Colours of the original like those that were picked. How light they are counts half."""

    title: ClassVar[str] = "colours"

    by: Literal["colours"] = "colours"
    colours: Annotated[
        list[tuple[float, float, float]], Field(max_length=12, description="Oklab: L 0..1, a and b.")
    ] = []
    tolerance: Annotated[float, Field(ge=1, le=100, description="100 is a distance of 0.3 in Oklab.")] = 25.0
    softness: Annotated[Percent, Field(description="Share of the tolerance over which it fades.")] = 60.0

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        if not self.colours:
            return np.zeros((region.height, region.width), np.float32)
        pixels = colours_of(original.stage.extended(region, run))
        light = transfer_of(original.profile).light(pixels)
        light = np.repeat(light, 3, axis=2) if light.shape[2] == 1 else light
        lab = to_oklab(light, cones_of(primaries_of(original.profile)))
        weights = np.array([0.5, 1, 1], np.float32)
        nearest = np.full(lab.shape[:2], np.inf, np.float32)
        for colour in self.colours:
            apart = (lab - np.array(colour, np.float32)) * weights
            np.minimum(nearest, np.sqrt((apart * apart).sum(axis=2)), out=nearest)
        reach = np.float32(0.3 * self.tolerance / 100)
        return _smooth((1 - nearest / reach) / np.float32(max(self.softness / 100, 1e-4)))

    def called(self) -> str:
        count = len(self.colours)
        return self.name or f"{count} picked {'colour' if count == 1 else 'colours'}"


class FacePlace(BaseModel):
    """Where a face is, in pixels of the upright source; the eye farther left in the picture first."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    eyes: tuple[tuple[Finite, Finite], tuple[Finite, Finite]]
    mouth: tuple[Finite, Finite]


class FaceArea(Part):
    """Faces, from hair to chin, by their eyes and mouths."""

    title: ClassVar[str] = "faces"

    by: Literal["faces"] = "faces"
    faces: Annotated[list[FacePlace], Field(max_length=200)] = []

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        values = np.zeros((region.height, region.width), np.float32)
        x, y = original.places(region)
        for face in self.faces:
            square = FaceSquare.around(*(Place(*spot) for spot in (*face.eyes, face.mouth)))
            across = square.side * FACE_SHARE / 2
            cos, sin = math.cos(square.turn), math.sin(square.turn)
            left, top = x - square.middle.x, y - square.middle.y
            along, aside = left * cos + top * sin, top * cos - left * sin
            away = np.hypot(along / across, aside / (across * _FACE_HEIGHT))
            np.maximum(values, _smooth(np.asarray((1.15 - away) / 0.3, np.float32)), out=values)
        return values

    def portable(self) -> Self:
        return self.model_copy(update={"faces": []})

    def called(self) -> str:
        return self.name or ("a face" if len(self.faces) == 1 else f"{len(self.faces)} faces")


class Found(Part):
    """What somebody or something was found to be, by a look at the whole picture: kept as a small plane over the source."""

    title: ClassVar[str] = "what was found"

    by: Literal["found"] = "found"
    what: Literal["subject", "background", "people", "sky", "skin", "focus"] = "subject"
    box: Annotated[
        tuple[Share, Share, Share, Share] | None,
        Field(description="Left, top, right, bottom around the subject, shares of the source; null: it is looked for."),
    ] = None
    hints: Annotated[
        list[Stroke],
        Field(max_length=60, description="Strokes over the subject; those that erase lie over what is not part of it."),
    ] = []
    hair: Annotated[
        float,
        Field(ge=0, le=10, description="How far from the outline single hairs are told apart, % of the long side."),
    ] = 0.0
    plane: Annotated[PlaneText, Field(description="As it was found; empty: to be found.")] = ""

    def own(self, region: Region, original: Original, run: Run) -> Plane:
        if not self.plane:
            return np.zeros((region.height, region.width), np.float32)
        plane = plane_of(self.plane)
        height, width = plane.shape
        x, y = original.places(region)
        return _between(
            plane, np.clip(x / original.source.width * width - 0.5, 0, width - 1),
            np.clip(y / original.source.height * height - 0.5, 0, height - 1),
        )  # fmt: skip

    def portable(self) -> Self:
        return self.model_copy(update={"plane": "", "box": None, "hints": []})

    def called(self) -> str:
        return self.name or ("people" if self.what == "people" else f"the {self.what}") + (
            "" if self.plane else " (not found yet)"
        )


def _between(plane: Plane, x: np.ndarray, y: np.ndarray) -> Plane:
    """A plane read at places between its samples, linearly."""
    left, top = np.floor(x).astype(np.intp), np.floor(y).astype(np.intp)
    right, bottom = np.minimum(left + 1, plane.shape[1] - 1), np.minimum(top + 1, plane.shape[0] - 1)
    across, down = (x - left).astype(np.float32), (y - top).astype(np.float32)
    upper = plane[top, left] * (1 - across) + plane[top, right] * across
    lower = plane[bottom, left] * (1 - across) + plane[bottom, right] * across
    return np.asarray(upper * (1 - down) + lower * down, np.float32)


AnyPart = Annotated[Brush | Linear | Radial | ToneRange | ColourRange | FaceArea | Found, Field(discriminator="by")]


def told(parts: Sequence[Part]) -> str:
    """Parts in words, in their order."""
    words = {"add": "and", "take": "without", "meet": "within"}
    text = ""
    for part in parts:
        own = f"all but {part.called()}" if part.inverted else part.called()
        text = f"{text} {words[part.how]} {own}" if text else own
    return text
