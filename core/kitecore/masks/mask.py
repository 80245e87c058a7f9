"""Masks: where a step works and how strongly, painted in strokes that lie on the source."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.masks.strokes import MOST_STROKES, Affine, Plane, Stroke, likeness, touched, weight
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import luma
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage


class Mask(BaseModel):
    """Strokes laid one over the other, from nothing. Inverted, the step works everywhere but there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    strokes: Annotated[list[Stroke], Field(max_length=MOST_STROKES)] = []
    inverted: bool = False

    def where(self) -> str:
        """Where a step with this mask works, in words."""
        count = len(self.strokes)
        strokes = f"{count} painted {'stroke' if count == 1 else 'strokes'}"
        if not self.inverted:
            return f"in {strokes}" if count else "nowhere"
        return f"everywhere but in {strokes}" if count else "everywhere"

    def values(self, region: Region, back: Affine, looked_at: Stage, run: Run) -> Plane:
        """The mask over ``region`` of a picture, H×W, 0..1.

        ``back`` takes the picture's pixels to those of the source. ``looked_at`` is the framed original at the picture's
        size, for strokes that stay within edges: what other steps do to tones does not move a mask.
        """
        values = np.zeros((region.height, region.width), np.float32)
        pixels: Plane | None = None
        for stroke in self.strokes:
            part = touched(stroke, region, back)
            if part is None:
                continue
            place = part.slices(region)
            own = weight(stroke, part, back)
            if stroke.edges and own.any():
                if pixels is None:
                    pixels = luma(looked_at.render(region, run))
                own *= likeness(stroke, part, pixels[place], back, looked_at, run)
            own *= np.float32(stroke.strength / 100)
            below = values[place]
            np.copyto(below, below * (1 - own) if stroke.erase else np.maximum(below, own))
        return 1 - values if self.inverted else values
