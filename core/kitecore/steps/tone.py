"""Tone: how light a finished picture is, from black over shadows, contrast and highlights to white."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal, Self, TypeAlias

import numpy as np
from pydantic import Field

from kitecore.colour.primaries import luminance, primaries_of
from kitecore.colour.spaces import Matrix
from kitecore.colour.transfer import TransferCurve, transfer_of
from kitecore.filters.tone_curve import ToneCurve
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.reading.tones import ToneReading
from kitecore.steps.base import Belongs, Framed, Step
from kitecore.steps.pointwise import PointwiseStage

#: Either way, nothing at 0.
Shift: TypeAlias = Annotated[float, Field(ge=-100, le=100)]
#: How far the points of black and white move at 100, in coded values.
_POINT = 0.25
#: About the power that takes coded values to lightness.
_CODED = 0.73


class Tone(Step):
    """Moves black and white in coded values, multiplies linear light by 2^``ev``, then bends the curve of lightness.

    The curve (:class:`~kitecore.filters.tone_curve.ToneCurve`) is that of the cube root of luminance; all channels are multiplied
    alike in linear light, so that colours keep hue and purity, and what is neutral stays so to the bit. Nothing is clipped.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "tone"
    purpose: ClassVar[str] = "Light, contrast, shadows and highlights"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["tone"] = "tone"
    ev: Annotated[float, Field(ge=-4, le=4, description="Stops; 1 is twice the light.")] = 0.0
    contrast: Annotated[Shift, Field(description="Tones further apart around the middle, or nearer to each other.")] = (
        0.0
    )
    highlights: Annotated[Shift, Field(description="Light tones lighter, or darker.")] = 0.0
    shadows: Annotated[Shift, Field(description="Dark tones lighter, or darker.")] = 0.0
    white: Annotated[Shift, Field(description="Above 0, lighter tones than now become white.")] = 0.0
    black: Annotated[Shift, Field(description="Below 0, tones that are lighter than now become black.")] = 0.0

    starts_from = ("picture",)

    def started(self, seen: ToneReading, place: tuple[float, float, float] | None = None) -> tuple[Self, list[str]]:
        reasons, found = [], {"ev": 0.0, "contrast": 0.0, "highlights": 0.0, "shadows": 0.0, "white": 0.0, "black": 0.0}
        if seen.lightest < 1 - _POINT:
            found["ev"] = min(4.0, -2.2 * math.log2(max(seen.lightest, 0.02)))
            reasons.append(f"the lightest tones reach {seen.lightest:.0%} of white only")
        elif seen.lightest < 0.97:
            found["white"] = min(100.0, 100 * (1 - seen.lightest) / _POINT)
            reasons.append(f"the lightest tones reach {seen.lightest:.0%} of white only")
        if seen.darkest > 0.03:
            found["black"] = -min(100.0, 100 * seen.darkest / _POINT)
            reasons.append(f"the darkest tones are at {seen.darkest:.0%} instead of black")
        # As black and white lie now, in lightness.
        low = seen.darkest**_CODED if found["black"] else 0.0
        span = max(0.1, (seen.lightest**_CODED if seen.lightest < 0.97 else 1.0) - low)
        middle = (seen.median - low) / span
        if not 0.3 <= middle <= 0.72:
            # Part of the way: many pictures are meant dark, or light.
            found["ev"] += max(-0.5, min(1.0, math.log2((0.3 if middle < 0.3 else 0.72) / max(middle, 0.05)) * 1.5))
            reasons.append(f"half of it is {'darker' if middle < 0.3 else 'lighter'} than {middle:.0%}")
        if seen.deep > 0.25:
            found["shadows"] = min(60.0, 120 * seen.deep)
            reasons.append(f"{seen.deep:.0%} lies in deep shadow")
        if seen.glaring > 0.08:
            found["highlights"] = -min(60.0, 300 * seen.glaring)
            reasons.append(f"{seen.glaring:.0%} is almost white")
        if seen.spread / span < 0.12:
            found["contrast"] = min(40.0, 300 * (0.12 - seen.spread / span) + 10)
            reasons.append("its middle tones lie close together")
        rounded = {name: round(min(value, 4.0), 2) if name == "ev" else round(value) for name, value in found.items()}
        return self.model_copy(update=rounded), reasons or ["its tones are well spread: nothing needs to be moved"]

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 120.0 * size.pixels

    def did(self) -> str:
        told = {
            "contrast": self.contrast, "highlights": self.highlights, "shadows": self.shadows,
            "white": self.white, "black": self.black,
        }  # fmt: skip
        parts = [f"{name} {value:+.3g}" for name, value in told.items() if value]
        if self.ev:
            parts.insert(0, f"light {self.ev:+.2g} EV")
        return f"tones changed: {', '.join(parts)}" if parts else ""

    def at(self, share: float) -> Self:
        names = ("ev", "contrast", "highlights", "shadows", "white", "black")
        return self.model_copy(update={name: getattr(self, name) * share for name in names})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, None)

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._staged(source, framed.profile)

    def _staged(self, source: Stage, profile: bytes | None) -> Stage:
        if not self.did():
            return source
        change = _Toned(self, transfer_of(profile), primaries_of(profile))
        return PointwiseStage(source, change)


class _Toned:
    def __init__(self, step: Tone, curve: TransferCurve, primaries: Matrix) -> None:
        self._curve, self._primaries = curve, primaries
        self._low = np.float32(-_POINT * step.black / 100)
        self._span = np.float32(1 - _POINT * step.white / 100) - self._low
        self._factor = np.float32(2.0**step.ev)
        self._tones = ToneCurve(step.contrast / 100, step.shadows / 100, step.highlights / 100)
        self._bends = bool(step.contrast or step.shadows or step.highlights)

    def __call__(self, colours: Pixels) -> Pixels:
        light = self._curve.light((colours - self._low) / self._span) * self._factor
        if self._bends:
            light *= self._tones.gain(np.cbrt(luminance(light, self._primaries)))
        return self._curve.coded(light)
