"""A clip's decoder, in a process of its own: ``python -m kitecore.files.clip.child FILE``.

Asked by lines of JSON on standard input, it answers with a line of JSON on standard output, and with samples behind it where it
says how many bytes: ``look`` (what the clip is, and when each frame begins), ``planes`` (a frame's luma and chroma, or its RGB,
3×H×W uint16).
"""

from __future__ import annotations

import json
import resource
import sys
from fractions import Fraction
from typing import Any

import av
import numpy as np
from av.video.frame import VideoFrame

_MOST_MEMORY_BYTES = 6 * 1024**3
#: ISO/IEC 23091-2: matrix, transfer and primaries by number.
_MATRICES = {0: "rgb", 1: "709", 4: "601", 5: "601", 6: "601", 7: "709", 9: "2020", 10: "2020"}
_TRANSFERS = {16: "pq", 18: "hlg"}
_WIDE_PRIMARIES = 9
#: From this height on what does not tell its matrix is taken for BT.709.
_HIGH = 720
_FULL_RANGE = 2
_SUBSAMPLED = {(1, 1): "4:2:0", (1, 0): "4:2:2", (0, 0): "4:4:4", (2, 0): "4:1:1", (2, 2): "4:1:0", (0, 1): "4:4:0"}


class Decoder:
    def __init__(self, path: str) -> None:
        self._container = av.open(path)
        streams = [
            stream
            for stream in self._container.streams.video
            if not stream.disposition & stream.disposition.attached_pic
        ]
        if not streams:
            raise ValueError("it holds no pictures that move")
        self._stream = streams[0]
        self._stream.thread_type = "AUTO"
        self._index: list[tuple[int, bool]] = []
        self._next: Any = None
        #: The last frame, which is often asked for once more.
        self._last: VideoFrame | None = None

    def look(self) -> dict[str, Any]:
        """What the clip is. Every packet is passed, none decoded but the first few."""
        stream, context = self._stream, self._stream.codec_context
        found, last = [], 0
        for packet in self._container.demux(stream):
            if packet.pts is not None and packet.size:
                found.append((packet.pts, packet.is_keyframe))
                last = max(last, packet.duration or 0)
        self._index = sorted(set(found))
        if not self._index:
            raise ValueError("it holds no frames")
        first = self._frame(self._index[0][0])
        form = first.format
        rgb = form.is_rgb
        matrix = "rgb" if rgb else _MATRICES.get(int(first.colorspace), "")
        high = context.height >= _HIGH
        deep = max(component.bits for component in form.components)
        chroma = "RGB" if rgb else "4:0:0" if len(form.components) == 1 else self._chroma(form)
        aspect = stream.sample_aspect_ratio or context.sample_aspect_ratio
        return {
            "container": self._container.format.name.split(",")[0], "codec": context.name,
            "width": context.width, "height": context.height, "aspect": float(aspect) if aspect else 1.0,
            "base": list(Fraction(stream.time_base or 1).as_integer_ratio()),
            "times": [pts for pts, _ in self._index], "last": last, "bits": deep, "chroma": chroma,
            "full": rgb or int(first.color_range) == _FULL_RANGE, "matrix": matrix or ("709" if high else "601"),
            "transfer": _TRANSFERS.get(int(context.color_trc), "sdr"), "told": bool(matrix),
            "wide": int(context.color_primaries) == _WIDE_PRIMARIES or matrix == "2020",
            "turned": -int(first.rotation) % 360, "interlaced": bool(first.interlaced_frame),
        }  # fmt: skip

    @staticmethod
    def _chroma(form: Any) -> str:
        across = form.components[1].width
        width, height = form.components[0].width, form.components[0].height
        down = form.components[1].height
        return _SUBSAMPLED.get((round(np.log2(width / across)), round(np.log2(height / down))), "4:2:0")

    def _frame(self, pts: int) -> VideoFrame:
        """The frame that begins at ``pts``: by going on from the last one, or from the key before it."""
        if self._last is not None and self._last.pts == pts:
            return self._last
        self._last = None
        if self._next is None or not self._ahead(pts):
            before = max((place for place, key in self._index if key and place <= pts), default=self._index[0][0])
            self._container.seek(before, stream=self._stream, backward=True, any_frame=False)
            self._next = self._container.decode(self._stream)
            self._at = before
        for frame in self._next:
            if frame.pts is None:
                continue
            self._at = frame.pts
            if frame.pts >= pts:
                if frame.pts > pts:
                    break
                found: VideoFrame = frame
                self._last = found
                return found
        self._next = None
        raise ValueError("a frame of it cannot be decoded; the file is damaged there, or cut off")

    def _ahead(self, pts: int) -> bool:
        """Whether going on gets there at once: it lies ahead, and no key lies between."""
        return pts > self._at and not any(key and self._at < place <= pts for place, key in self._index)

    def planes(self, pts: int, side: int) -> np.ndarray:
        """Luma and chroma (or green, blue, red), 3×H×W, 256 times their 8-bit values, chroma brought to the size of luma.

        With a ``side`` (not 0) a larger frame is made small first, to be at most so long.
        """
        if not self._index:
            self.look()
        frame = self._frame(pts)
        form = "gbrp16le" if frame.format.is_rgb else "yuv444p16le"
        held = int(frame.color_range) or None
        share = min(1.0, side / max(frame.width, frame.height)) if side else 1.0
        same = frame.reformat(
            width=max(1, round(frame.width * share)), height=max(1, round(frame.height * share)), format=form,
            interpolation="AREA" if share < 1 else "LANCZOS", src_color_range=held, dst_color_range=held,
        )  # fmt: skip
        planes = [
            np.frombuffer(memoryview(plane), np.uint16).reshape(plane.height, -1)[:, : plane.width]
            for plane in same.planes[:3]
        ]
        return np.stack(planes)


def main() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    av.logging.set_level(av.logging.PANIC)
    decoder: Decoder | None = None
    for line in sys.stdin.buffer:
        asked = json.loads(line)
        content = b""
        told: dict[str, Any]
        try:
            decoder = decoder or Decoder(sys.argv[1])
            if asked["task"] == "look":
                told = decoder.look()
            else:
                samples = decoder.planes(asked["pts"], asked["side"])
                content = np.ascontiguousarray(samples).tobytes()
                told = {"shape": samples.shape, "bytes": len(content)}
        except (av.FFmpegError, ValueError, MemoryError, OSError) as error:
            told = {
                "error": str(error.strerror if isinstance(error, av.FFmpegError) else error) or "it cannot be decoded"
            }
        sys.stdout.buffer.write(json.dumps(told).encode() + b"\n" + content)
        sys.stdout.buffer.flush()


if __name__ == "__main__":
    main()
