"""How a finished file is to be written: format, depth, colour space, ppi, paper."""

from __future__ import annotations

from typing import Literal, Self, TypeAlias

from pydantic import BaseModel, ConfigDict, Field, model_validator

from kitecore.colour.conversion import Intent
from kitecore.colour.spaces import SpaceName
from kitecore.delivery.layout import Layout
from kitecore.pipeline.geometry import Size

Format: TypeAlias = Literal["tiff", "png", "jpeg", "webp", "pdf", "dng"]


class OutputSpec(BaseModel):
    """How a finished file is to be written. What its format makes of it, :mod:`kitecore.delivery.encode` knows."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    format: Format = "tiff"
    depth: Literal[8, 16, 32] = Field(
        default=16,
        description="Bits per sample; JPEG, WebP and PDF with JPEG inside always have 8. 32 is floating point, for TIFF in "
        "the source's colour space: nothing is rounded or cut off.",
    )
    compression: Literal["none", "lzw", "zip"] = Field(default="zip", description="For TIFF; all are lossless.")
    tiled: bool = Field(default=False, description="For TIFF: in tiles of 256 px instead of strips.")
    quality: int = Field(default=92, ge=1, le=100, description="For JPEG and WebP, and PDF unless lossless.")
    lossless: bool = Field(default=False, description="For WebP and PDF.")
    progressive: bool = Field(default=False, description="For JPEG: shown coarsely first while it arrives.")
    longest_side: int | None = Field(
        default=None,
        ge=16,
        le=1_000_000,
        description="px; larger results are made smaller for this file. Null: as they are.",
    )
    chroma: Literal["full", "half"] = Field(default="full", description="Chroma resolution of JPEG: 4:4:4 or 4:2:0.")
    profile: Literal["keep"] | SpaceName = Field(
        default="keep", description="The source's colour space, or one of these."
    )
    intent: Intent = Field(default="relative", description="Of a conversion: what becomes of colours the space lacks.")
    black_point: bool = Field(default=True, description="Whether a conversion brings black to black.")
    ppi: float | None = Field(default=None, ge=1, le=10_000, description="None keeps the source's tag, or 300.")
    metadata: bool = Field(default=True, description="Whether EXIF, XMP with its history, and IPTC go with the file.")
    location: bool = Field(default=True, description="Whether these tell where it was taken.")
    layout: Layout | None = Field(default=None, description="The paper around the picture; null: the picture alone.")

    @model_validator(mode="after")
    def _floats_as_they_are(self) -> Self:
        if self.depth == 32 and (self.format != "tiff" or self.profile != "keep"):
            raise ValueError("32-bit float is for TIFF in the source's colour space: choose 16 bit, or keep the space")
        if self.format == "dng" and (self.depth != 16 or self.profile != "keep" or self.layout):
            raise ValueError("a linear DNG holds 16 bit in the camera's own colours, without paper: choose so, or TIFF")
        return self

    def ppi_for(self, tagged: float | None) -> float:
        """The tag that will be written, for a source that has the tag ``tagged``."""
        return self.ppi or tagged or 300.0

    def face_size(self, size: Size) -> Size:
        """Size of the picture inside the file for a result of ``size``."""
        return size if self.longest_side is None else size.fitted(self.longest_side)

    def final_size(self, size: Size, tagged: float | None) -> Size:
        """Size of the file for a result of ``size`` from a source with the ppi tag ``tagged``. Raises TakeError."""
        size = self.face_size(size)
        return self.layout.size(size, self.ppi_for(tagged)) if self.layout else size
