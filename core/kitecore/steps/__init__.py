"""The steps a take can have. A new step is one module here and one word in ``AnyStep``.

They stand in the order in which they are offered, which is also the order in which those that finish follow each other.
"""

from __future__ import annotations

from typing import Annotated, get_args

from pydantic import Field

from kitecore.steps.base import Step, history
from kitecore.steps.colour import Colour
from kitecore.steps.curves import Curves
from kitecore.steps.deblur import Deblur
from kitecore.steps.denoise import Denoise
from kitecore.steps.detail import Detail
from kitecore.steps.develop import Develop
from kitecore.steps.enlarge import Enlarge
from kitecore.steps.exposure import Exposure
from kitecore.steps.faces import Faces
from kitecore.steps.frame import Frame
from kitecore.steps.give_back import GiveBack
from kitecore.steps.grain import Grain
from kitecore.steps.lens import Lens
from kitecore.steps.patch import OnePatch, Patch
from kitecore.steps.repair import Repair
from kitecore.steps.seamless import Seamless
from kitecore.steps.sharpen import Sharpen
from kitecore.steps.table import Table
from kitecore.steps.tone import Tone

AnyStep = Annotated[
    Develop
    | Frame
    | Exposure
    | Lens
    | Patch
    | Seamless
    | Denoise
    | Repair
    | Deblur
    | Enlarge
    | Faces
    | GiveBack
    | Detail
    | Tone
    | Curves
    | Colour
    | Table
    | Sharpen
    | Grain,
    Field(discriminator="kind"),
]

# A step that holds other steps can name them only once all are known.
for _step in (GiveBack, Patch):
    _step.model_rebuild(_types_namespace={"AnyStep": AnyStep})


def step_classes() -> list[type[Step]]:
    """The classes of ``AnyStep``, in its order."""
    return list(get_args(get_args(AnyStep)[0]))


__all__ = [
    "AnyStep", "Colour", "Curves", "Deblur", "Denoise", "Detail", "Develop", "Enlarge", "Exposure", "Faces", "Frame", "GiveBack",
    "Grain", "Lens", "OnePatch", "Patch", "Repair", "Seamless", "Sharpen", "Step", "Table", "Tone", "history", "step_classes",
]  # fmt: skip
