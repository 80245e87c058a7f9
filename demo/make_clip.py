"""Make the demo's clip: kites in the wind, seen from a hand that does not quite hold still.

    python demo/make_clip.py FOLDER

Needs mitsuba (lab/requirements.txt) and PyAV. Frames that FOLDER holds already are not rendered again.
"""

from __future__ import annotations

import math
import sys
from pathlib import Path

import cv2
import numpy as np
from clip_file import write_clip
from make_pictures import encoded
from scenes import beach

FRAMES, SIZE, RATE, NOISE, SAMPLES = 30, (640, 480), 25, 7.0, 14


def rendered(folder: Path, index: int) -> np.ndarray:
    path = folder / f"kites {index:02}.npy"
    if not path.exists():
        held = 0.02 * math.sin(1.7 * index) + 0.004 * index, 0.015 * math.cos(1.1 * index)
        np.save(path, beach(SAMPLES, SIZE, 6 * math.sin(index / 5), held))
        print(index, flush=True)
    return np.asarray(np.load(path))


def seen(light: np.ndarray, index: int, white: float) -> np.ndarray:
    """What the camera makes of a frame, of 255; in the middle of the clip it looks for its focus."""
    tone = 255 * encoded(1 - np.exp(-1.25 * light / white))
    return cv2.GaussianBlur(tone, (0, 0), 0.6 + 0.5 * min(index - 10, 17 - index)) if 11 <= index <= 16 else tone


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    light = [rendered(folder, index) for index in range(FRAMES)]
    white = np.percentile(light[0], 97) / 0.8
    path = Path(__file__).parent / "clips" / "Kites in the wind.mp4"
    write_clip(path, (seen(frame, index, white) for index, frame in enumerate(light)), SIZE, RATE, NOISE, 6)


if __name__ == "__main__":
    main()
