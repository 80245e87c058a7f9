"""Masks: where a step works and how strongly, made of parts that are added, taken away or met."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from kitecore.faces import FaceFound
from kitecore.masks.original import Original, Plane
from kitecore.masks.parts import AnyPart, FaceArea, FacePlace, told
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run

MOST_PARTS = 24


class Mask(BaseModel):
    """Parts one after the other, from nothing. Inverted, the step works everywhere but there."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    parts: Annotated[list[AnyPart], Field(max_length=MOST_PARTS)] = []
    inverted: bool = False

    @model_validator(mode="before")
    @classmethod
    def _of_strokes_alone(cls, given: Any) -> Any:
        """As masks were kept before they had parts."""
        if isinstance(given, dict) and "strokes" in given and "parts" not in given:
            rest = {name: value for name, value in given.items() if name != "strokes"}
            strokes = given["strokes"]
            return {**rest, "parts": [{"by": "brush", "strokes": strokes}] if strokes else []}
        return given

    def where(self) -> str:
        """Where a step with this mask works, in words."""
        parts = [part for part in self.parts if part.on]
        if not self.inverted:
            return f"in {told(parts)}" if parts else "nowhere"
        return f"everywhere but in {told(parts)}" if parts else "everywhere"

    def values(self, region: Region, original: Original, run: Run) -> Plane:
        """The mask over ``region`` of a picture, H×W, 0..1."""
        values = np.zeros((region.height, region.width), np.float32)
        for part in self.parts:
            if not part.on:
                continue
            run.check()
            share = np.float32(part.strength / 100)
            own = part.values(region, original, run)
            if part.how == "add":
                np.maximum(values, share * own, out=values)
            elif part.how == "take":
                values *= 1 - share * own
            else:
                values *= 1 - share + share * own
        return 1 - values if self.inverted else values

    def portable(self) -> Self:
        """The mask for other pictures: what was found in this one is to be found there."""
        return self.model_copy(update={"parts": [part.portable() for part in self.parts]})

    def with_faces(self, faces: Sequence[FaceFound]) -> Self:
        """The mask told of a picture's faces, where it has none yet; those that are not sure are left out."""
        sure = [FacePlace(eyes=face.eyes, mouth=face.mouth) for face in faces if face.sure]
        parts = [
            part.model_copy(update={"faces": sure}) if isinstance(part, FaceArea) and not part.faces else part
            for part in self.parts
        ]
        return self.model_copy(update={"parts": parts})
