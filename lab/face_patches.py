"""What the faces networks learn from: squares of invented people, worn as files of faces are, beside what they were."""

from __future__ import annotations

import json
import math
import time
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import cv2
import damage
import numpy as np
from patches import cut_dense, photographs

from kitecore.engines import Engine, engine_named
from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.geometry import Place
from kitecore.steps.faces_stage import finer_of

HERE = Path(__file__).parent
PORTRAITS = HERE / "faces" / "portraits"
#: People of these numbers are the judge's.
RESERVED = range(40)
#: The folder is looked through for new portraits so often, in seconds.
_LOOK_AGAIN = 300.0
#: Portraits whose mean is below this have no light: a lamp stood inside something. Of 255.
_LEAST_LIGHT = 5
#: How often what is learnt from is no face but a photograph.
_PHOTOGRAPHS = 0.15
#: What is left of the relief of skin in a portrait that is calmed.
_RELIEF = 0.3


@dataclass(frozen=True)
class Portrait:
    """A portrait without the grain of its rendering, 256×256×3 uint8, and landmarks in pixels; “l” is left in it."""

    name: str
    pixels: np.ndarray
    landmarks: dict[str, tuple[float, float]]

    def square(self, random: np.random.Generator | None = None) -> FaceSquare:
        """Its square; as a detector finds it, not quite right, if chance is given."""
        marks = self.landmarks
        points = [marks["iris_l"], marks["iris_r"], tuple(np.mean([marks["mouth_l"], marks["mouth_r"]], axis=0))]
        if random is not None:
            size = math.dist(points[0], points[2])
            points = [tuple(np.array(point) + random.normal(0, 0.035 * size, 2)) for point in points]
        first, second, mouth = (Place(*point) for point in points)
        return FaceSquare.around(first, second, mouth)

    @property
    def width(self) -> float:
        return self.square().face_width

    def calmed(self) -> Portrait:
        """The same with skin as calm as it is on photographs of this size."""
        return replace(self, pixels=_calm_skin(self.name))


@cache
def _denoise() -> Engine:
    return engine_named("denoise", "denoise")


def _cleaned(path: Path) -> np.ndarray:
    """The portrait without what few samples left; kept beside it."""
    kept = path.with_suffix(".npy")
    if kept.exists():
        return np.load(kept)
    pixels = cv2.cvtColor(cv2.imread(str(path)), cv2.COLOR_BGR2RGB).astype(np.float32) / 255
    around = np.pad(pixels, ((32, 32), (32, 32), (0, 0)), mode="reflect")
    clean = _denoise().restore(around, np.broadcast_to(np.float32([0.85, 1.0]), (*around.shape[:2], 2)))[32:-32, 32:-32]
    result = damage.eight(clean * 255)
    np.save(kept, result)
    return result


@cache
def _calm_skin(name: str) -> np.ndarray:
    """A portrait without most of the relief of its skin, which shows as grain where a photograph shows none; hair is kept."""
    pixels = _known[name].pixels.astype(np.float32) / 255
    plain = cv2.bilateralFilter(cv2.bilateralFilter(pixels, 9, 0.13, 2.0), 9, 0.06, 2.0)
    # Hair runs in one direction, relief in none.
    across, down = (cv2.Sobel(pixels.mean(axis=2), cv2.CV_32F, *axis) for axis in ((1, 0), (0, 1)))
    a, b, c = (cv2.GaussianBlur(plane, (0, 0), 2.5) for plane in (across**2, down**2, across * down))
    strands = np.clip(2 * np.hypot(a - b, 2 * c) / (a + b + 1e-5) - 0.5, 0, 1)[..., None]
    return damage.eight(255 * (plain + (_RELIEF + (1 - _RELIEF) * strands) * (pixels - plain)))


_known: dict[str, Portrait] = {}
_looked = [-1e9]


def portraits(reserved: bool = False) -> list[Portrait]:
    """All there are by now, of people who are learnt from or of those who are the judge's."""
    if time.monotonic() - _looked[0] > _LOOK_AGAIN:
        for path in sorted(PORTRAITS.glob("*.json")):
            if path.stem not in _known:
                pixels = _cleaned(path.with_suffix(".png"))
                if pixels.mean() < _LEAST_LIGHT:
                    continue
                marks = {name: tuple(place) for name, place in json.loads(path.read_text()).items()}
                _known[path.stem] = Portrait(path.stem, pixels, marks)
        _looked[0] = time.monotonic()
    return [one for name, one in sorted(_known.items()) if (int(name[:4]) in RESERVED) == reserved]


def worn(sharp: np.ndarray, factor: float, random: np.random.Generator) -> np.ndarray:
    """A picture shrunk by ``factor`` and worn as old and shared files are; uint8."""
    side = max(12, round(sharp.shape[0] / factor))
    picture = damage.resize(sharp, side, side, str(random.choice(["bicubic", "lanczos", "area"])))
    draw = random.random()
    if draw < 0.12:
        return damage.eight(picture)
    if draw < 0.4:
        return damage.shared_file(picture, random)
    if random.random() < 0.6:
        picture = damage.any_blur(picture, 1.8, random)
    if random.random() < 0.35:
        picture = damage.grainy(
            damage.eight(picture), random.uniform(1, 12), random.uniform(0, 1.2), random.uniform(0, 0.5), random
        )
    elif random.random() < 0.6:
        picture = damage.any_noise(damage.eight(picture), 22, random)
    return damage.any_file(picture, 35, random) if random.random() < 0.7 else damage.eight(picture)


