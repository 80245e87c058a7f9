"""``engine.json``: what an engine is, what it was made from, and how good it was measured to be."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field, model_validator

from kitecore.engines.kinds import KINDS, EngineKind, KindName, Sample
from kitecore.values import EngineId


class Network(BaseModel):
    """The ONNX file of an engine and how it is fed.

    Input ``input``: N×P×H×W float32 with the planes its kind has, RGB in ``range``. Input ``maps``, if it has one:
    N×M×H×W float32 with the maps its kind has. One output per factor, N×3×fH×fW; restoring engines have factor 1.
    Values within ``reach`` source pixels of the input's border are unreliable and are thrown away. H and W divide by
    ``stride``, and regions start at multiples of it.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    file: str = Field(pattern=r"^[\w-]+\.onnx$")
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    input: str
    maps: str | None = Field(default=None, description="Name of the input for maps; None if the network has none.")
    outputs: dict[int, str] = Field(description="Output name by factor.", min_length=1)
    range: tuple[float, float] = (0.0, 1.0)
    reach: int = Field(ge=0, le=512)
    stride: int = Field(default=1, ge=1, le=32)
    operations_per_pixel: dict[int, float] = Field(description="Floating-point operations per source pixel, by factor.")

    @model_validator(mode="after")
    def _is_consistent(self) -> Network:
        if set(self.outputs) != set(self.operations_per_pixel):
            raise ValueError("operations_per_pixel must name the same factors as outputs")
        if any(not 1 <= factor <= 8 for factor in self.outputs):
            raise ValueError("factors are whole numbers from 1 to 8")
        if self.range[0] >= self.range[1]:
            raise ValueError("range must go from a lower to a higher value")
        return self


class Manifest(BaseModel):
    """What the engine shelf shows and the core needs to run an engine."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: EngineId
    name: str = Field(max_length=40)
    order: int = Field(default=100, description="Place on the shelf.")
    purpose: str = Field(max_length=200)
    print: str = Field(default="", max_length=300, description="What it means for a print, in plain words.")
    kind: KindName
    network: Network | None = Field(default=None, description="None for plain resampling.")
    sample: Sample | None = Field(default=None, description="What the shelf shows it on; by kind unless given.")
    licence: str
    training: dict[str, Any] = Field(default_factory=dict, description="What it was trained on and how.")
    quality: dict[str, Any] = Field(default_factory=dict, description="As measured by lab/judge.")

    @model_validator(mode="after")
    def _suits_its_kind(self) -> Manifest:
        if self.network is None:
            if self.does.restores:
                raise ValueError("an engine that restores needs a network")
            return self
        if not self.does.restores and self.network.maps:
            raise ValueError("an engine that enlarges is given no maps")
        if self.does.restores and set(self.network.outputs) != {1}:
            raise ValueError("an engine that restores has the one factor 1")
        return self

    @property
    def does(self) -> EngineKind:
        """What engines of its kind are given."""
        return KINDS[self.kind]

    @property
    def sample_name(self) -> Sample:
        return self.sample or self.does.sample

    @property
    def factors(self) -> list[int]:
        """Whole factors the engine has a head for, ascending; empty for plain resampling."""
        return sorted(self.network.outputs) if self.network else []
