"""Crops that are suggested for a take's frame: around faces, what stands out and check spots."""

from __future__ import annotations

import time
import uuid

import numpy as np
from ninja import Field, Router, Schema

from kitecore.colour.screen import screen_samples
from kitecore.faces.square import FACE_SHARE, FaceSquare
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.run import Run
from kitecore.reading.crops import suggest_crops
from kitecore.reading.sharp_area import sharp_area
from kitecore.reading.subject import find_subject
from kitecore.steps import Frame
from kitecore.steps.frame import Crop
from kitecore.takes.finding import LOOK_SIDE
from kitecore.takes.plan import Plan, plan_of_steps
from people.signed_in import PersonRequest, signed_in
from readings.models import PictureReading
from rendering.pool import pool
from rendering.regions import Opened, opened
from spots.models import CheckSpot
from takes.access import own_take
from takes.models import Take

router = Router(tags=["viewing"])


class ShapeIn(Schema):
    ratio: float | None = Field(default=None, gt=0.05, lt=20, description="Width ÷ height; null: as the picture is.")


class CropOut(Schema):
    crop: Crop
    reason: str


@router.post("/takes/{take_id}/crops", auth=signed_in, response=list[CropOut])
async def crops(request: PersonRequest, take_id: uuid.UUID, shape: ShapeIn) -> list[CropOut]:
    """Up to three crops for the take's frame, as it is turned and straightened."""

    def work(run: Run) -> list[CropOut]:
        take = own_take(request, take_id)
        frame = next((step for step in take.core.steps if isinstance(step, Frame)), Frame())
        framed = plan_of_steps([frame.model_copy(update={"crop": None, "on": True})], take.picture.size)
        with opened(take.picture) as picture:
            seen, scale = _seen(picture, framed, run)
        small = Size(seen.shape[1], seen.shape[0])
        whole = [part for part in _faces(take, framed, scale) if part.inside(small)]
        spots = [place for place in _spots(take, framed, scale) if place.inside(small)]
        matters = _matters(seen, whole, spots, run)
        offset = frame.model_copy(update={"crop": None}).region(take.picture.size)
        ratio = shape.ratio or offset.width / offset.height
        return [
            CropOut(crop=_in_canvas(one.region, scale, offset, ratio), reason=one.reason)
            for one in suggest_crops(matters, ratio, whole)
        ]

    return await pool.render(f"crops {take_id} {request.auth.pk}", time.monotonic_ns(), work)


def _seen(picture: Opened, framed: Plan, run: Run) -> tuple[np.ndarray, float]:
    """The framed picture as a screen shows it, small, and its pixels for one of the canvas."""
    level = framed.size.level_within(LOOK_SIDE)
    size = framed.size.reduced(level)
    seen = screen_samples(picture.region(framed, level, size.region, run), picture.profile)
    return seen, size.width / framed.size.width


def _faces(take: Take, framed: Plan, scale: float) -> list[Region]:
    row = PictureReading.objects.filter(original=take.picture.original).first()
    reading = row.reading if row else None
    found = []
    for face in reading.faces if reading else []:
        if not face.sure:
            continue
        eyes_and_mouth = [framed.place_in_result(Place(*spot)) for spot in (*face.eyes, face.mouth)]
        square = FaceSquare.around(*eyes_and_mouth)
        half = 0.8 * square.side * FACE_SHARE * scale
        x, y = square.middle.x * scale, square.middle.y * scale
        found.append(Region.between(round(x - half), round(y - 1.2 * half), round(x + half), round(y + 1.2 * half)))
    return found


def _spots(take: Take, framed: Plan, scale: float) -> list[Place]:
    """Check spots that somebody pinned."""
    pinned = CheckSpot.objects.filter(picture=take.picture, removed=None, reason="")
    places = (framed.place_in_result(spot.place) for spot in pinned)
    return [Place(place.x * scale, place.y * scale) for place in places]


def _matters(seen: np.ndarray, faces: list[Region], spots: list[Place], run: Run) -> np.ndarray:
    """How much each place matters: faces most, then what stands out and is sharp, then pinned spots."""
    height, width = seen.shape[:2]
    subject = find_subject(seen, run)
    matters = np.zeros((height, width), np.float32) if subject is None else subject.copy()
    if subject is None:
        sharp = sharp_area(seen, run)
        matters += 1 if sharp is None else sharp
    matters /= max(float(matters.sum()), 1e-6)
    y, x = np.ogrid[:height, :width]
    reach = 0.03 * max(height, width)
    for place in spots:
        near = np.exp(-((x - place.x) ** 2 + (y - place.y) ** 2) / reach**2)
        matters += np.asarray(0.2 * near / near.sum(), np.float32)
    for face in faces:
        matters[face.slices(Region(0, 0, width, height))] += np.float32(1 / face.size.pixels)
    return matters


def _in_canvas(region: Region, scale: float, offset: Region, ratio: float) -> Crop:
    """A crop in pixels of the turned picture, from one of the small one; of the wanted shape to the pixel."""
    width = min(offset.width, round(region.width / scale))
    height = min(offset.height, max(1, round(width / ratio)))
    width = min(width, max(1, round(height * ratio)))
    x = offset.x + min(max(0, round(region.x / scale)), offset.width - width)
    y = offset.y + min(max(0, round(region.y / scale)), offset.height - height)
    return Crop(x=x, y=y, width=width, height=height)
