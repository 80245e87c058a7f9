"""From the samples of a raw to linear light in a wide space, coded: what every treatment of it starts from."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeAlias

import cv2
import numpy as np
import numpy.typing as npt

from kitecore.colour.transfer import transfer_of
from kitecore.files.raw.camera import Camera, WideSpace, wide_profile
from kitecore.files.raw.demosaic import REACH, Quality, demosaiced
from kitecore.files.raw.highlights import Hues
from kitecore.files.raw.lenses import Exposed, LensProfile
from kitecore.files.raw.unpacking import Sensor, unpack
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.meanwhile import side_by_side
from kitecore.pipeline.pixels import Pixels, Samples

#: Raised whenever the same raw begins to give different pixels.
REVISION = 1
_ROWS = 256
#: Larger pictures are worked on in a passing file, pixels.
_MOST_IN_MEMORY = 30_000_000
#: What the interpolation needs around a place.
_AROUND = 5
#: How far developing is after its first pass and after its second.
_INTERPOLATED, _LIGHTENED = 0.55, 0.75

#: Told how far it is, 0..1.
Progress: TypeAlias = Callable[[float], None]


@dataclass(frozen=True)
class Way:
    """What of developing goes over the whole picture at once: how the mosaic is interpolated, and whose bending is undone."""

    quality: Quality = "fine"
    #: The name of a lens profile; empty: none.
    lens: str = ""


def develop(
    path: Path, name: str, way: Way, exposed: Exposed, space: WideSpace, result: Samples, progress: Progress
) -> None:
    """Fill ``result``, H×W×3 of the upright picture, with a raw's colours in a wide space, as shot; beyond white, too.

    Raises PictureError if the raw cannot be read. A lens profile that is not there any more changes nothing.
    """
    sensor, samples = unpack(path, name)
    shape = (*samples.shape[:2], 3)
    if np.prod(shape[:2]) <= _MOST_IN_MEMORY:
        _Developing(sensor, samples, np.empty(shape, np.float32), way, exposed, space).into(result, progress)
        return
    with tempfile.TemporaryFile() as file:
        balanced = np.memmap(file, np.float32, "w+", shape=shape)
        _Developing(sensor, samples, balanced, way, exposed, space).into(result, progress)


class _Developing:
    """Three times over the picture: interpolated, recovered and lightened, moved and coded."""

    def __init__(
        self, sensor: Sensor, samples: npt.NDArray[np.uint16], balanced: Samples, way: Way, exposed: Exposed,
        space: WideSpace,
    ) -> None:  # fmt: skip
        self._sensor, self._samples, self._balanced, self._way = sensor, samples, balanced, way
        self._size = Size(samples.shape[1], samples.shape[0])
        self._camera = Camera.of(sensor, space)
        self._lens = _lens(way, exposed, self._size)

    def into(self, result: Samples, progress: Progress) -> None:
        """Fill ``result``; ``progress`` is told 0..1 as three passes go on."""
        progress(0)
        height, width, balanced = self._size.height, self._size.width, self._balanced
        _over_strips(
            height,
            lambda top, end: _balance(self._sensor, self._samples, self._way.quality, balanced, top, end),
            lambda done: progress(_INTERPOLATED * done),
        )
        hues = Hues(balanced, self._sensor.as_shot)
        light = self._lens.light() if self._lens else None

        def lighten(top: int, end: int) -> None:
            strip = hues.recovered(np.array(balanced[top:end]), top)
            balanced[top:end] = strip if light is None else strip * _part(light, top, end, self._size)

        _over_strips(height, lighten, lambda done: progress(_INTERPOLATED + (_LIGHTENED - _INTERPOLATED) * done))
        upright = _as_it_lies(result, self._sensor.flip)

        def finish(top: int, end: int) -> None:
            places = self._lens.places(Region(0, top, width, end - top)) if self._lens else None
            strip = np.array(balanced[top:end]) if places is None else _moved(balanced, places)
            upright[top:end] = _coded(strip, self._camera)

        _over_strips(height, finish, lambda done: progress(_LIGHTENED + (1 - _LIGHTENED) * done))


def _lens(way: Way, exposed: Exposed, size: Size) -> LensProfile | None:
    try:
        return LensProfile(way.lens, exposed, size) if way.lens else None
    except LookupError:
        return None


def _over_strips(height: int, work: Callable[[int, int], None], progress: Progress) -> None:
    tops: Iterator[int] = iter(range(0, height, _ROWS))
    done = side_by_side(lambda top: work(top, min(height, top + _ROWS)), tops, os.cpu_count() or 1)
    for number, _ in enumerate(done, 1):
        progress(min(1.0, number * _ROWS / height))


def _balance(
    sensor: Sensor, samples: npt.NDArray[np.uint16], quality: Quality, balanced: Samples, top: int, end: int
) -> None:
    """Rows of the picture in balanced linear light: 1 is what is full of green."""
    multipliers = np.asarray(sensor.as_shot, np.float32)
    if sensor.interpolated:
        balanced[top:end] = samples[top:end] * np.float32(multipliers.max() / 65535)
        return
    black = np.asarray(sensor.black, np.float32)
    gains = (multipliers / (np.float32(sensor.white) - black)).astype(np.float32)
    if sensor.pattern is None:
        rows = samples[top:end] if samples.ndim == 3 else samples[top:end, :, None].repeat(3, axis=2)
        balanced[top:end] = (rows - black) * gains
        return
    # Strips begin on even rows, so that the pattern does not change.
    first, last = max(0, top - REACH), min(len(samples), end + REACH)
    part: npt.NDArray[np.float32] = samples[first:last].astype(np.float32)
    for row, colours in enumerate(sensor.pattern):
        for column, colour in enumerate(colours):
            part[row::2, column::2] = (part[row::2, column::2] - black[colour]) * gains[colour]
    balanced[top:end] = demosaiced(part, sensor.pattern, quality)[top - first : end - first]


def _part(light: Pixels, top: int, end: int, size: Size) -> Pixels:
    """Rows of a picture of ``size``, of a small one of the whole, stretched."""
    rows, columns = light.shape[:2]
    x = ((np.arange(size.width) + 0.5) * (columns / size.width) - 0.5).astype(np.float32)
    y = ((np.arange(top, end) + 0.5) * (rows / size.height) - 0.5).astype(np.float32)
    across, down = np.meshgrid(x, y)
    read = cv2.remap(light, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(read, np.float32).reshape(end - top, size.width, 1)


def _moved(balanced: Samples, places: npt.NDArray[np.float32]) -> Pixels:
    """Each colour read where it was drawn: by Lanczos of roots of light, which do not ring so."""
    height = len(balanced)
    first = int(np.clip(np.floor(places[..., 1].min()) - _AROUND, 0, height - 1))
    last = int(np.clip(np.ceil(places[..., 1].max()) + _AROUND + 1, first + 1, height))
    part = np.array(balanced[first:last])
    rooted = np.copysign(np.sqrt(np.abs(part)), part)
    result = np.empty(places.shape[:3], np.float32)
    for colour in range(3):
        result[..., colour] = cv2.remap(
            np.ascontiguousarray(rooted[..., colour]), np.ascontiguousarray(places[..., colour, 0]),
            np.ascontiguousarray(places[..., colour, 1] - first), cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE,
        )  # fmt: skip
    return np.asarray(np.copysign(result * result, result), np.float32)


def _coded(balanced: Pixels, camera: Camera) -> Pixels:
    wide = balanced.reshape(-1, 3) @ camera.to_wide.T.astype(np.float32)
    return transfer_of(wide_profile(camera.space)).coded(wide.reshape(balanced.shape))


def _as_it_lies(upright: Samples, flip: int) -> Any:
    """An upright picture seen as its samples lie; what is written to it is written there."""
    turns = {0: 0, 3: 2, 5: -1, 6: 1}.get(flip, 0)
    return np.rot90(upright, turns)
