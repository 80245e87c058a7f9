"""Squares of sharp faces, kept as text inside settings, a JPEG in base64: no store has to be swept, backed up or shared."""

from __future__ import annotations

import base64
import binascii
from functools import lru_cache
from typing import Annotated

import cv2
import numpy as np
import pyvips
from pydantic import AfterValidator, Field

from kitecore.faces.square import FaceSquare, cut_square
from kitecore.pipeline.pixels import Pixels

#: Samples a side at most, and the most characters that takes.
MOST_SIDE, MOST_TEXT = 384, 300_000
_QUALITY = 93


def square_text(pixels: Pixels, square: FaceSquare) -> str:
    """The square of a face in a picture H×W×3, coded values 0..1, as text."""
    side = int(min(MOST_SIDE, max(32, np.ceil(square.side))))
    cut = np.rint(np.clip(cut_square(pixels, square, side), 0, 1) * 255).astype(np.uint8)
    how = [cv2.IMWRITE_JPEG_QUALITY, _QUALITY, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, cv2.IMWRITE_JPEG_SAMPLING_FACTOR_444]
    _, content = cv2.imencode(".jpg", cv2.cvtColor(cut, cv2.COLOR_RGB2BGR), how)
    return base64.b64encode(content.tobytes()).decode("ascii")


@lru_cache(maxsize=32)
def square_of(text: str) -> Pixels:
    """The square of a text, S×S×3, 0..1; not to be changed. Raises ValueError if it holds none."""
    try:
        content = base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError) as error:
        raise ValueError("a reference holds a JPEG in base64") from error
    try:
        # Its size is told before it is unpacked.
        image = pyvips.Image.jpegload_buffer(content)
        if image.width != image.height or image.width > MOST_SIDE or image.bands != 3:
            raise ValueError(f"a reference is a square of at most {MOST_SIDE} px a side, in colour")
        pixels = np.asarray(image.numpy(), np.float32) / np.float32(255)
    except pyvips.Error as error:
        raise ValueError("the JPEG of a reference cannot be read") from error
    pixels.flags.writeable = False
    return pixels


def _readable(text: str) -> str:
    square_of(text)
    return text


SquareText = Annotated[str, Field(max_length=MOST_TEXT), AfterValidator(_readable)]
