"""What every step is: validated settings, its effect on size, the stage that computes it, and what is said of it.

Whatever the rest of the program wants to know of a step it asks here; nothing else lists kinds of steps.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass
from typing import ClassVar, Literal, NamedTuple, Self, TypeAlias

from pydantic import BaseModel, ConfigDict, Field, field_validator

from kitecore.engines import Engine, engine_named
from kitecore.engines.kinds import KindName
from kitecore.errors import EngineError
from kitecore.faces import FaceFound
from kitecore.masks.mask import Mask
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.mapping import Affine, Mapping
from kitecore.pipeline.stage import Stage
from kitecore.reading.tones import ToneReading

#: Where on the line a new step goes: a camera raw is developed before anything else; a frame is drawn on the source; what
#: restores works on the pixels as they were taken; then comes what changes the size; what finishes works at the output's.
Belongs: TypeAlias = Literal["raw", "frame", "source", "size", "finish"]

#: How far a region rendered alone may be from the same region of the full render: without networks, and with.
PLAIN_ERROR, NETWORK_ERROR = 1 / 65535, 1 / 255


class EngineUse(NamedTuple):
    """An engine that a step runs, by what it does and its id."""

    kind: KindName
    name: str

    def engine(self) -> Engine:
        """The engine itself. Raises EngineError if it is not on the shelf."""
        return engine_named(self.name, self.kind)

    def called(self) -> str:
        """Its name as people know it; its id if it is not on the shelf any more."""
        try:
            return self.engine().manifest.name
        except EngineError:
            return self.name


class NetworkRun(NamedTuple):
    """A network that goes over the whole of a picture: an engine, which of its heads, and the picture's size."""

    engine: Engine
    factor: int
    size: Size
    passes: int = 1

    @property
    def reach(self) -> int:
        return self.engine.reach

    @property
    def operations_per_pixel(self) -> float:
        return self.engine.operations_per_pixel(self.factor)

    @property
    def operations(self) -> float:
        return self.operations_per_pixel * self.size.pixels * self.passes

    @property
    def bytes_per_pixel(self) -> float:
        return self.engine.bytes_per_pixel(self.factor)


@dataclass(frozen=True)
class Framed:
    """The picture after its frame and before anything else.

    ``stage`` may be a reduced version of one of size ``full``; ``to_source`` takes pixels of the full one to those of the
    upright source.
    """

    stage: Stage
    full: Size
    to_source: Mapping
    #: Size of the upright source.
    source: Size
    #: The ICC profile of its colours; None: sRGB.
    profile: bytes | None = None


