"""The blur of a part of a picture as it comes to a step: read from an area people mark, or from a line they draw."""

from __future__ import annotations

import math

import numpy as np

from kitecore.errors import TakeError
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.luma import luma
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.reading.blur import blur_of
from kitecore.reading.noise import noise_of
from kitecore.steps.deblur import FULL_LENGTH, FULL_RADIUS, FULL_SIGMA, Blur, FocusBlur, MotionBlur, SoftBlur
from kitecore.takes.plan import Plan

#: An area is grown to this side, if the picture has it; below it, spectra tell too little.
LEAST_SIDE = 192
#: Of a larger area the middle is read, so that it takes no longer than people wait.
_MOST_SIDE = 1024
#: A line shorter than this is a slip of the hand, in pixels of the step's picture.
_SHORTEST_LINE = 1.0


def movement_along(plan: Plan, start: Place, end: Place) -> MotionBlur:
    """The movement that draws a point out from ``start`` to ``end`` (in the source), in pixels of ``plan``'s result.

    Raises TakeError if the line is too short to have a direction.
    """
    here, there = plan.place_in_result(start), plan.place_in_result(end)
    across, up = there.x - here.x, here.y - there.y
    length = math.hypot(across, up)
    if length < _SHORTEST_LINE:
        raise TakeError("The line is too short to tell a movement; draw it as long as a point was drawn out.")
    angle = math.degrees(math.atan2(up, across))
    # A movement is the same in both directions: told between −90° and 90°.
    angle = angle - 180 if angle > 90 else angle + 180 if angle <= -90 else angle
    return MotionBlur(length=round(min(FULL_LENGTH, length), 1), angle=round(angle, 1))


def blur_of_area(plan: Plan, stage: Stage, corners: tuple[Place, Place], run: Run) -> tuple[Blur | None, float]:
    """The blur in a rectangle of the source, in pixels of ``plan``'s result, and how sure it is (0..1); None if it is sharp.

    ``stage`` is that result. Raises TakeError if the area lies outside it or the picture is too small to be read.
    """
    region = _region(plan, stage.size, corners)
    grey = luma(stage.render(region, run))
    run.check()
    noise, _ = noise_of([grey], [grey])
    found = blur_of([grey], max(noise, 0.3) / 255)
    match found.kind:
        case "none":
            return None, found.confidence
        case "focus":
            return FocusBlur(radius=round(min(FULL_RADIUS, found.size), 1)), found.confidence
        case "motion":
            angle = found.angle - 180 if found.angle > 90 else found.angle
            length = round(min(FULL_LENGTH, found.size), 1)
            return MotionBlur(length=length, angle=round(angle, 1)), found.confidence
        case _:
            return SoftBlur(sigma=round(min(FULL_SIGMA, found.size), 2)), found.confidence


def _region(plan: Plan, size: Size, corners: tuple[Place, Place]) -> Region:
    if min(size.width, size.height) < LEAST_SIDE:
        raise TakeError(f"The picture is too small to read a blur from; it needs at least {LEAST_SIDE} px each way.")
    places = np.array([(place.x, place.y) for place in map(plan.place_in_result, corners)])
    low, high = places.min(axis=0), places.max(axis=0)
    if (high <= 0).any() or (low >= (size.width, size.height)).any():
        raise TakeError("The marked area was cropped off; mark one inside the frame.")
    starts, lengths = [], []
    for middle, length, whole in zip((low + high) / 2, high - low, (size.width, size.height), strict=True):
        side = int(np.clip(round(float(length)), LEAST_SIDE, min(_MOST_SIDE, whole)))
        starts.append(int(np.clip(round(float(middle) - side / 2), 0, whole - side)))
        lengths.append(side)
    return Region(starts[0], starts[1], lengths[0], lengths[1])
