"""What is said of a clip."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal, TypeAlias

from pydantic import BaseModel, Field

#: Transfer of light that a clip was coded with: as for ordinary screens, or for high dynamic range.
Transfer: TypeAlias = Literal["sdr", "pq", "hlg"]
Matrix: TypeAlias = Literal["601", "709", "2020", "rgb"]

#: Limits that are said: frames, and pixels of one.
MOST_FRAMES, MOST_PIXELS = 200_000, 8192 * 4608


class ClipFacts(BaseModel):
    """Sizes are those of the upright picture with square pixels."""

    container: str
    codec: str
    width: int
    height: int
    frames: int
    seconds: float = Field(description="From the beginning of the first frame to the end of the last.")
    rate: float = Field(description="Frames a second, in the mean.")
    steady: bool = Field(description="Whether all frames are equally long.")
    bits: int = Field(description="Bits per sample.")
    chroma: str = Field(description="4:2:0, 4:2:2, 4:4:4, or RGB.")
    full_range: bool
    matrix: Matrix
    transfer: Transfer
    wide: bool = Field(description="Whether its primaries are those of BT.2020.")
    turned: int = Field(description="Degrees clockwise by which its frames are turned to stand upright.")
    interlaced: bool
    notes: list[str] = Field(default_factory=list, description="What is done to its frames, in sentences.")


def time_code(seconds: Fraction, rate: float) -> str:
    """Hours, minutes, seconds and the frame within the second.

    >>> time_code(Fraction(3725) + Fraction(3, 25), 25)
    '01:02:05:03'
    """
    whole = int(seconds)
    frame = int((seconds - whole) * Fraction(rate).limit_denominator(1001) + Fraction(1, 1000))
    return f"{whole // 3600:02}:{whole // 60 % 60:02}:{whole % 60:02}:{frame:02}"