class Step(BaseModel, ABC):
    """One operation of a take. Subclasses set ``kind`` to a literal and are registered in :mod:`kitecore.steps`.

    ``revision`` is raised whenever the same settings begin to give different pixels, so that caches forget.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    revision: ClassVar[int] = 1
    #: What people call it, and what it is for, in a line.
    title: ClassVar[str]
    purpose: ClassVar[str]
    belongs: ClassVar[Belongs]
    takes_mask: ClassVar[bool] = True
    #: Settings that came later: at their defaults they are no part of a chain, so that what was kept before is found.
    later: ClassVar[frozenset[str]] = frozenset()
    #: Whether it is there to change the size.
    scales: ClassVar[bool] = False
    #: Whether it must be told what was read in a picture to be used on it.
    asks_reading: ClassVar[bool] = False
    #: What the engines it runs do; None if it runs none.
    engine_kind: ClassVar[KindName | None] = None

    kind: str
    on: bool = Field(default=True, description="Whether the step is done; off, the picture passes through unchanged.")
    mask: Mask | None = Field(default=None, description="Where the step works; null: everywhere.")

    @field_validator("mask")
    @classmethod
    def _mask_only_where_taken(cls, mask: Mask | None) -> Mask | None:
        if mask is not None and not cls.takes_mask:
            raise ValueError(f"a {cls.title} takes no mask")
        return mask

    # --- what it computes

    @abstractmethod
    def result_size(self, size: Size) -> Size:
        """Size of the result for an input of ``size``. Raises TakeError if it cannot be done."""

    @abstractmethod
    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        """The stage that computes this step.

        ``source`` may be a reduced version of an input whose true size is ``full``; ``result`` is the size wanted,
        which for an unreduced source is ``result_size(full)``.
        """

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        """As :meth:`stage`, for steps that look at the framed original as well."""
        return self.stage(source, full, result)

    def weights_stage(self, source: Stage, full: Size) -> Stage | None:
        """How strongly the step works where by itself, one band, 0..1, over its input; None: everywhere alike."""
        return None

    @property
    def slow(self) -> bool:
        """Whether its pixels take so long to compute that they are worth keeping."""
        return False

    def slow_part(self) -> Step:
        """Of a slow step, all that what is slow of it depends on; what was computed for one serves all that share it."""
        # As it is everywhere: a mask that is being painted asks for no network.
        return self.model_copy(update={"mask": None})

    def slow_stage(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        """The stage of what is slow of a slow step, worth keeping; arguments as for :meth:`stage_beside`."""
        return self.stage_beside(source, full, result, framed)

    def stage_upon(self, slow: Stage, source: Stage, full: Size) -> Stage:
        """The stage of the whole step, from that of what is slow of it and its input."""
        return slow

    @property
    def tolerance(self) -> float:
        """How far a region rendered alone may be from the same region of the full render, of 1."""
        networks = any(use.engine().manifest.network for use in self.engines_used())
        return NETWORK_ERROR if networks else PLAIN_ERROR

    def networks(self, size: Size, framed: Size) -> list[NetworkRun]:
        """The networks that run for an input of ``size``, of a picture that was ``framed`` to that size.

        Raises EngineError if an engine is not on the shelf.
        """
        return []

    def work(self, size: Size) -> float:
        """Arithmetic beside networks for an input of ``size``, in floating-point operations; for estimates of time."""
        return 50.0 * self.result_size(size).pixels

    def work_beside(self, size: Size, framed: Size) -> float:
        """As :meth:`work`, for steps that look at the framed original, of the size ``framed``, as well."""
        return self.work(size)

    # --- where things lie

    def mapping(self, size: Size) -> Mapping:
        """Where in an input of ``size`` the pixels of the result come from."""
        result = self.result_size(size)
        return Mapping((Affine(a=size.width / result.width, e=size.height / result.height),))

    # --- other pictures, other strengths

    def at(self, share: float) -> Self:
        """The step doing only ``share`` (0..1) of what it does; one without a strength stays as it is."""
        return self

    def portable(self) -> Self | None:
        """The step without what belongs to its picture, to be used on others; None if nothing is left of it."""
        return self

    def suited_to(self, quality: int | None, faces: Sequence[FaceFound] = ()) -> Self:
        """The step told of a picture: the JPEG quality its file was written at, if any, and its faces. What it was told stays."""
        return self if self.mask is None else self.model_copy(update={"mask": self.mask.with_faces(faces)})

    @classmethod
    def begun(cls) -> Self:
        """The step with its usual settings, as it is put on a line."""
        return cls()  # type: ignore[call-arg]  # every subclass gives its kind

    @classmethod
    def showing(cls, engine: str) -> Step:
        """The step that shows best what an engine of its :attr:`engine_kind` does, for the shelf."""
        raise NotImplementedError(f"{cls.title} runs no engine")

    # --- what a picture suggests

    #: What it can set for itself from a picture: "picture" from all of it, "grey" from a place that should be grey.
    starts_from: ClassVar[tuple[Literal["picture", "grey"], ...]] = ()

    def started(self, seen: ToneReading, place: tuple[float, float, float] | None = None) -> tuple[Self, list[str]]:
        """The step set by what was read in its input, or at a ``place`` of it (linear light), and why, a sentence each."""
        return self, []

    # --- what is said of it

    def engines_used(self) -> list[EngineUse]:
        """The engines the step runs, whether they are on the shelf or not."""
        return []

    def identity(self) -> str:
        """Whatever besides the settings decides the pixels (an engine's weights, say); part of the chain hash.

        Raises EngineError if an engine is not on the shelf.
        """
        return "+".join(use.engine().fingerprint for use in self.engines_used())

    @abstractmethod
    def did(self) -> str:
        """What the step did, in plain words that a client understands, without a full stop; empty if it did nothing."""

    def sentence(self) -> str:
        """What the step did and where, as :meth:`did` has it."""
        did = self.did()
        return f"{did}, {self.mask.where()}" if did and self.mask is not None else did


def history(steps: list[Step]) -> list[str]:
    """What was done by steps, one sentence each, in order; steps that are off or did nothing are left out."""
    return [sentence for step in steps if step.on and (sentence := step.sentence())]
