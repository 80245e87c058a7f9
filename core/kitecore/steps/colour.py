"""Colour: white balance, purity, single hues and the tint of dark, middle and light tones."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from kitecore.colour.oklab import cones_of, from_oklab, to_oklab
from kitecore.colour.primaries import luminance, neutral_kept, primaries_of
from kitecore.colour.spaces import Matrix
from kitecore.colour.transfer import TransferCurve, transfer_of
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.reading.tones import ToneReading
from kitecore.steps.base import Belongs, Framed, Step
from kitecore.steps.pointwise import PointwiseStage
from kitecore.steps.tone import Shift
from kitecore.values import Percent

#: Stops between red and blue at a temperature of 100, and between green and both at a tint of 100.
_BALANCE_EV = 2.0
#: Chroma below which vibrance does most, and below which hues are not told apart.
_DULL, _GREY = 0.12, 0.02
#: What full strength of a tint adds, in Oklab's a and b.
_TINT = 0.12


class HueAnchor(BaseModel):
    """Colours around one hue of Oklab (red of sRGB is 29, yellow 110, green 142, blue 264), less and less towards ``reach``."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    hue: Annotated[float, Field(ge=0, lt=360, description="Degrees.")]
    reach: Annotated[
        float, Field(ge=10, le=180, description="Degrees to either side at which nothing changes any more.")
    ] = 40.0
    turn: Annotated[float, Field(ge=-90, le=90, description="Degrees by which the hue itself is turned.")] = 0.0
    saturation: Shift = 0.0
    lightness: Shift = 0.0


