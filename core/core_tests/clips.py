"""Clips of known frames, coded by PyAV."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import numpy.typing as npt

#: Frames leave x265 in the order in which they came: on a busy machine those of two threads have had times that no file takes.
_OPTIONS = {"libx264": {"crf": "12"}, "libx265": {"x265-params": "bframes=0:frame-threads=1:log-level=error"}}
Frames = list[npt.NDArray[np.float64]]


def write_clip(
    path: Path, frames: Frames, codec: str = "libx264", form: str = "yuv420p", full: bool = False, matrix: int = 1,
    times: list[int] | None = None, transfer: int = 0, primaries: int = 0, **options: str,
) -> Path:  # fmt: skip
    """Frames, H×W×3 of 255, at ``times`` (1/1000 s; else 25 a second); matrix, transfer and primaries as ISO numbers them."""
    height, width = frames[0].shape[:2]
    with av.open(str(path), "w") as clip:
        stream: Any = clip.add_stream(codec, rate=25, options=options or _OPTIONS.get(codec, {}))
        stream.width, stream.height, stream.pix_fmt = width, height, form
        stream.time_base = Fraction(1, 1000)
        context = stream.codec_context
        context.time_base = Fraction(1, 1000)
        context.colorspace, context.color_range = matrix, 2 if full else 1
        if transfer:
            context.color_trc, context.color_primaries = transfer, primaries
        for index, frame in enumerate(frames):
            shown = np.rint(np.clip(frame, 0, 255)).astype(np.uint8)
            picture = av.VideoFrame.from_ndarray(shown, "rgb24").reformat(
                format=form, dst_colorspace=matrix, src_color_range=2, dst_color_range=2 if full else 1
            )
            picture.pts, picture.time_base = times[index] if times else 40 * index, Fraction(1, 1000)
            for packet in stream.encode(picture):
                clip.mux(packet)
        for packet in stream.encode():
            clip.mux(packet)
    return path


def handheld(picture: npt.NDArray[Any], count: int, moving: bool = False) -> Frames:
    """A photograph, H×W×3 of 255, seen from a hand; ``moving``: a disc goes over it."""
    height, width = picture.shape[0] - 64, picture.shape[1] - 64
    frames = []
    for index in range(count):
        turn = 0.004 * np.sin(index)
        across, down = 24 + 3 * np.sin(1.3 * index) + 0.7 * index, 24 + 2.5 * np.cos(0.9 * index)
        way = np.array([[np.cos(turn), -np.sin(turn), across], [np.sin(turn), np.cos(turn), down]])
        flags = cv2.INTER_LANCZOS4 | cv2.WARP_INVERSE_MAP
        seen = cv2.warpAffine(picture, way, (width, height), flags=flags, borderMode=cv2.BORDER_REFLECT)
        if moving:
            seen = cv2.circle(seen.copy(), disc(index, height), RADIUS, (30, 60, 200), -1, cv2.LINE_AA)
        frames.append(np.asarray(seen, np.float64))
    return frames


RADIUS = 22


def disc(index: int, height: int) -> tuple[int, int]:
    """The middle of the disc that moves."""
    return 60 + 25 * index, height // 2
