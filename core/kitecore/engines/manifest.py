"""``engine.json``: what an engine is, what it was made from, and how good it was measured to be."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator


class Network(BaseModel):
    """The ONNX file of an engine and how it is fed.

    Input ``input``: N×3×H×W float32, RGB in ``range``. One output per factor, N×3×fH×fW. Values within ``reach``
    source pixels of the input's border are unreliable and are thrown away.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    file: str = Field(pattern=r"^[\w-]+\.onnx$")
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    input: str
    outputs: dict[int, str] = Field(description="Output name by factor.")
    range: tuple[float, float] = (0.0, 1.0)
    reach: int = Field(ge=0, le=512)
    operations_per_pixel: dict[int, float] = Field(description="Floating-point operations per source pixel, by factor.")


class Manifest(BaseModel):
    """What the engine shelf shows and the core needs to run an engine."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str = Field(pattern=r"^[a-z][a-z0-9-]*$", max_length=60)
    name: str = Field(max_length=40)
    order: int = Field(default=100, description="Place on the shelf.")
    purpose: str = Field(max_length=200)
    kind: Literal["enlarge"]
    network: Network | None = Field(default=None, description="None for plain resampling.")
    licence: str
    training: dict[str, Any] = Field(default_factory=dict, description="What it was trained on and how.")
    quality: dict[str, Any] = Field(default_factory=dict, description="As measured by lab/judge.")

    @model_validator(mode="after")
    def _factors_agree(self) -> Manifest:
        if self.network and set(self.network.outputs) != set(self.network.operations_per_pixel):
            raise ValueError("operations_per_pixel must name the same factors as outputs")
        return self

    @property
    def factors(self) -> list[int]:
        """Whole factors the engine has a head for, ascending; empty for plain resampling."""
        return sorted(self.network.outputs) if self.network else []