def enlarged(small: np.ndarray, side: int, engine: str) -> np.ndarray:
    """A worn picture brought to ``side`` px, float32 0..1, as the step before made it: plainly or by an engine."""
    pixels = small.astype(np.float32) / 255
    factor = side / small.shape[0]
    if engine != "plain" and factor > 1.2:
        network = engine_named(engine, "enlarge")
        head = network.head_for(min(8.0, factor))
        reach = -(-network.reach // 2) * 2
        height = small.shape[0] + small.shape[0] % 2
        around = cv2.copyMakeBorder(
            pixels,
            reach,
            reach + height - small.shape[0],
            reach,
            reach + height - small.shape[0],
            cv2.BORDER_REFLECT_101,
        )
        assert head is not None
        large = network.enlarge(around, head)[reach * head :, reach * head :]
        pixels = large[: small.shape[0] * head, : small.shape[0] * head]
    how = cv2.INTER_AREA if side < pixels.shape[0] else cv2.INTER_LANCZOS4
    return np.asarray(cv2.resize(pixels, (side, side), interpolation=how), np.float32)


def _tinted(pixels: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Other light, other prints: exposure, contrast, colour; grey or toned in a fifth of the cases. uint8 in and out."""
    coded = (pixels.astype(np.float32) / 255) ** random.uniform(0.75, 1.35) * random.uniform(0.7, 1.08)
    draw = random.random()
    if draw < 0.2:
        grey = coded @ np.float32([0.299, 0.587, 0.114])
        tone = np.ones(3) if draw < 0.12 else 1 + random.uniform(0.02, 0.14) * np.array([1, 0.3, -0.8])
        coded = grey[..., None] * tone.astype(np.float32)
    else:
        coded = coded * (1 + random.normal(0, 0.05, 3)).astype(np.float32)
    return damage.eight(coded * 255)


def pair(
    side: int, random: np.random.Generator, calm: bool = False, photographs_share: float = _PHOTOGRAPHS
) -> tuple[np.ndarray, np.ndarray, float, np.ndarray]:
    """Given and true squares side×side×3 float32 0..1, what the map says, and how much each pixel weighs, side×side.

    ``calm`` takes portraits with calmed skin; so often, what is learnt from is no face but a photograph.
    """
    engine = str(random.choice(["plain", "plain", "faithful", "salvage"]))
    if random.random() < photographs_share:
        sharp = cut_dense(photographs(), side, random)
        factor = float(np.exp(random.uniform(0, np.log(5))))
        given = enlarged(worn(sharp, factor, random), side, engine)
        return given, sharp.astype(np.float32) / 255, finer_of(factor), np.ones((side, side), np.float32)
    people = portraits()
    one = people[random.integers(len(people))]
    one = one.calmed() if calm else one
    width = float(np.exp(random.uniform(np.log(14), np.log(100))))
    factor = max(1.0, one.width / width)
    sharp = _tinted(one.pixels, random)
    whole = enlarged(worn(sharp, factor, random), sharp.shape[0], engine)
    square = one.square(random)
    given, truth = (cut_square(pixels, square, side) for pixels in (whole, sharp.astype(np.float32) / 255))
    weights = _weights(one, square, side)
    if random.random() < 0.5:
        given, truth, weights = given[:, ::-1], truth[:, ::-1], weights[:, ::-1]
    # A picture may have been enlarged before it came: then nothing is known of it.
    finer = 0.0 if random.random() < 0.25 else finer_of(factor * side / square.side)
    return given, np.clip(truth, 0, 1), finer, weights


def _weights(one: Portrait, square: FaceSquare, side: int) -> np.ndarray:
    """Eyes, brows and mouth count several times."""
    matrix = square.to_picture(side)
    to_square = cv2.invertAffineTransform(matrix)
    y, x = np.mgrid[0:side, 0:side].astype(np.float32)
    weights = np.ones((side, side), np.float32)
    middle = np.exp(-((x / side - 0.5) ** 2 + (y / side - 0.52) ** 2) / (2 * 0.18**2))
    weights += 0.8 * middle.astype(np.float32)
    for name, size in (
        ("iris_l", 0.06),
        ("iris_r", 0.06),
        ("brow_l", 0.05),
        ("brow_r", 0.05),
        ("lip_up", 0.07),
        ("lip_down", 0.07),
        ("nose", 0.05),
    ):
        at = to_square @ [*one.landmarks[name], 1]
        weights += 2.0 * np.exp(-((x - at[0]) ** 2 + (y - at[1]) ** 2) / (2 * (size * side) ** 2)).astype(np.float32)
    return weights


__all__ = ["Portrait", "cut_square", "enlarged", "finer_of", "pair", "portraits", "worn"]
