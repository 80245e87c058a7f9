"""DNG (Digital Negative 1.4): what lies beside the samples, so that any raw developer makes the same colours of them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.files.raw.camera import Camera, Multipliers

#: Code, type, count, value, whether only for the first page: as tifffile takes them.
Tag: TypeAlias = tuple[int, int, int, Any, bool]

_BYTE, _TEXT, _SHORT, _LONG, _RATIO, _SIGNED_RATIO = 1, 2, 3, 4, 5, 10
_D65 = 21


@dataclass(frozen=True)
class Negative:
    """What a DNG says of its samples: its camera, and what of it balances white."""

    camera: Camera
    white: Multipliers
    #: Maker and model, as people know the camera.
    name: str

    def tags(self, black: int = 0, full: int = 65_535) -> list[Tag]:
        """The tags of samples from ``black`` to ``full`` in the camera's own linear colours."""
        neutral = [1 / one for one in self.white]
        return [
            (50706, _BYTE, 4, bytes((1, 4, 0, 0)), True),
            (50707, _BYTE, 4, bytes((1, 1, 0, 0)), True),
            (50708, _TEXT, 0, self.name, True),
            (50714, _LONG, 1, black, True),
            (50717, _LONG, 1, full, True),
            (50721, _SIGNED_RATIO, 9, _ratios(self.camera.from_xyz.ravel()), True),
            (50728, _RATIO, 3, _ratios(np.array(neutral)), True),
            (50778, _SHORT, 1, _D65, True),
        ]

    def linear(self, wide: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
        """The camera's own colours of linear light in the wide space, H×W×3; 1 is full."""
        back = np.linalg.inv(self.camera.to_wide) / np.array(self.white)[:, None]
        return np.asarray((wide.reshape(-1, 3) @ back.T.astype(np.float32)).reshape(wide.shape), np.float32)


def mosaic_tags(pattern: tuple[int, int, int, int]) -> list[Tag]:
    """The tags of a mosaic of two by two colours (0, 1, 2 for red, green, blue), row by row."""
    return [
        (33421, _SHORT, 2, (2, 2), True),
        (33422, _BYTE, 4, bytes(pattern), True),
        (50710, _BYTE, 3, bytes((0, 1, 2)), True),
        (50711, _SHORT, 1, 1, True),
    ]


def _ratios(values: npt.NDArray[np.float64]) -> list[int]:
    return [part for value in values for part in (round(float(value) * 1_000_000), 1_000_000)]
