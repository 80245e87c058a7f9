"""Where sky and subject really are in pictures of the demo: ground truth for the masks that find them.

``python demo/make_masks.py`` renders which body each pixel shows, and writes ``masks/*.png``: white where it is.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import mitsuba as mi
import numpy as np
import pyvips
import scenes

MASKS = Path(__file__).parent / "masks"
#: Rays across and down for one pixel.
FINER = 3


def shown(scene: dict[str, Any], whose: str) -> tuple[np.ndarray, set[int]]:
    """The number of the body that each ray meets, H×W, 0 for none; and the numbers of those whose names begin as given."""
    film = {**scene["sensor"]["film"], "rfilter": {"type": "box"}}
    film |= {side: FINER * film[side] for side in ("width", "height")}
    sensor = {**scene["sensor"], "film": film, "sampler": {"type": "independent", "sample_count": 1}}
    loaded = mi.load_dict(
        {"type": "scene", "integrator": {"type": "aov", "aovs": "body:shape_index"}, **scene, "sensor": sensor}
    )
    numbers = np.rint(np.array(mi.render(loaded))[..., -1]).astype(int)
    # Not all bodies keep their names, but all keep their place.
    wanted = {_box(shape) for shape in mi.load_dict({"type": "scene", **_of(scene, whose)}).shapes()}
    return numbers, {number for number, shape in enumerate(loaded.shapes(), 1) if _box(shape) in wanted}


def _of(scene: dict[str, Any], whose: str) -> dict[str, Any]:
    return {name: body for name, body in scene.items() if name.startswith(whose)}


def _box(shape: Any) -> tuple[float, ...]:
    """Where a body is."""
    around = shape.bbox()
    return tuple(round(float(side), 4) for corner in (around.min, around.max) for side in corner)


def share_of(numbers: np.ndarray, wanted: set[int]) -> np.ndarray:
    """How much of each pixel shows one of the bodies, 0..1."""
    where = np.isin(numbers, sorted(wanted)).astype(np.float32)
    height, width = where.shape[0] // FINER, where.shape[1] // FINER
    return where.reshape(height, FINER, width, FINER).mean(axis=(1, 3))


def write(name: str, share: np.ndarray) -> None:
    samples = np.rint(255 * share).astype(np.uint8)
    image = pyvips.Image.new_from_memory(samples.tobytes(), share.shape[1], share.shape[0], 1, "uchar")
    image.pngsave(str(MASKS / f"{name}.png"), compression=9)


def main() -> None:
    MASKS.mkdir(exist_ok=True)
    caught: list[dict[str, Any]] = []
    scenes.render = lambda scene: caught.append(scene) or np.zeros((1, 1, 3))
    scenes.beach(1)
    scenes.festival(1)
    beach, near = shown(caught[0], "near")
    festival, kites = shown(caught[1], "k")
    # As make_pictures.py cuts it.
    cut = (slice(90, 762), slice(440, 944))
    write("harbour-wall-sky", share_of(beach, {0})[cut])
    write("harbour-wall-kite", share_of(beach, near)[cut])
    write("festival-sky", share_of(festival, {0}))
    write("festival-kites", share_of(festival, kites))


if __name__ == "__main__":
    main()
