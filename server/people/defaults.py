"""What a person usually wants: where new takes and deliveries start from."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from kitecore.delivery.spec import OutputSpec
from kitecore.steps.enlarge import LARGEST_FACTOR, LONGEST_SIDE, SMALLEST_FACTOR
from kitecore.values import EngineId

#: What a name may be made of; see deliveries.names.
NAME_TEMPLATE = "{picture} {width}x{height}"


class Defaults(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    factor: Annotated[float, Field(ge=SMALLEST_FACTOR, le=LARGEST_FACTOR, description="Where no print is ordered.")] = 2
    engine: EngineId = "faithful"
    largest_side: Annotated[int, Field(ge=100, le=LONGEST_SIDE, description="New takes are no longer, px.")] = (
        LONGEST_SIDE
    )
    ppi: Annotated[float, Field(ge=10, le=2400, description="Where neither order nor file tells.")] = 300
    spec: Annotated[OutputSpec, Field(description="How files are written; its ppi is not used.")] = OutputSpec()
    name: Annotated[str, Field(min_length=1, max_length=200, description="Template of file names.")] = NAME_TEMPLATE
    ahead: Annotated[
        bool, Field(description="Whether what may be looked at next is computed while nothing else is.")
    ] = True
    suggest: Annotated[bool, Field(description="Whether a start is suggested from the reading.")] = True
