"""The steps a take can have. A new step is one module here and one line in ``AnyStep``."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from kitecore.steps.base import Step
from kitecore.steps.enlarge import Enlarge
from kitecore.steps.frame import Frame

AnyStep = Annotated[Frame | Enlarge, Field(discriminator="kind")]

__all__ = ["AnyStep", "Enlarge", "Frame", "Step"]
