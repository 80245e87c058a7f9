"""A clip of the demo as a file: frames with the noise of a camera, H.264."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np


def write_clip(
    path: Path, frames: Iterable[np.ndarray], size: tuple[int, int], rate: int, noise: float, seed: int
) -> None:
    """Frames H×W×3 of 255, ``noise`` σ added, at so many a second."""
    random = np.random.default_rng(seed)
    path.parent.mkdir(exist_ok=True)
    with av.open(str(path), "w") as clip:
        stream: Any = clip.add_stream("libx264", rate=rate, options={"crf": "17", "preset": "slow"})
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        stream.codec_context.colorspace, stream.codec_context.color_range = 1, 1
        for index, frame in enumerate(frames):
            shown = np.rint(np.clip(frame + random.normal(0, noise, frame.shape), 0, 255)).astype(np.uint8)
            picture = av.VideoFrame.from_ndarray(shown, "rgb24").reformat(
                format="yuv420p", dst_colorspace=1, src_color_range=2, dst_color_range=1
            )
            picture.pts, picture.time_base = index, Fraction(1, rate)
            for packet in stream.encode(picture):
                clip.mux(packet)
        for packet in stream.encode():
            clip.mux(packet)
