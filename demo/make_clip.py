"""Make the demo's clip: kites in the wind, seen from a hand that does not quite hold still.

    python demo/make_clip.py FOLDER

Needs mitsuba (lab/requirements.txt) and PyAV. Frames that FOLDER holds already are not rendered again.
"""

from __future__ import annotations

import math
import sys
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
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


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    light = [rendered(folder, index) for index in range(FRAMES)]
    white = np.percentile(light[0], 97) / 0.8
    random = np.random.default_rng(6)
    path = Path(__file__).parent / "clips" / "Kites in the wind.mp4"
    path.parent.mkdir(exist_ok=True)
    with av.open(str(path), "w") as clip:
        stream = clip.add_stream("libx264", rate=RATE, options={"crf": "17", "preset": "slow"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        stream.codec_context.colorspace, stream.codec_context.color_range = 1, 1
        for index, frame in enumerate(light):
            # In the middle the camera looks for its focus.
            tone = 255 * encoded(1 - np.exp(-1.25 * frame / white))
            if 11 <= index <= 16:
                import cv2

                tone = cv2.GaussianBlur(tone, (0, 0), 0.6 + 0.5 * min(index - 10, 17 - index))
            shown = np.rint(np.clip(tone + random.normal(0, NOISE, tone.shape), 0, 255)).astype(np.uint8)
            picture = av.VideoFrame.from_ndarray(shown, "rgb24").reformat(
                format="yuv420p", dst_colorspace=1, src_color_range=2, dst_color_range=1
            )
            picture.pts, picture.time_base = index, Fraction(1, RATE)
            for packet in stream.encode(picture):
                clip.mux(packet)
        for packet in stream.encode():
            clip.mux(packet)


if __name__ == "__main__":
    main()
