"""LibRaw at work, in a process of its own: ``python -m kitecore.files.raw.child look|unpack|preview FILE [TO]``.

What it found is a line of JSON on standard output. ``unpack`` writes samples as .npy to TO: the mosaic (H×W uint16) where LibRaw
gives one of two by two colours, else three colours (H×W×3 uint16). ``preview`` writes the camera's own JPEG there.
"""

from __future__ import annotations

import json
import resource
import sys
from pathlib import Path
from typing import Any

import numpy as np
import rawpy

_MOST_MEMORY_BYTES = 8 * 1024**3
_MOST_SECONDS = 300


def _told(raw: Any) -> dict[str, Any]:
    sizes, other = raw.sizes, raw.other
    whites = raw.camera_white_level_per_channel
    pattern = raw.raw_pattern
    return {
        "width": sizes.width, "height": sizes.height, "flip": sizes.flip,
        "crop": [sizes.crop_left_margin, sizes.crop_top_margin, sizes.crop_width, sizes.crop_height],
        "margins": [sizes.left_margin, sizes.top_margin],
        "flat": raw.raw_type == rawpy.RawType.Flat, "colours": raw.num_colors, "letters": raw.color_desc.decode(),
        "pattern": pattern.tolist() if pattern is not None else None,
        "black": list(raw.black_level_per_channel), "white": float(raw.white_level or 65535),
        "whites": [float(one) for one in whites] if whites else None,
        "as_shot": list(raw.camera_whitebalance), "daylight": list(raw.daylight_whitebalance),
        "matrix": raw.color_matrix[:3, :3].tolist(),
        "iso": other.iso_speed, "exposure": other.shutter_speed, "aperture": other.aperture, "focal": other.focal_length,
        "lens": raw.lens.model, "lens_maker": raw.lens.make,
    }  # fmt: skip


def _two_by_two(told: dict[str, Any]) -> bool:
    pattern = told["pattern"]
    if not told["flat"] or told["colours"] != 3 or pattern is None or len(pattern) != 2:
        return False
    colours = [told["letters"][index] for row in pattern for index in row]
    return colours.count("G") == 2 and {*colours} == {*"RGB"} and colours[0] != colours[1] != colours[3]


def _unpacked(raw: Any, told: dict[str, Any]) -> np.ndarray:
    if _two_by_two(told) or (told["flat"] and told["colours"] == 1):
        samples: np.ndarray = raw.raw_image_visible
        return samples
    if not told["flat"] and told["colours"] == 3:
        linear: np.ndarray = raw.raw_image_visible[..., :3]
        return linear
    # Other mosaics: interpolated by LibRaw, in the camera's own colours, with nothing cut off and nothing stretched.
    told["interpolated"] = True
    result: np.ndarray = raw.postprocess(
        output_color=rawpy.ColorSpace.raw, gamma=(1, 1), no_auto_bright=True, output_bps=16, use_camera_wb=True,
        highlight_mode=rawpy.HighlightMode.Ignore, user_flip=0, adjust_maximum_thr=0.0,
    )  # fmt: skip
    return result[..., :3]


def main() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (_MOST_MEMORY_BYTES, _MOST_MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (_MOST_SECONDS, _MOST_SECONDS))
    task, path, *to = sys.argv[1:]
    told: dict[str, Any]
    try:
        with rawpy.imread(path) as raw:
            if task == "preview":
                thumb = raw.extract_thumb()
                told = {"jpeg": thumb.format == rawpy.ThumbFormat.JPEG}
                if told["jpeg"]:
                    Path(to[0]).write_bytes(bytes(thumb.data))
            else:
                told = _told(raw)
                if task == "unpack":
                    samples = _unpacked(raw, told)
                    np.save(to[0], np.ascontiguousarray(samples))
    except (rawpy.LibRawError, MemoryError, ValueError) as error:
        told = {"error": str(error.args[0].decode() if error.args and isinstance(error.args[0], bytes) else error)}
    print(json.dumps(told))


if __name__ == "__main__":
    main()
