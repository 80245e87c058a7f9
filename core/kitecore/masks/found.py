"""Planes that were found once, at a bounded size, and are kept as text inside settings: a grey 8-bit PNG in base64."""

from __future__ import annotations

import base64
import binascii
from functools import lru_cache
from typing import Annotated

import cv2
import numpy as np
from pydantic import AfterValidator, Field

from kitecore.masks.original import Plane

#: Longest side of a plane, and the most characters it takes.
MOST_SIDE, MOST_TEXT = 1024, 400_000
_PNG = b"\x89PNG\r\n\x1a\n"


def text_of(plane: Plane) -> str:
    """A plane, H×W, 0..1, at most MOST_SIDE a side, as text.

    >>> plane_of(text_of(np.eye(2, dtype=np.float32))).tolist()
    [[1.0, 0.0], [0.0, 1.0]]
    """
    samples = np.rint(np.clip(plane, 0, 1) * 255).astype(np.uint8)
    _, content = cv2.imencode(".png", samples, [cv2.IMWRITE_PNG_COMPRESSION, 9])
    return base64.b64encode(content.tobytes()).decode("ascii")


@lru_cache(maxsize=32)
def plane_of(text: str) -> Plane:
    """The plane of a text, H×W, 0..1; not to be changed. Raises ValueError if it holds none."""
    try:
        content = base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError) as error:
        raise ValueError("a found mask holds a PNG in base64") from error
    # Its size is told before it is unpacked.
    width, height = (int.from_bytes(content[place : place + 4], "big") for place in (16, 20))
    if content[:8] != _PNG or not (0 < width <= MOST_SIDE and 0 < height <= MOST_SIDE):
        raise ValueError(f"a found mask is a grey PNG of at most {MOST_SIDE} px a side")
    samples = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_GRAYSCALE)
    if samples is None:
        raise ValueError("the PNG of a found mask cannot be read")
    plane = np.asarray(samples, np.float32) / np.float32(255)
    plane.flags.writeable = False
    return plane


def readable(text: str) -> str:
    """``text`` if it is empty or holds a plane; else ValueError."""
    if text:
        plane_of(text)
    return text


PlaneText = Annotated[str, Field(max_length=MOST_TEXT), AfterValidator(readable)]
