"""The steps a take can have. A new step is one module here and one line in ``AnyStep``."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from kitecore.steps.base import Step
from kitecore.steps.deblur import Deblur
from kitecore.steps.denoise import Denoise
from kitecore.steps.enlarge import Enlarge
from kitecore.steps.frame import Frame
from kitecore.steps.repair import Repair

AnyStep = Annotated[Frame | Denoise | Repair | Deblur | Enlarge, Field(discriminator="kind")]

__all__ = ["AnyStep", "Deblur", "Denoise", "Enlarge", "Frame", "Repair", "Step"]
