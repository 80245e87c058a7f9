"""The steps a take can have. A new step is one module here and one line in ``AnyStep``."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from kitecore.steps.base import Step
from kitecore.steps.deblur import Deblur
from kitecore.steps.denoise import Denoise
from kitecore.steps.enlarge import Enlarge
from kitecore.steps.frame import Frame
from kitecore.steps.give_back import GiveBack
from kitecore.steps.grain import Grain
from kitecore.steps.repair import Repair
from kitecore.steps.sharpen import Sharpen

AnyStep = Annotated[
    Frame | Denoise | Repair | Deblur | Enlarge | GiveBack | Sharpen | Grain, Field(discriminator="kind")
]

__all__ = ["AnyStep", "Deblur", "Denoise", "Enlarge", "Frame", "GiveBack", "Grain", "Repair", "Sharpen", "Step"]
