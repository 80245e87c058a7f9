"""What an engine does to a small sample, for the shelf: computed, not kept."""

from __future__ import annotations

from typing import Literal

import numpy as np
import pyvips

from kitecore.colour.screen import screen_image
from kitecore.engines import SHIPPED
from kitecore.engines.engine import Engine
from kitecore.steps import step_classes
from kitecore.takes.render import render_array

SAMPLES = SHIPPED / "samples"


def engine_sample(engine: Engine, side: Literal["before", "after"]) -> bytes:
    """A WebP of the sample the engine's manifest names.

    Before: as it is, or plainly enlarged to the same size. After: what the engine makes of it.
    """
    manifest = engine.manifest
    image = pyvips.Image.new_from_file(str(SAMPLES / f"{manifest.sample_name}.png"), access="sequential")
    samples = np.asarray(image.numpy())
    shown = next(step for step in step_classes() if step.engine_kind == manifest.kind).showing(manifest.id)
    steps = [shown]
    if side == "before":
        steps = [shown.model_copy(update={"engine": "plain"})] if shown.scales else []
    content: bytes = screen_image(render_array(samples, steps), None).webpsave_buffer(Q=92, keep="none")
    return content
