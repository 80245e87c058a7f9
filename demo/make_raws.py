"""Make the demo's camera raw: a rendered place as an invented camera with an invented lens sees it.

    python demo/scenes.py FOLDER 1 beach && python demo/make_raws.py FOLDER

What it should be developed to lies beside the others in ``clean/``; the lens's profile in ``lenses/``.
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
import pyvips

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parent / "core"))

from core_tests.raws import PROFILE, coded, drawn_by_lens, mosaic_of, seen, write_raw  # noqa: E402

ISO = 800


def beach(folder: Path) -> np.ndarray:
    """Linear sRGB, the sun on the sand beyond white; the renderer's lone bright samples taken out."""
    light = np.load(folder / "beach.npy").astype(np.float32)
    calm = cv2.medianBlur(light, 3)
    light = np.where(light > 2.5 * calm + 0.02, calm, light)
    return np.asarray(light / np.percentile(light, 93) * 0.9, np.float64)


def main() -> None:
    light = beach(Path(sys.argv[1]))
    shown = np.rint(255 * coded(light)).astype(np.uint8)
    pyvips.Image.new_from_array(shown).jpegsave(str(HERE / "clean" / "beach-raw.jpg"), Q=90)
    drawn = drawn_by_lens(seen(light))
    camera = cv2.resize(
        np.rint(255 * coded(np.clip(light, 0, 1))).astype(np.uint8), (640, 480), interpolation=cv2.INTER_AREA
    )
    write_raw(HERE / "pictures" / "Beach, camera raw.dng", mosaic_of(drawn, iso=ISO), iso=ISO, preview=camera)
    (HERE / "lenses").mkdir(exist_ok=True)
    (HERE / "lenses" / "tern-sands.xml").write_text(PROFILE)


if __name__ == "__main__":
    main()
