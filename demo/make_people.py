"""Make the demo's pictures of the people of Tern Sands, none of whom exists, each with its clean original.

    python demo/make_people.py

Needs what lab/people.py needs. A group of 1974 as a small, worn print; a portrait for the catalogue; two far faces on a beach.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
import pyvips
from PIL import Image

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parent / "lab"))
import damage  # noqa: E402
import portraits  # noqa: E402
from person import Look, Person  # noqa: E402

from kitecore.colour.spaces import profile_of  # noqa: E402
from kitecore.engines import engine_named  # noqa: E402
from people import Body  # noqa: E402

PICTURES, CLEAN = HERE / "pictures", HERE / "clean"
#: Seeds of those in the group: the back row, then the front row.
GROUP = (9001, 9004, 9030, 9009), (9033, 9016, 9006)
SOLO, FAR = 9031, (9032, 9035)


class Studio:
    """Renders people, cut out."""

    def __init__(self) -> None:
        self._body = Body()
        self._look = Look.of(self._body)

    def person(self, seed: int, side: int, samples: int = 32) -> np.ndarray:
        """Float H×W×4, 0..1, head and shoulders of somebody who looks into the camera; calmed."""
        made, _ = portraits.portrait(self._body, Person(self._body, self._look, seed), 0, samples, [], side, posed=True)
        cut = made.astype(np.float32) / 255
        around = np.pad(cut[..., :3], ((32, 32), (32, 32), (0, 0)), mode="reflect")
        maps = np.broadcast_to(np.float32([0.8, 1.0]), (*around.shape[:2], 2))
        cut[..., :3] = engine_named("denoise", "denoise").restore(around, maps)[32:-32, 32:-32]
        return cut


def laid(picture: np.ndarray, cut: np.ndarray, left: int, top: int, light: float = 1.0) -> None:
    """Lay a cut-out person on a picture, in place; what lies beyond is left out."""
    height, width = picture.shape[:2]
    x0, y0, x1, y1 = max(0, left), max(0, top), min(width, left + cut.shape[1]), min(height, top + cut.shape[0])
    part = cut[y0 - top : y1 - top, x0 - left : x1 - left]
    alpha = part[..., 3:]
    picture[y0:y1, x0:x1] = picture[y0:y1, x0:x1] * (1 - alpha) + np.clip(part[..., :3] * light, 0, 1) * alpha


def backdrop(name: str, width: int, height: int, blur: float) -> np.ndarray:
    with Image.open(CLEAN / name) as picture:
        scale = max(width / picture.width, height / picture.height)
        size = round(picture.width * scale), round(picture.height * scale)
        whole = np.asarray(picture.convert("RGB").resize(size, Image.Resampling.LANCZOS), np.float32) / 255
    left, top = (whole.shape[1] - width) // 2, (whole.shape[0] - height) // 2
    return cv2.GaussianBlur(whole[top : top + height, left : left + width], (0, 0), blur)


def group(studio: Studio) -> np.ndarray:
    """Seven people of the workshop in two rows, 1440×860."""
    picture = backdrop("workshop-night.jpg", 1440, 860, 7.0) * 0.8 + 0.12
    for row, seeds in enumerate(GROUP):
        side = 440 + 60 * row
        for place, seed in enumerate(seeds):
            middle = 1440 * (place + 0.75 - 0.25 * (len(seeds) == 4)) / (len(seeds) + 0.5 - 0.5 * (len(seeds) == 4))
            laid(picture, studio.person(seed, side), round(middle - side / 2), 110 + 255 * row + 22 * (seed % 3))
    return picture


def main() -> None:
    studio = Studio()
    random = np.random.default_rng(1974)
    clean = {"workshop-1974": group(studio)}
    solo = backdrop("harbour-wall.png", 900, 1125, 16.0)
    laid(solo, studio.person(SOLO, 900, 48), 0, 225)
    clean["catalogue-portrait"] = solo
    beach = backdrop("festival.jpg", 1600, 1066, 1.2)
    for place, seed in enumerate(FAR):
        laid(beach, studio.person(seed, 192), 560 + 170 * place, 880 + 14 * place - 10, 0.95)
    clean["beach"] = beach
    for name, picture in clean.items():
        Image.fromarray(damage.eight(255 * picture)).save(CLEAN / f"{name}.jpg", quality=92)

    small = cv2.resize(clean["workshop-1974"], (360, 215), interpolation=cv2.INTER_AREA)
    grey = 255 * (small @ np.float32([0.299, 0.587, 0.114]))[..., None]
    grey = cv2.GaussianBlur(np.repeat(grey, 3, axis=2), (0, 0), 0.6)
    worn = damage.grainy(damage.eight(24 + 0.82 * grey), 4.0, 0.7, 0.0, random)
    Image.fromarray(damage.eight(worn)[..., 0]).save(PICTURES / "Workshop, spring 1974.jpg", quality=72)

    soft = cv2.GaussianBlur(
        cv2.resize(clean["catalogue-portrait"], (480, 600), interpolation=cv2.INTER_AREA), (0, 0), 0.8
    )
    noisy = np.clip(soft + random.normal(0, 0.012, soft.shape), 0, 1)
    sixteen = np.ascontiguousarray((noisy * 65535 + 0.5).astype(np.uint16))
    image = pyvips.Image.new_from_memory(sixteen.data, 480, 600, 3, "ushort").copy(
        interpretation="rgb16", xres=11.811, yres=11.811
    )
    image = image.icc_transform(_display_p3(), input_profile="srgb", depth=16)
    image.tiffsave(str(PICTURES / "Wren at the loft.tif"), compression="deflate", predictor="horizontal")

    far = cv2.resize(clean["beach"], (800, 533), interpolation=cv2.INTER_AREA)
    Image.fromarray(damage.eight(damage.add_noise(damage.eight(255 * far), 4.0, random))).save(
        PICTURES / "Beach, two far faces.jpg", quality=78, subsampling=2
    )


def _display_p3() -> str:
    from kitecore.colour.icc import profile_file

    return profile_file(profile_of("display-p3"))


if __name__ == "__main__":
    main()
