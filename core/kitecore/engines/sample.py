"""What an engine does to a small sample, for the shelf: computed, not kept."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import numpy as np
import pyvips

from kitecore.colour import screen_image
from kitecore.engines.engine import Engine
from kitecore.engines.manifest import Manifest
from kitecore.render import render_array
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Repair
from kitecore.steps.deblur import FocusBlur
from kitecore.steps.enlarge import ByFactor

SAMPLES = Path(__file__).parent / "samples"
_FACTOR = 4
#: The blur of the sample “soft”, in pixels.
_SOFT_RADIUS = 2.5


def _step(manifest: Manifest, engine: str) -> AnyStep:
    match manifest.kind:
        case "denoise":
            return Denoise(engine=engine, luminance=100, colour=100)
        case "repair":
            return Repair(engine=engine, strength=100)
        case "deblur":
            return Deblur(engine=engine, blur=FocusBlur(radius=_SOFT_RADIUS))
        case _:
            return Enlarge(engine=engine, target=ByFactor(factor=min(_FACTOR, max(manifest.factors, default=_FACTOR))))


def engine_sample(engine: Engine, side: Literal["before", "after"]) -> bytes:
    """A WebP of the sample the engine's manifest names.

    Before: as it is, or plainly enlarged to the same size. After: what the engine makes of it.
    """
    manifest = engine.manifest
    image = pyvips.Image.new_from_file(str(SAMPLES / f"{manifest.sample_name}.png"), access="sequential")
    samples = np.asarray(image.numpy())
    steps = [_step(manifest, manifest.id)]
    if side == "before":
        steps = [_step(manifest, "plain")] if manifest.kind == "enlarge" else []
    content: bytes = screen_image(render_array(samples, steps), None).webpsave_buffer(Q=92, keep="none")
    return content
