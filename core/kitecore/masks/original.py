"""What masks are laid on and look at: the framed original, at the size of the picture that is masked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.stage import Stage

Plane: TypeAlias = npt.NDArray[np.float32]


@dataclass(frozen=True)
class Original:
    """``stage`` is the framed original at the size of the masked picture: what other steps do to tones does not move a mask.

    ``back`` takes the picture's pixels to those of the upright source, which has the size ``source``; ``profile`` is the ICC
    profile of its colours (None: sRGB).
    """

    stage: Stage
    back: Mapping
    source: Size
    profile: bytes | None = None

    @property
    def scale(self) -> float:
        """Source pixels for one of the picture."""
        return self.back.scale

    def places(self, region: Region) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
        """Where in the source the middles of a region's pixels lie: x and y, H×W each."""
        x = np.arange(region.x, region.right)[None] + 0.5
        y = np.arange(region.y, region.bottom)[:, None] + 0.5
        return self.back.to_source(*np.broadcast_arrays(x, y))
