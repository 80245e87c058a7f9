"""How far the values of a floating-point file go beyond black and white."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from kitecore.colour.transfer import transfer_of
from kitecore.pipeline.pixels import Samples, colours_of

#: Rows looked at together.
_ROWS = 512


def facts_of_range(notes: list[str], samples: Samples, profile: bytes | None) -> dict[str, Any]:
    """What :class:`~kitecore.files.source.Facts` says of it: ``lowest``, ``highest``, ``white_ev``, and the notes, with one more
    where values lie beyond. Values that are no numbers are left out.
    """
    lowest, highest = math.inf, -math.inf
    for top in range(0, len(samples), _ROWS):
        colours = colours_of(samples[top : top + _ROWS])
        known = colours[np.isfinite(colours)]
        if known.size:
            lowest, highest = min(lowest, float(known.min())), max(highest, float(known.max()))
    if lowest > highest:
        return {}
    found: dict[str, Any] = {"lowest": lowest, "highest": highest}
    if lowest >= 0 and highest <= 1:
        return found
    # White as it is once the least value is black, as far as the step exposure can bring it in.
    black = max(-1.0, min(lowest, 0.0))
    white = (highest - black) / (1 - black)
    light = float(transfer_of(profile).light(np.array(white, np.float32)))
    note = (
        f"Its values go from {lowest:.3g} to {highest:.3g}, where 0 is black and 1 is white. What lies beyond is kept by the "
        "steps and in a 32-bit float TIFF; every other file cuts it off. The step exposure brings it in."
    )
    return found | {"white_ev": -math.log2(light) if light > 1 else None, "notes": [*notes, note]}
