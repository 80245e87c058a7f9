"""One curve of lightness made of three wishes: contrast, lighter or darker shadows, lighter or darker highlights."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.evenly import read_evenly

Values = npt.NDArray[np.float64]

#: How steep the S of full contrast is (the k of tanh), and how far shadows and highlights bend where they are opened most
#: and where they are closed most; beyond these the curve would fall somewhere.
_STEEPEST = 3.6
_OPENED, _CLOSED = 1.6, 0.85
_STEPS = 8192


@dataclass(frozen=True)
class ToneCurve:
    """All three from −1 to 1; at 0 nothing is done. 0 stays 0 and 1 stays 1; it rises everywhere and goes on straight beyond.

    Lightness is the cube root of luminance: equal steps of it look about equal.

    >>> ToneCurve(0, 0, 0)(np.array([0.0, 0.3, 1.7])).tolist()
    [0.0, 0.3, 1.7]
    """

    contrast: float
    shadows: float
    highlights: float

    def __call__(self, lightness: Values) -> Values:
        inside = np.clip(lightness, 0.0, 1.0)
        at_black, at_white = self._slopes()
        beyond = at_black * np.minimum(lightness, 0) + at_white * np.maximum(lightness - 1, 0)
        return np.asarray(self._bent(self._contrasted(inside)) + beyond)

    def gain(self, lightness: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
        """What linear light of a lightness is multiplied by, any shape; read from a table, to 1e-5."""
        most = 2.0
        grid = np.linspace(0, most, _STEPS + 1)
        grid[0] = grid[1] * 1e-3
        return read_evenly(((self(grid) / grid) ** 3).astype(np.float32), lightness, 0, most)

    def _contrasted(self, values: Values) -> Values:
        steep = _STEEPEST * abs(self.contrast)
        if steep < 1e-6:
            return values
        end = np.tanh(steep / 2)
        if self.contrast > 0:
            return np.asarray(0.5 + 0.5 * np.tanh(steep * (values - 0.5)) / end)
        return np.asarray(0.5 + np.arctanh((2 * values - 1) * end) / steep)

    def _bent(self, values: Values) -> Values:
        up, down = self._amounts()
        return np.asarray(values + up * values * (1 - values) ** 2 + down * values**2 * (1 - values))

    def _amounts(self) -> tuple[float, float]:
        return (
            self.shadows * (_OPENED if self.shadows > 0 else _CLOSED),
            self.highlights * (_CLOSED if self.highlights > 0 else _OPENED),
        )

    def _slopes(self) -> tuple[float, float]:
        """At black and at white."""
        steep = _STEEPEST * abs(self.contrast)
        own = 1.0
        if steep >= 1e-6:
            end = np.tanh(steep / 2)
            own = float(steep / 2 * (1 - end**2) / end)
            own = own if self.contrast > 0 else 1 / own
        up, down = self._amounts()
        return own * (1 + up), own * (1 - down)
