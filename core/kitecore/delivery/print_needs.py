"""What a print needs: pixels for its size, the paper and the distance it is seen from, and what a picture has of them.

The model
---------
An eye of normal acuity sees details of one minute of arc: of a grating it tells lines of that width, and gaps as wide,
apart. A pixel of that size is all it can use. From a distance of ``d`` centimetres that is 8732 ÷ d pixels per inch: with
as many a print is *good*, finer ones look no better. With half as many edges are still drawn cleanly but fine texture is
missing: the least that is *required*. No paper shows more than its ink leaves apart; beyond the paper's own limit more
pixels are of no use, and neither figure exceeds it.

A print whose distance is not told is taken to be seen from as far as its diagonal is long, where it is seen as a whole,
and from no nearer than 25 cm, where eyes stop to focus.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field

from kitecore.errors import TakeError
from kitecore.lengths import MILLIMETRES, MILLIMETRES_PER_INCH, Unit, parse_print
from kitecore.pipeline.geometry import Size
from kitecore.steps.enlarge import LARGEST_FACTOR
from kitecore.steps.sharpen import Sharpen

#: ppi × centimetres at which a pixel is one minute of arc wide.
PPI_CENTIMETRES = 2.54 / math.tan(math.radians(1 / 60))
#: Share of the good resolution that is the least required.
REQUIRED_SHARE = 0.5
_NEAREST_CM = 25.0
#: The pattern whose contrast the last sharpening gives back.
_PIXELS_A_CYCLE = 3
_DIAGONALS = 1.0
#: Pixels per inch of the coarsest print that is made.
_COARSEST = 10

PaperName: TypeAlias = Literal["gloss", "lustre", "matte", "canvas", "newsprint"]
Verdict: TypeAlias = Literal["as it stands", "with ×2", "with ×4", "with ×8", "beyond"]
Group: TypeAlias = Literal["photo", "frame", "ISO A", "ISO B"]


@dataclass(frozen=True)
class Paper:
    """``finest`` pixels per inch are what it shows at most; ink spreads by ``spread`` (σ, in millimetres)."""

    name: PaperName
    title: str
    finest: float
    spread: float


PAPERS: dict[PaperName, Paper] = {
    paper.name: paper
    for paper in (
        Paper("gloss", "gloss", 360, 0.02),
        Paper("lustre", "lustre or satin", 300, 0.03),
        Paper("matte", "matte or fine art", 240, 0.05),
        Paper("canvas", "canvas", 150, 0.09),
        Paper("newsprint", "newsprint", 170, 0.11),
    )
}


class PrintSize(BaseModel):
    """A size on paper as it is called; width and height as of a portrait."""

    model_config = ConfigDict(frozen=True)

    name: str
    group: Group | Literal["free"] = "free"
    width: float = Field(gt=0)
    height: float = Field(gt=0)
    unit: Unit = "cm"

    @property
    def millimetres(self) -> tuple[float, float]:
        return self.width * MILLIMETRES[self.unit], self.height * MILLIMETRES[self.unit]


def _series(group: Group, sides: tuple[tuple[str, float, float], ...], unit: Unit) -> list[PrintSize]:
    return [PrintSize(name=name, group=group, width=width, height=height, unit=unit) for name, width, height in sides]


def _named(group: Group, unit: Unit, *sides: tuple[float, float]) -> list[PrintSize]:
    return _series(group, tuple((f"{width:g} × {height:g} {unit}", width, height) for width, height in sides), unit)


#: Photographic papers, frames as they are sold, and the ISO 216 series.
STANDARD_SIZES: tuple[PrintSize, ...] = (
    *_named("photo", "cm", (9, 13), (10, 15), (13, 18), (15, 20), (20, 30), (30, 45), (40, 60), (60, 90)),
    *_named("photo", "in", (4, 6), (5, 7), (8, 10), (8, 12), (11, 14), (16, 20), (20, 24), (24, 36)),
    *_named("frame", "cm", (21, 30), (24, 30), (30, 40), (40, 50), (50, 70), (60, 80), (70, 100)),
    *_series("ISO A", (
        ("A6", 105, 148), ("A5", 148, 210), ("A4", 210, 297), ("A3", 297, 420), ("A2", 420, 594), ("A1", 594, 841),
        ("A0", 841, 1189),
    ), "mm"),
    *_series("ISO B", (
        ("B5", 176, 250), ("B4", 250, 353), ("B3", 353, 500), ("B2", 500, 707), ("B1", 707, 1000), ("B0", 1000, 1414),
    ), "mm"),
)  # fmt: skip


class PixelSize(BaseModel):
    width: int
    height: int


class PrintNeed(BaseModel):
    """What a print of one size needs of one picture."""

    size: PrintSize = Field(description="Turned as the picture is.")
    paper: PaperName
    distance_cm: float
    required_ppi: float
    ppi: float = Field(description="The good resolution: more is not seen.")
    required_px: PixelSize = Field(description="The least pixels of the picture on the paper.")
    good_px: PixelSize
    has_ppi: float = Field(description="What the picture has of itself on this size.")
    factor: float = Field(description="Enlarging that makes it good; 1 where nothing has to be enlarged.")
    required_factor: float = Field(description="Enlarging that makes it enough.")
    verdict: Verdict


def size_named(text: str) -> PrintSize:
    """A standard size by its name (``A3``), or one as typed (``60x90cm``). Raises TakeError if it is neither."""
    for size in STANDARD_SIZES:
        if size.name.lower() == text.strip().lower():
            return size
    width, height, unit = parse_print(text)
    if width is None or height is None:
        raise TakeError(f"“{text}” has one side only; a print size needs both, like 60x90cm.")
    return PrintSize(name=f"{width:g} × {height:g} {unit}", width=width, height=height, unit=unit)


def usual_distance(size: PrintSize) -> float:
    """Centimetres a print of this size is usually seen from."""
    return max(_NEAREST_CM, _DIAGONALS * math.hypot(*size.millimetres) / 10)


def turned_like(size: PrintSize, picture: Size) -> PrintSize:
    """The size with its long side where the picture's is."""
    if (size.width > size.height) == (picture.width > picture.height) or size.width == size.height:
        return size
    return size.model_copy(update={"width": size.height, "height": size.width})


