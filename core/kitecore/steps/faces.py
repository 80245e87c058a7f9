"""Faces: restore every face of a picture in an upright square of its own, as far as is wanted of each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, Self, TypeAlias

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.engines.kinds import KindName
from kitecore.faces import FaceFound, FaceSquare
from kitecore.pipeline.geometry import Place, Size
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, EngineUse, Framed, NetworkRun, Step
from kitecore.steps.faces_stage import FacesStage, FaceWork, Part, side_for
from kitecore.values import EngineId, Percent

#: Places in pixels of the upright source.
Spot: TypeAlias = tuple[float, float]


class OneFace(BaseModel):
    """A face on the line: where it is in the source, and what is set for it alone; null: as for all."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    eyes: Annotated[tuple[Spot, Spot], Field(description="px of the upright source; first the one farther left in it.")]
    mouth: Annotated[Spot, Field(description="Its middle, px of the upright source.")]
    on: bool = True
    strength: Percent | None = None
    freedom: Percent | None = None
    part: Part | None = None

    @property
    def square(self) -> FaceSquare:
        """In pixels of the upright source."""
        return FaceSquare.around(Place(*self.eyes[0]), Place(*self.eyes[1]), Place(*self.mouth))


class Faces(Step):
    """Restores faces; what is not a face, and faces that are off, stay as they are, bit by bit.

    Each is brought upright into a square, restored by a network that knows what faces look like, and its change is
    brought back. ``freedom`` says how far the restored face, brought back to the size of the source, may depart from what
    came in: at 0 it equals it.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "faces"
    purpose: ClassVar[str] = "Restore faces, each as far as you want"
    belongs: ClassVar[Belongs] = "finish"
    engine_kind: ClassVar[KindName] = "faces"
    asks_reading: ClassVar[bool] = True

    kind: Literal["faces"] = "faces"
    engine: EngineId = "faces"
    strength: Percent = 35.0
    freedom: Annotated[Percent, Field(description="How far a face may depart from the source; 0: not at all.")] = 60.0
    part: Annotated[Part, Field(description="What is blended in: the skin alone, hair too, or neck too.")] = "hair"
    size: Annotated[int, Field(ge=64, le=256, description="px: the side of the square at most; larger shows more.")] = (
        256
    )
    grain: Annotated[Percent, Field(description="How much of the grain around is given back to the face.")] = 100.0
    faces: Annotated[list[OneFace], Field(max_length=200)] = []

    def result_size(self, size: Size) -> Size:
        return size

    def engines_used(self) -> list[EngineUse]:
        return [EngineUse("faces", self.engine)]

    def _strength(self, face: OneFace) -> float:
        return self.strength if face.strength is None else face.strength

    def _wanted(self) -> list[OneFace]:
        return [face for face in self.faces if face.on and self._strength(face) > 0]

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        wanted = self._wanted()
        if not wanted:
            return []
        scale = size.width / framed.width
        pixels = sum(side_for(face.square.side * scale, self.size) ** 2 for face in wanted)
        return [NetworkRun(self.engines_used()[0].engine(), 1, Size(pixels, 1))]

    def did(self) -> str:
        wanted = self._wanted()
        if not wanted:
            return ""
        name = self.engines_used()[0].called()
        strengths = sorted({self._strength(face) for face in wanted})
        told = f"{strengths[0]:g} %" if len(strengths) == 1 else f"{strengths[0]:g} to {strengths[-1]:g} %"
        count = "1 face" if len(wanted) == 1 else f"{len(wanted)} faces"
        left = len(self.faces) - len(wanted)
        others = f", {left} left as {'it was' if left == 1 else 'they were'}" if left else ""
        return f"{count} restored by {name} at {told}; what the source did not show is invented{others}"

    @classmethod
    def showing(cls, engine: str) -> Faces:
        # Where the face of the shelf's sample is.
        face = OneFace(eyes=((98.9, 61.9), (141.4, 62.3)), mouth=(120.2, 110.6))
        return cls(engine=engine, strength=100, freedom=100, faces=[face])

    def at(self, share: float) -> Self:
        faces = [
            face if face.strength is None else face.model_copy(update={"strength": face.strength * share})
            for face in self.faces
        ]
        return self.model_copy(update={"strength": self.strength * share, "faces": faces})

    def portable(self) -> Self:
        return self.model_copy(update={"faces": []})

    def suited_to(self, quality: int | None, faces: Sequence[FaceFound] = ()) -> Self:
        # Those that are not sure are there to be switched on.
        begun = [OneFace(eyes=face.eyes, mouth=face.mouth, on=face.sure) for face in faces]
        return self if self.faces else self.model_copy(update={"faces": begun})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._stage(source, full, full, np.eye(2, 3))

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._stage(source, full, framed.full, framed.to_source)

    def _stage(self, source: Stage, full: Size, framed: Size, to_source: np.ndarray) -> Stage:
        wanted = self._wanted()
        if not wanted:
            return source
        from_source = cv2.invertAffineTransform(to_source)
        # Of the input as it is, however much it is reduced; and of the source.
        scale = source.size.width / framed.width
        works = [
            FaceWork(
                _moved(face, from_source, scale), scale, self._strength(face) / 100,
                (self.freedom if face.freedom is None else face.freedom) / 100, face.part or self.part,
            )
            for face in wanted
        ]  # fmt: skip
        return FacesStage(source, works, self.engines_used()[0].engine(), self.size, self.grain / 100)


def _moved(face: OneFace, affine: np.ndarray, scale: float) -> FaceSquare:
    """The square of a face where ``affine`` and ``scale`` bring it; mirrored, its eyes change places."""
    first, second, mouth = (Place(*(scale * (affine @ [*spot, 1]))) for spot in (*face.eyes, face.mouth))
    if np.linalg.det(affine[:, :2]) < 0:
        first, second = second, first
    return FaceSquare.around(first, second, mouth)
