"""Light beyond white brought below it."""

from __future__ import annotations

import numpy as np

from kitecore.pipeline.pixels import Pixels


def below_white(light: Pixels, shoulder: float) -> Pixels:
    """Linear light, H×W×3, whose strongest colour is beyond the ``shoulder``, 0..1, made less, all colours alike: hues stay.

    What is below the shoulder stays as it is; nothing that comes back is above 1.
    """
    strongest = light.max(axis=2, keepdims=True)
    start, room = np.float32(shoulder), np.float32(1 - shoulder)
    beyond = np.maximum(strongest - start, 0)
    fitted = start + room * (1 - np.exp(-beyond / room))
    return np.asarray(np.where(beyond > 0, light * (fitted / np.maximum(strongest, start)), light), np.float32)