def need_of(
    size: PrintSize, picture: Size, paper: PaperName = "lustre", distance_cm: float | None = None,
    mode: Literal["fit", "fill"] = "fill", border_mm: float = 0.0,
) -> PrintNeed:  # fmt: skip
    """What ``picture`` needs to be printed at ``size``.

    With ``fill`` the picture covers the paper inside the border and what reaches over is cut off; with ``fit`` all of
    it is seen. ``required_px`` and ``good_px`` are pixels of the picture inside the border.

    Raises TakeError for distances and borders that leave nothing to see.
    """
    size = turned_like(size, picture)
    if distance_cm is not None and not 1 <= distance_cm <= 100_000:
        raise TakeError(f"A viewing distance of {distance_cm:g} cm is not usable; it must lie between 1 cm and 1 km.")
    if 2 * border_mm >= min(size.millimetres):
        raise TakeError(f"A border of {border_mm:g} mm leaves nothing of {size.name}; choose a narrower one.")
    distance = distance_cm if distance_cm is not None else usual_distance(size)
    finest = PAPERS[paper].finest
    good = max(_COARSEST, round(min(PPI_CENTIMETRES / distance, finest)))
    required = min(REQUIRED_SHARE * PPI_CENTIMETRES / distance, finest)
    inches = [(side - 2 * border_mm) / MILLIMETRES_PER_INCH for side in size.millimetres]
    if mode == "fit":
        share = min(inches[0] / picture.width, inches[1] / picture.height)
        inches = [picture.width * share, picture.height * share]
    has = min(picture.width / inches[0], picture.height / inches[1])
    factor = good / has
    return PrintNeed(
        size=size, paper=paper, distance_cm=round(distance, 1), required_ppi=round(required, 1), ppi=good,
        required_px=_pixels(inches, required), good_px=_pixels(inches, good), has_ppi=round(has, 1),
        factor=round(max(1.0, factor), 3), required_factor=round(max(1.0, required / has), 3), verdict=_verdict(factor),
    )  # fmt: skip


def _pixels(inches: list[float], ppi: float) -> PixelSize:
    return PixelSize(width=round(inches[0] * ppi), height=round(inches[1] * ppi))


def _verdict(factor: float) -> Verdict:
    if factor <= 1.0005:
        return "as it stands"
    if factor <= 2.0005:
        return "with ×2"
    if factor <= 4.002:
        return "with ×4"
    return "with ×8" if factor <= LARGEST_FACTOR else "beyond"


def all_needs(
    picture: Size, paper: PaperName = "lustre", distance_cm: float | None = None,
    mode: Literal["fit", "fill"] = "fill", border_mm: float = 0.0,
) -> list[PrintNeed]:  # fmt: skip
    """:func:`need_of` for every standard size that the border leaves something of."""
    fitting = [size for size in STANDARD_SIZES if 2 * border_mm < min(size.millimetres)]
    return [need_of(size, picture, paper, distance_cm, mode, border_mm) for size in fitting]


def sharpening_for(paper: PaperName, ppi: float) -> Sharpen:
    """The last sharpening, which makes up for how far ink spreads on the paper: nothing shows on the screen of it.

    An unsharp mask of the spread's own σ, which raises by ``amount`` what spreading takes from a pattern of three pixels a
    cycle, where the edges of a good print live; within what looks natural (30 to 160 %).
    """
    sigma = PAPERS[paper].spread / MILLIMETRES_PER_INCH * ppi
    # The contrast that a Gaussian leaves at a frequency f is exp(−2 (π σ f)²).
    left = math.exp(-2 * (math.pi * sigma / _PIXELS_A_CYCLE) ** 2)
    amount = min(160.0, max(30.0, 100 * (1 / left - 1)))
    return Sharpen(amount=round(amount), radius=round(min(8.0, max(0.4, sigma)), 2), detail=40, threshold=1, edges=0)
