"""From the luma and chroma of a clip to the colours of a still.

What was coded for ordinary screens (BT.601, BT.709, BT.2020 without high dynamic range) keeps its coded values, which are shown
as sRGB's are (BT.2020: in a profile of its primaries). High dynamic range (BT.2100: PQ, HLG) becomes light with reference white,
203 cd/m², at three quarters of the coded range, what is lighter fitted below white by its strongest colour.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from kitecore.colour.below_white import below_white
from kitecore.colour.spaces import SpaceName, profile_of
from kitecore.colour.transfer import SRGB
from kitecore.files.clip.facts import Matrix, Transfer
from kitecore.pipeline.pixels import Pixels

#: Shares of red and blue in luma (BT.601-7, BT.709-6, BT.2020-2).
_SHARES: dict[Matrix, tuple[float, float]] = {"601": (0.299, 0.114), "709": (0.2126, 0.0722), "2020": (0.2627, 0.0593)}
#: BT.2408's reference white, and the light at which HLG's and PQ's signals end, cd/m².
_WHITE, _HLG_PEAK, _PQ_PEAK = 203.0, 1000.0, 10_000.0
#: Where reference white comes to lie in linear light, and from where on what is lighter is fitted below white.
_WHITE_AT, _SHOULDER = 0.55, 0.45


def coded_rgb(planes: npt.NDArray[np.uint16], matrix: Matrix, full_range: bool) -> Pixels:
    """Y, Cb and Cr, 3×H×W, 256 times their 8-bit values, as coded RGB, H×W×3, 0..1; values beyond are kept."""
    luma, blue_less, red_less = (plane.astype(np.float32) / np.float32(256) for plane in planes)
    if full_range:
        luma, chroma = luma / np.float32(255), np.float32(255)
    else:
        luma, chroma = (luma - np.float32(16)) / np.float32(219), np.float32(224)
    blue_less, red_less = ((plane - np.float32(128)) / chroma for plane in (blue_less, red_less))
    of_red, of_blue = _SHARES["709" if matrix == "rgb" else matrix]
    red = luma + np.float32(2 - 2 * of_red) * red_less
    blue = luma + np.float32(2 - 2 * of_blue) * blue_less
    green = (luma - np.float32(of_red) * red - np.float32(of_blue) * blue) / np.float32(1 - of_red - of_blue)
    return np.dstack([red, green, blue]).astype(np.float32)


def as_still(rgb: Pixels, transfer: Transfer) -> Pixels:
    """Coded RGB of a clip as that of a still in the profile of :func:`still_space`."""
    if transfer == "sdr":
        return rgb
    light = _light_of_pq(rgb) if transfer == "pq" else _light_of_hlg(rgb)
    fitted = below_white(light * np.float32(_WHITE_AT / _WHITE), _SHOULDER)
    # The profiles of stills have this curve.
    return SRGB.coded(np.clip(fitted, 0, 1))


def still_space(wide: bool) -> SpaceName:
    return "rec2020-rgb" if wide else "srgb"


def still_profile(wide: bool) -> bytes | None:
    """The ICC profile of stills: none for sRGB."""
    return profile_of(still_space(wide)) if wide else None


def _light_of_pq(rgb: Pixels) -> Pixels:
    """cd/m² of each colour (SMPTE ST 2084)."""
    root = np.clip(rgb, 0, 1) ** np.float32(1 / 78.84375)
    light = (np.maximum(root - np.float32(0.8359375), 0) / (np.float32(18.8515625) - np.float32(18.6875) * root)) ** (
        np.float32(1 / 0.1593017578125)
    )
    return np.asarray(_PQ_PEAK * light, np.float32)


def _light_of_hlg(rgb: Pixels) -> Pixels:
    """cd/m² of each colour on a screen of 1000 (ARIB STD-B67, BT.2100: gamma 1.2)."""
    signal = np.clip(rgb, 0, 1)
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    scene = np.where(signal <= 0.5, signal**2 / 3, (np.exp((signal - c) / a) + b) / 12)
    luminance = scene @ np.array([0.2627, 0.6780, 0.0593])
    return np.asarray(_HLG_PEAK * np.maximum(luminance, 1e-6)[..., None] ** 0.2 * scene, np.float32)