class Tint(BaseModel):
    """A hue of Oklab that tones are drawn towards."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    hue: Annotated[float, Field(ge=0, lt=360, description="Degrees.")] = 60.0
    amount: Percent = 0.0


class Colour(Step):
    """White balance in linear light, all else in Oklab, where lightness stays; nothing is clipped.

    Temperature and tint multiply the channels by powers of two and leave the luminance of grey. Vibrance lifts dull colours more
    than pure ones. Of hues and purity, what is neutral stays so to the bit. Grey pictures stay as they are.
    """

    revision: ClassVar[int] = 1
    title: ClassVar[str] = "colour"
    purpose: ClassVar[str] = "White balance, purity, single hues, tinted tones"
    belongs: ClassVar[Belongs] = "finish"

    kind: Literal["colour"] = "colour"
    temperature: Annotated[Shift, Field(description="Above 0 warmer, below 0 cooler.")] = 0.0
    tint: Annotated[Shift, Field(description="Above 0 towards magenta, below 0 towards green.")] = 0.0
    saturation: Shift = 0.0
    vibrance: Shift = 0.0
    hues: Annotated[list[HueAnchor], Field(max_length=8)] = []
    shadows: Tint = Tint()
    middle: Tint = Tint()
    lights: Tint = Tint()

    starts_from = ("picture", "grey")

    def started(self, seen: ToneReading, place: tuple[float, float, float] | None = None) -> tuple[Self, list[str]]:
        found = balance_that_greys(place or seen.cast)
        temperature, tint = (round(value, 1) for value in found)
        moved = self.model_copy(update={"temperature": temperature, "tint": tint})
        if place is not None:
            red, green, blue = (value / max(place[1], 1e-5) for value in place)
            return moved, [f"the place has {red:.2f} : {green:.2f} : {blue:.2f} of red, green and blue light"]
        if max(abs(temperature), abs(tint)) < 2:
            return moved, ["its light surfaces are neutral together: hardly anything needs to be moved"]
        leaning = (
            ("blue" if temperature > 0 else "red")
            if abs(temperature) > abs(tint)
            else ("green" if tint > 0 else "magenta")
        )
        return moved, [f"its light surfaces together lean to {leaning}; a place that should be grey tells more"]

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 260.0 * size.pixels

    def did(self) -> str:
        parts = []
        if self.temperature or self.tint:
            parts.append(f"white balance moved (temperature {self.temperature:+.3g}, tint {self.tint:+.3g})")
        parts += [
            f"{name} {value:+.3g}"
            for name, value in (("saturation", self.saturation), ("vibrance", self.vibrance))
            if value
        ]
        changed = [one for one in self.hues if one.turn or one.saturation or one.lightness]
        if changed:
            parts.append(f"{len(changed)} {'hue' if len(changed) == 1 else 'hues'} changed")
        tinted = [name for name, one in self._tints() if one.amount]
        if tinted:
            parts.append(f"tints in {', '.join(tinted)}")
        return f"colours changed: {', '.join(parts)}" if parts else ""

    def at(self, share: float) -> Self:
        hues = [
            one.model_copy(update={name: getattr(one, name) * share for name in ("turn", "saturation", "lightness")})
            for one in self.hues
        ]
        tints = {name: one.model_copy(update={"amount": one.amount * share}) for name, one in self._tints()}
        plain = {name: getattr(self, name) * share for name in ("temperature", "tint", "saturation", "vibrance")}
        return self.model_copy(update={**plain, "hues": hues, **tints})

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        return self._staged(source, None)

    def stage_beside(self, source: Stage, full: Size, result: Size, framed: Framed) -> Stage:
        return self._staged(source, framed.profile)

    def _staged(self, source: Stage, profile: bytes | None) -> Stage:
        if source.bands < 3 or not self.did():
            return source
        return PointwiseStage(source, _Coloured(self, transfer_of(profile), primaries_of(profile)))

    def _tints(self) -> list[tuple[str, Tint]]:
        return [("shadows", self.shadows), ("middle", self.middle), ("lights", self.lights)]


def balance_of(temperature: float, tint: float) -> tuple[float, float, float]:
    """What red, green and blue light are multiplied by, before the luminance of grey is kept."""
    warm, magenta = _BALANCE_EV * temperature / 100, _BALANCE_EV * tint / 100
    return 2 ** (warm / 2 + magenta / 3), 2 ** (-2 * magenta / 3), 2 ** (-warm / 2 + magenta / 3)


def balance_that_greys(light: Sequence[float]) -> tuple[float, float]:
    """Temperature and tint that make red, green and blue light of a place equal; held to what can be set.

    >>> red, green, blue = balance_of(*balance_that_greys([0.5, 0.4, 0.3]))
    >>> round(0.5 * red, 6) == round(0.4 * green, 6) == round(0.3 * blue, 6)
    True
    """
    red, green, blue = (math.log2(max(float(value), 1e-5)) for value in light)
    warm, magenta = blue - red, (2 * green - red - blue) / 2
    return tuple(max(-100.0, min(100.0, 100 * value / _BALANCE_EV)) for value in (warm, magenta))  # type: ignore[return-value]


class _Coloured:
    def __init__(self, step: Colour, curve: TransferCurve, primaries: Matrix) -> None:
        self._step, self._curve = step, curve
        self._cones = cones_of(primaries)
        balance = np.array(balance_of(step.temperature, step.tint), np.float32).reshape(1, 1, 3)
        self._balance = balance / luminance(balance, primaries)
        self._balanced = bool(step.temperature or step.tint)
        self._tints = [(one, weights) for (_, one), weights in zip(step._tints(), _WEIGHTS, strict=True) if one.amount]
        self._perceived = bool(step.saturation or step.vibrance or step.hues or self._tints)

    def __call__(self, colours: Pixels) -> Pixels:
        light = self._curve.light(colours)
        if self._balanced:
            light *= self._balance
        if not self._perceived:
            return self._curve.coded(light)
        lab = to_oklab(light, self._cones)
        self._purified(lab)
        changed = light
        if not self._tints:
            changed = neutral_kept(from_oklab(lab, self._cones), light)
        else:
            self._tinted(lab)
            changed = from_oklab(lab, self._cones)
        return self._curve.coded(changed)

    def _purified(self, lab: Pixels) -> None:
        """Purity and single hues, in place."""
        step = self._step
        chroma = np.hypot(lab[..., 1], lab[..., 2])
        factor = np.full_like(chroma, 1 + step.saturation / 100)
        if step.vibrance:
            factor *= 1 + np.float32(step.vibrance / 100) * (_DULL / (chroma + np.float32(_DULL)))
        if step.hues:
            self._hues_changed(lab, chroma, factor)
        np.maximum(factor, 0, out=factor)
        lab[..., 1:] *= factor[..., None]

    def _hues_changed(self, lab: Pixels, chroma: Pixels, factor: Pixels) -> None:
        angle = np.degrees(np.arctan2(lab[..., 2], lab[..., 1]))
        coloured = chroma / (chroma + np.float32(_GREY))
        turn, lighter = np.zeros_like(chroma), np.zeros_like(chroma)
        for anchor in self._step.hues:
            away = np.abs((angle - np.float32(anchor.hue) + 180) % 360 - 180)
            weight = np.cos(np.minimum(away / np.float32(anchor.reach), 1) * np.float32(math.pi / 2)) ** 2 * coloured
            turn += weight * np.float32(anchor.turn)
            factor *= 1 + weight * np.float32(anchor.saturation / 100)
            lighter += weight * np.float32(anchor.lightness / 100)
        turn = np.radians(turn)
        cos, sin = np.cos(turn), np.sin(turn)
        lab[..., 1], lab[..., 2] = lab[..., 1] * cos - lab[..., 2] * sin, lab[..., 1] * sin + lab[..., 2] * cos
        lab[..., 0] *= 1 + np.float32(0.4) * lighter

    def _tinted(self, lab: Pixels) -> None:
        tone = np.clip(lab[..., 0], 0, 1)
        # Black and white stay clean.
        between = 4 * tone * (1 - tone)
        for one, weights in self._tints:
            amount = np.float32(_TINT * one.amount / 100) * between * weights(tone)
            lab[..., 1] += amount * np.float32(math.cos(math.radians(one.hue)))
            lab[..., 2] += amount * np.float32(math.sin(math.radians(one.hue)))


#: How far tones belong to shadows, the middle and lights; together 1.
_WEIGHTS: tuple[Callable[[Pixels], Pixels], ...] = (
    lambda tone: (1 - tone) ** 2,
    lambda tone: 2 * tone * (1 - tone),
    lambda tone: tone**2,
)
