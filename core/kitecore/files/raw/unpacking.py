"""What LibRaw finds in a raw: told quickly without its samples, or with them. A crash or an endless loop of it stays its own."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from kitecore.errors import PictureError
from kitecore.pipeline.geometry import Size

#: To look at a file, and to read all of it.
_LOOK_SECONDS, _UNPACK_SECONDS = 30.0, 240.0


@dataclass(frozen=True)
class Sensor:
    """What a raw says of its samples. Colours are 0, 1, 2 for red, green, blue; multipliers are relative to green."""

    #: Of the upright picture.
    size: Size
    #: How the samples lie: 0, 3 (upside down), 5 or 6 (a quarter turn anticlockwise or clockwise brings them upright).
    flip: int
    #: The part of the samples that is the picture: left, top, width, height.
    part: tuple[int, int, int, int]
    #: Colours of two by two neighbours; None where the samples have all three.
    pattern: tuple[tuple[int, int], tuple[int, int]] | None
    black: tuple[float, float, float]
    white: float
    as_shot: tuple[float, float, float]
    daylight: tuple[float, float, float]
    #: From the camera's linear colours, balanced, to linear sRGB.
    matrix: npt.NDArray[np.float64]
    #: Whether the file tells a matrix.
    measured: bool
    iso: int | None
    exposure_s: float | None
    aperture: float | None
    focal_mm: float | None
    lens: str | None
    #: Whether LibRaw has interpolated the samples: they are balanced, and reach to 65535.
    interpolated: bool = False

    @property
    def bits(self) -> int:
        """Bits that the values of a sample need."""
        return max(8, int(self.white).bit_length())


def _run(task: str, path: Path, name: str, seconds: float, to: Path | None = None) -> dict[str, Any]:
    core = Path(__file__).parent.parent.parent.parent
    command = [sys.executable, "-m", "kitecore.files.raw.child", task, str(path.resolve()), *([str(to)] if to else [])]
    told = "it cannot be read"
    try:
        done = subprocess.run(
            command, capture_output=True, timeout=seconds, check=False, cwd="/",
            env={"PATH": os.environ.get("PATH", ""), "PYTHONPATH": str(core)},
        )  # fmt: skip
        found: dict[str, Any] = json.loads(done.stdout)
        if "error" not in found:
            return found
        told = found["error"]
    except subprocess.TimeoutExpired:
        told = f"it was not read after {seconds:.0f} seconds"
    except ValueError:
        told = "reading it broke off"
    raise PictureError(
        f"{name} is a camera raw that cannot be used ({told}). Copy it from the card again, or add the camera's JPEG instead."
    )


def look(path: Path, name: str) -> Sensor:
    """What a raw says of itself. Raises PictureError with a sentence."""
    return _sensor(_run("look", path, name, _LOOK_SECONDS), name)


def unpack(path: Path, name: str) -> tuple[Sensor, npt.NDArray[np.uint16]]:
    """The same with the samples of the picture, as they lie: H×W of a mosaic, or H×W×3. Raises PictureError."""
    with tempfile.NamedTemporaryFile(suffix=".npy") as file:
        told = _run("unpack", path, name, _UNPACK_SECONDS, Path(file.name))
        sensor = _sensor(told, name)
        samples: npt.NDArray[np.uint16] = np.load(file.name)
    left, top, width, height = sensor.part
    return sensor, samples[top : top + height, left : left + width]


def camera_jpeg(path: Path, name: str) -> bytes | None:
    """The JPEG that the camera put into a raw; None if it did not."""
    with tempfile.NamedTemporaryFile(suffix=".jpg") as file:
        try:
            told = _run("preview", path, name, _LOOK_SECONDS, Path(file.name))
        except PictureError:
            return None
        return Path(file.name).read_bytes() if told["jpeg"] else None


def _sensor(told: dict[str, Any], name: str) -> Sensor:
    width, height, flip = told["width"], told["height"], told["flip"]
    part = _part(told)
    pattern = None
    interpolated = told.get("interpolated", False)
    flat = told["flat"] and not interpolated
    if flat and told["pattern"] is not None and len(told["pattern"]) == 2 and told["colours"] == 3:
        numbers = [["RGB".index(told["letters"][index]) for index in row] for row in told["pattern"]]
        # The part may begin with another colour than the samples do.
        rows = [[numbers[(y + part[1]) % 2][(x + part[0]) % 2] for x in range(2)] for y in range(2)]
        pattern = ((rows[0][0], rows[0][1]), (rows[1][0], rows[1][1]))
    matrix = np.array(told["matrix"], np.float64)
    measured = bool(np.abs(matrix).sum() > 0 and abs(np.linalg.det(matrix)) > 1e-6)
    if width * height == 0 or told["colours"] not in (1, 3):
        raise PictureError(f"{name} holds {told['colours']} colours a pixel, which Kite Glass cannot develop.")
    black = told["black"]
    across, down = (part[3], part[2]) if flip in (5, 6) else (part[2], part[3])
    return Sensor(
        size=Size(across, down), flip=flip, part=part, pattern=pattern,
        black=(0, 0, 0) if interpolated else (black[0], (black[1] + black[-1]) / 2, black[2]),
        white=65535.0 if interpolated else min(told["whites"] or [told["white"]]),
        as_shot=_relative(told["as_shot"]) or _relative(told["daylight"]) or (1, 1, 1),
        daylight=_relative(told["daylight"]) or (1, 1, 1),
        matrix=matrix if measured else np.eye(3), measured=measured, interpolated=interpolated,
        iso=round(told["iso"]) or None, exposure_s=told["exposure"] or None, aperture=told["aperture"] or None,
        focal_mm=told["focal"] or None, lens=told["lens"] or None,
    )  # fmt: skip


def _part(told: dict[str, Any]) -> tuple[int, int, int, int]:
    """What the camera says is the picture, within the samples that are seen; all of them if it does not make sense."""
    width, height = told["width"], told["height"]
    left, top = (edge - margin for edge, margin in zip(told["crop"][:2], told["margins"], strict=True))
    across, down = told["crop"][2:]
    sensible = across > width // 2 and down > height // 2
    if sensible and left >= 0 and top >= 0 and left + across <= width and top + down <= height:
        return left, top, across, down
    return 0, 0, width, height


def _relative(multipliers: list[float]) -> tuple[float, float, float] | None:
    red, green, blue = multipliers[:3]
    return (red / green, 1.0, blue / green) if min(red, green, blue) > 0 else None
