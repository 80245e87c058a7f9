"""Chains that are rehearsed: ways of restoring what the reading found, alone and in order, before each engine."""

from __future__ import annotations

from itertools import product

from kitecore.reading import Reading
from kitecore.rehearsal.wear import blur_of_reading
from kitecore.steps import AnyStep, Deblur, Denoise, Repair
from kitecore.steps.enlarge import Blend, ByFactor, Enlarge

#: From this quality on compression has left nothing worth repairing.
_SOUND_QUALITY = 96
#: σ of 255 below which noise, in px below which a blur, is not worth a try.
_LEAST_NOISE, _LEAST_BLUR = 1.0, 0.6

Restoring = tuple[AnyStep, ...]


def restorings(reading: Reading) -> list[Restoring]:
    """Every way of undoing some of the damage that was read, in the order opposite to that in which it came; first none."""
    quality, noise, blur = reading.compression.quality, reading.noise, blur_of_reading(reading)
    ways: list[list[AnyStep | None]] = []
    if quality is not None and quality < _SOUND_QUALITY:
        ways.append([None, Repair(strength=100, quality=quality)])
    if max(noise.luminance, noise.colour) >= _LEAST_NOISE:
        ways.append([None, Denoise(luminance=95, colour=95)])
    if blur is not None and blur.size() >= _LEAST_BLUR:
        ways.append([None, Deblur(blur=blur, strength=100)])
    return [tuple(step for step in way if step is not None) for way in product(*ways)]


def enlargings(reading: Reading, factor: int) -> list[Enlarge]:
    """What the reading's kind of picture might be enlarged by."""
    target = ByFactor(factor=factor)
    chosen = [Enlarge(engine="faithful", target=target), Enlarge(engine="salvage", target=target)]
    chosen.append(Enlarge(engine="faithful", blend=Blend(engine="salvage", weight=50), target=target))
    if reading.kind == "drawing":
        chosen.append(Enlarge(engine="drawn", target=target))
    return chosen


def weaker(steps: Restoring, share: float) -> Restoring:
    """The same steps, less strong."""
    return tuple(step.at(share) if isinstance(step, Repair | Denoise | Deblur) else step for step in steps)


def called(steps: Restoring) -> str:
    """A chain in a few words, as “repair 100, faithful”."""
    return ", ".join(_called(step) for step in steps) or "no step"


def _called(step: AnyStep) -> str:
    match step:
        case Enlarge():
            return f"{step.engine} with {step.blend.engine}" if step.blend else step.engine
        case Denoise():
            return f"denoise {step.luminance:.0f}"
        case Repair() | Deblur():
            return f"{step.kind} {step.strength:.0f}"
        case _:
            return step.kind
