"""Functions of one value, kept as tables at equal steps: quick, and the same to the bit wherever a pixel stands."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt


def read_evenly(
    table: npt.NDArray[np.float32], values: npt.NDArray[np.float32], start: float = 0.0, end: float = 1.0
) -> npt.NDArray[np.float32]:
    """``table``, whose entries stand at equal steps from ``start`` to ``end``, read between them at ``values``, any shape.

    Before its start and behind its end it is held.

    >>> read_evenly(np.array([0, 2, 2], np.float32), np.array([-1, 0.25, 9], np.float32)).tolist()
    [0.0, 1.0, 2.0]
    """
    at = np.clip((values - np.float32(start)) * np.float32((len(table) - 1) / (end - start)), 0, len(table) - 1)
    low = np.minimum(at.astype(np.int32), len(table) - 2)
    first = table[low]
    return np.asarray(first + (at - low) * (table[low + 1] - first), np.float32)
