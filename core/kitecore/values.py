"""Types of values that the settings of many models share."""

from __future__ import annotations

from typing import Annotated, TypeAlias

from pydantic import Field

#: A strength or a share as people set it.
Percent: TypeAlias = Annotated[float, Field(ge=0, le=100)]

#: The name of an engine's folder.
EngineId: TypeAlias = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]*$", max_length=60)]
