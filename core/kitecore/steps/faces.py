"""Faces: restore every face of a picture in an upright square of its own, as far as is wanted of each."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, Self, TypeAlias

from pydantic import BaseModel, ConfigDict, Field

from kitecore.engines.kinds import KindName
from kitecore.faces import FaceFound, FaceSquare
from kitecore.faces.reference import SquareText, square_of
from kitecore.pipeline.geometry import Place, Size
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps.base import Belongs, EngineUse, Framed, NetworkRun, Step
from kitecore.steps.expression_stage import Expression, ExpressionStage, Moved
from kitecore.steps.faces_stage import FacesStage, FaceWork, Part, side_for
from kitecore.steps.gaze_stage import Aligned, GazeStage
from kitecore.values import EngineId, Percent

#: Side of the largest square a face is restored in, px.
LARGEST_SIDE = 512

#: Places in pixels of the upright source.
Spot: TypeAlias = tuple[float, float]


class Reference(BaseModel):
    """A sharp picture of the same person: an upright square of the face in it, and how much of its detail is lent."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    square: Annotated[SquareText, Field(description="A JPEG in base64, as cut by the server.")]
    name: Annotated[str, Field(min_length=1, max_length=255, description="Of the picture it is from.")]
    strength: Percent = 70.0


class OneFace(BaseModel):
    """A face on the line: where it is in the source, and what is set for it alone; null: as for all."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    eyes: Annotated[tuple[Spot, Spot], Field(description="px of the upright source; first the one farther left in it.")]
    mouth: Annotated[Spot, Field(description="Its middle, px of the upright source.")]
    on: bool = True
    strength: Percent | None = None
    freedom: Percent | None = None
    part: Part | None = None
    liveliness: Percent | None = None
    size: Annotated[int | None, Field(ge=64, le=LARGEST_SIDE)] = None
    gaze: Percent | None = None
    reference: Reference | None = None
    smile: Annotated[float, Field(ge=-100, le=100, description="Corners of the mouth up, or down.")] = 0.0
    brows: Annotated[float, Field(ge=-100, le=100, description="Brows up, or down.")] = 0.0
    lids: Annotated[float, Field(ge=-100, le=100, description="Eyes more open, or less.")] = 0.0

    @property
    def expression(self) -> Expression:
        return Expression(self.smile / 100, self.brows / 100, self.lids / 100)

    @property
    def lent_to(self) -> bool:
        """Whether another picture lends it detail."""
        return self.reference is not None and self.reference.strength > 0

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

    revision: ClassVar[int] = 2
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
    size: Annotated[
        int, Field(ge=64, le=LARGEST_SIDE, description="px: the side of the square at most; larger shows more.")
    ] = 256
    lively: Annotated[
        EngineId, Field(description="The engine for liveliest looks; ``engine`` is that for least error.")
    ] = "lively"
    liveliness: Annotated[Percent, Field(description="The share of ``lively`` in what a face becomes.")] = 0.0
    gaze: Annotated[Percent, Field(description="How far irises are moved so that both eyes look the same way.")] = 0.0
    grain: Annotated[Percent, Field(description="How much of the grain around is given back to the face.")] = 100.0
    faces: Annotated[list[OneFace], Field(max_length=200)] = []

    def result_size(self, size: Size) -> Size:
        return size

    def engines_used(self) -> list[EngineUse]:
        steady, lively = EngineUse("faces", self.engine), EngineUse("faces", self.lively)
        shares = [told(face, self, "liveliness") for face in self._wanted()]
        return [steady, lively] if any(shares) else [steady]

    def _wanted(self) -> list[OneFace]:
        return [face for face in self.faces if face.on and (told(face, self, "strength") > 0 or face.lent_to)]

    def _gazing(self) -> list[OneFace]:
        return [face for face in self.faces if face.on and told(face, self, "gaze") > 0]

    def _moving(self) -> list[OneFace]:
        return [face for face in self.faces if face.on and face.expression.any]

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        wanted = self._wanted()
        if not wanted:
            return []
        scale = size.width / framed.width
        pixels = sum(side_for(face.square.side * scale, int(told(face, self, "size"))) ** 2 for face in wanted)
        # Each square is seen in the mirror, too.
        return [NetworkRun(use.engine(), 1, Size(pixels, 1), passes=2) for use in self.engines_used()]

    def did(self) -> str:
        parts, wanted, moving = [], self._wanted(), len(self._moving())
        if restored := [face for face in wanted if told(face, self, "strength") > 0]:
            names = " and ".join(use.called() for use in self.engines_used())
            strengths = sorted({told(face, self, "strength") for face in restored})
            how = f"{strengths[0]:g} %" if len(strengths) == 1 else f"{strengths[0]:g} to {strengths[-1]:g} %"
            parts.append(
                f"{_faces(len(restored))} restored by {names} at {how}; what the source did not show is invented"
            )
        if lent_to := [face for face in wanted if face.lent_to]:
            names = " and ".join(sorted({f"“{face.reference.name}”" for face in lent_to if face.reference}))
            parts.append(f"detail of {_faces(len(lent_to))} taken from {names}")
        if moving:
            parts.append(f"the expression of {_faces(moving)} changed")
        if gazing := len(self._gazing()):
            parts.append(f"the eyes of {_faces(gazing)} turned to look the same way")
        left = len(self.faces) - max(len(wanted), moving, gazing)
        if parts and left:
            parts.append(f"{left} left as {'it was' if left == 1 else 'they were'}")
        return ", ".join(parts)

    @classmethod
    def showing(cls, engine: str) -> Faces:
        # Where the face of the shelf's sample is.
        face = OneFace(eyes=((98.9, 61.9), (141.4, 62.3)), mouth=(120.2, 110.6))
        # The lively one goes on from what the steady one has made.
        if engine == cls.model_fields["lively"].default:
            return cls(lively=engine, liveliness=100, strength=100, freedom=100, faces=[face])
        return cls(engine=engine, strength=100, freedom=100, faces=[face])

    def at(self, share: float) -> Self:
        faces = [
            face.model_copy(update={
                **{
                    name: None if getattr(face, name) is None else getattr(face, name) * share
                    for name in ("strength", "gaze")
                },
                **{name: share * getattr(face, name) for name in ("smile", "brows", "lids")},
                "reference": face.reference and face.reference.model_copy(
                    update={"strength": share * face.reference.strength}
                ),
            })
            for face in self.faces
        ]  # fmt: skip
        return self.model_copy(update={"strength": self.strength * share, "gaze": self.gaze * share, "faces": faces})

    def portable(self) -> Self:
        return self.model_copy(update={"faces": []})

    def suited_to(self, quality: int | None, faces: Sequence[FaceFound] = ()) -> Self:
        # Those that are not sure are there to be switched on.
        begun = [OneFace(eyes=face.eyes, mouth=face.mouth, on=face.sure) for face in faces]
        suited = super().suited_to(quality, faces)
        return suited if self.faces else suited.model_copy(update={"faces": begun})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._stage(source, full, full, Mapping())

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._stage(source, full, framed.full, framed.to_source)

    def _stage(self, source: Stage, full: Size, framed: Size, to_source: Mapping) -> Stage:
        wanted, moving = self._wanted(), self._moving()
        # Of the input as it is, however much it is reduced; and of the source.
        scale = source.size.width / framed.width
        stage = source
        if wanted:
            stage = self._restoring(source, wanted, to_source, scale)
        if gazing := self._gazing():
            squares = [FaceSquare.around(*_moved(face, to_source, scale)) for face in gazing]
            strengths = [told(face, self, "gaze") / 100 for face in gazing]
            stage = GazeStage(stage, [Aligned(*one) for one in zip(squares, strengths, strict=True)])
        if moving:
            places = [(*_moved(face, to_source, scale), face.expression) for face in moving]
            stage = ExpressionStage(stage, [Moved((first, second), mouth, how) for first, second, mouth, how in places])
        return stage

    def departures(self, source: Stage, framed: Size, to_source: Mapping, run: Run) -> list[float | None]:
        """How far each face of the step is from what it is given, at the size of the source: means, of 1.

        ``source`` is the step's input, of a picture of ``framed`` size, and ``to_source`` brings pixels of that to those of the
        source. None for faces that are left as they are; expressions and gaze are not counted.
        """
        wanted = self._wanted()
        stage = self._restoring(source, wanted, to_source, source.size.width / framed.width)
        found = iter(stage.departures(run))
        return [next(found) if face in wanted else None for face in self.faces]

    def _restoring(self, source: Stage, wanted: list[OneFace], to_source: Mapping, scale: float) -> FacesStage:
        uses = [use.engine() for use in self.engines_used()]
        works = [self._work(face, FaceSquare.around(*_moved(face, to_source, scale)), scale) for face in wanted]
        return FacesStage(source, works, uses[0], uses[1] if len(uses) > 1 else None, self.grain / 100)

    def _work(self, face: OneFace, square: FaceSquare, scale: float) -> FaceWork:
        return FaceWork(
            square, scale, told(face, self, "strength") / 100, told(face, self, "freedom") / 100, face.part or self.part,
            int(told(face, self, "size")), told(face, self, "liveliness") / 100,
            square_of(face.reference.square) if face.reference else None,
            face.reference.strength / 100 if face.reference else 0,
        )  # fmt: skip


def told(face: OneFace, step: Faces, what: Literal["strength", "freedom", "liveliness", "size", "gaze"]) -> float:
    """What is set for a face alone, or else for all."""
    own = getattr(face, what)
    return float(getattr(step, what) if own is None else own)


def _moved(face: OneFace, to_source: Mapping, scale: float) -> tuple[Place, Place, Place]:
    """Eyes and mouth of a face in a picture, times ``scale``; mirrored, its eyes change places."""
    places = (to_source.place_from_source(Place(*spot)) for spot in (*face.eyes, face.mouth))
    first, second, mouth = (Place(scale * place.x, scale * place.y) for place in places)
    return (second, first, mouth) if to_source.mirrors else (first, second, mouth)


def _faces(count: int) -> str:
    return "1 face" if count == 1 else f"{count} faces"
