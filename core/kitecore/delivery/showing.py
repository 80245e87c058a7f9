"""What a client is shown of a result: before and after on a screen, no larger than is wanted, with a mark across if wanted."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
import pyvips
from PIL import Image, ImageDraw, ImageFont

from kitecore.colour.screen import screen_samples
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Place, Region, Size, level_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage, resized
from kitecore.pipeline.strips import render_strips
from kitecore.takes.plan import Plan
from kitecore.takes.render import result_stage

#: A check spot is shown at full size, so many pixels of the result wide and high.
SPOT = Size(560, 420)
_QUALITY, _QUALITY_OF_SPOTS = 86, 92
#: The mark: its letters' height as a share of the longer side, how strongly it lies on the picture, how far it leans, degrees.
_LETTERS, _STRENGTH, _LEANS = 0.045, 0.34, 24.0

Shown = npt.NDArray[np.uint8]


class Mark(NamedTuple):
    """Words that are written across what is shown, in a font that has their letters."""

    words: str
    font: Path


def whole_view(plan: Plan, source: Source, longest: int, run: Run) -> Shown:
    """All of a plan's result as a screen shows it, H×W×3 uint8 in sRGB, its long side at most ``longest`` pixels.

    Computed as the bench computes it where all of a picture is in view: exact if it is not made smaller. Raises Cancelled.
    """
    level = level_of(max(1.0, max(plan.size.width, plan.size.height) / longest))
    stage = resized(_stage(plan, source, level), plan.size.fitted(longest))
    profile = source.header.profile
    return np.concatenate(list(render_strips(stage, lambda pixels: screen_samples(pixels, profile), run)))


def spot_view(plan: Plan, source: Source, place: Place, run: Run) -> Shown:
    """What lies around a place of the source in a plan's result, at full size and exact: :data:`SPOT` or what there is of it."""
    middle, size = plan.place_in_result(place), plan.size
    width, height = min(SPOT.width, size.width), min(SPOT.height, size.height)
    region = Region(
        min(max(0, round(middle.x - width / 2)), size.width - width),
        min(max(0, round(middle.y - height / 2)), size.height - height), width, height,
    )  # fmt: skip
    return screen_samples(_stage(plan, source, 0).render(region, run), source.header.profile)


def _stage(plan: Plan, source: Source, level: int) -> Stage:
    return result_stage(plan, source.stage(plan.source_reduction(level)), level)


def marked(shown: Shown, mark: Mark) -> Shown:
    """With the mark's words written across, over and over, light on dark: a copy of H×W×3 uint8.

    >>> marked(np.zeros((4, 4, 3), np.uint8), Mark("", Path("none"))).max()
    np.uint8(0)
    """
    if not mark.words.strip():
        return shown.copy()
    height, width = shown.shape[:2]
    letters = ImageFont.truetype(str(mark.font), max(11, round(_LETTERS * max(width, height))))
    # Large enough to cover the picture however it is turned.
    side = int(np.hypot(width, height)) + 2
    layer = Image.new("L", (side, side), 0)
    draw = ImageDraw.Draw(layer)
    long = max(1, round(letters.getlength(f"{mark.words}   ")))
    for row, y in enumerate(range(0, side, round(3.2 * letters.size))):
        for x in range(-(row % 2) * long // 2, side, long):
            draw.text((x, y), mark.words, fill=255, font=letters)
    turned = np.asarray(layer.rotate(_LEANS, Image.Resampling.BILINEAR), np.float32) / 255
    top, left = (side - height) // 2, (side - width) // 2
    share = _STRENGTH * turned[top : top + height, left : left + width, None]
    # Seen on whatever lies beneath: light on what is dark, dark on what is light.
    pixels = shown.astype(np.float32)
    ink = np.where(pixels.mean(axis=2, keepdims=True) < 140, 255.0, 0.0)
    return np.rint(pixels + share * (ink - pixels)).astype(np.uint8)


def write_shown(shown: Shown, path: Path, spot: bool = False) -> None:
    """Write it as a JPEG in sRGB that says nothing else; of a check spot finer. Raises OSError as the disk has it."""
    image = pyvips.Image.new_from_array(shown, interpretation="srgb")
    quality = _QUALITY_OF_SPOTS if spot else _QUALITY
    content = image.jpegsave_buffer(Q=quality, keep="none", subsample_mode="off" if spot else "auto")
    path.write_bytes(content)
