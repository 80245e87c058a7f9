"""The suggested start: steps chosen from the reading, each with its reason in a sentence and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass, field

from pydantic import BaseModel, Field

from kitecore.reading import Reading
from kitecore.steps import AnyStep, Deblur, Denoise, Develop, Enlarge, Frame, Repair
from kitecore.steps.deblur import Blur, FocusBlur, MotionBlur, SoftBlur
from kitecore.steps.enlarge import LARGEST_FACTOR, SMALLEST_FACTOR, Blend, ByFactor, Target

#: Below this confidence a choice is only worth a comparison, and says so.
SURE = 0.6
#: From this confidence on a blur is undone in full.
SURE_OF_BLUR = 0.8
#: σ of 255 below which noise is left alone.
_LEAST_LUMINANCE, _LEAST_COLOUR = 1.6, 1.3
#: Noise of a sensor has colour in it. What has none and is weaker than this is as likely fine texture, or film grain
#: that belongs to the picture.
_MAY_BE_TEXTURE = 6.0
#: From this quality on compression has left nothing worth repairing.
_SOUND_QUALITY = 92
#: Blurs below this many pixels are those of any lens.
_LEAST_BLUR = 0.7
#: Movements shorter than this are read into lattices and wood grain as well.
_LEAST_MOVEMENT = 4.0
#: A file compressed below this quality after it had become noisy or soft is worn: its blur cannot be undone any more.
_WORN_QUALITY = 70
#: A file compressed below this quality gains from Salvage, though nothing else is wrong with it (test_suggestion).
_PRESSED_QUALITY = 60
#: Compression flattens photographs; what it left is taken for a drawing only if that is as sure as this.
_SURE_DRAWING = 0.8


class Choice(BaseModel):
    """Why a step is there, or is not."""

    step: int | None = Field(description="Its place in the take, from 0; null for one that was left out.")
    kind: str
    reason: str
    confidence: float = Field(description="0..1")
    uncertain: bool = Field(description="Whether to compare with and without it before trusting it.")


class Suggestion(BaseModel):
    """A take to start from. As JSON it serves as a take as it stands."""

    steps: list[AnyStep]
    choices: list[Choice]


@dataclass
class _Draft:
    steps: list[AnyStep] = field(default_factory=list)
    choices: list[Choice] = field(default_factory=list)

    def take(self, step: AnyStep, reason: str, confidence: float) -> None:
        self.steps.append(step)
        self._note(len(self.steps) - 1, step.kind, reason, confidence)

    def leave_out(self, kind: str, reason: str, confidence: float) -> None:
        self._note(None, kind, reason, confidence)

    def _note(self, step: int | None, kind: str, reason: str, confidence: float) -> None:
        choice = Choice(
            step=step, kind=kind, reason=reason, confidence=round(confidence, 2), uncertain=confidence < SURE
        )
        self.choices.append(choice)


def suggest(reading: Reading, target: Target, frame: Frame | None = None) -> Suggestion:
    """Steps for a picture of this reading that is wanted at ``target``, in the order they are best done.

    Damage is undone in the order opposite to that in which it came: compression, then noise, then blur; enlarging is
    last. What the reading is too unsure of is left out, or taken with a reduced strength, and marked as uncertain.
    """
    draft = _Draft()
    if reading.raw:
        draft.steps.append(Develop())
    if frame is not None:
        draft.steps.append(frame)
    _repair(draft, reading)
    target, shrink = _true_size(draft, reading, target)
    _denoise(draft, reading)
    _deblur(draft, reading, shrink)
    _enlarge(draft, reading, target)
    return Suggestion(steps=draft.steps, choices=draft.choices)


def _worn(reading: Reading) -> bool:
    """Whether a file lost detail to noise or blur first and to compression after."""
    quality = reading.compression.quality
    damaged = reading.noise.luminance > 2 or reading.blur.kind in ("soft", "focus")
    return quality is not None and quality < _WORN_QUALITY and damaged


def _pressed(reading: Reading) -> bool:
    """Whether compression alone has worn a file."""
    quality = reading.compression.quality
    return quality is not None and quality < _PRESSED_QUALITY


def _repair(draft: _Draft, reading: Reading) -> None:
    found = reading.compression
    if found.quality is None or found.quality >= _SOUND_QUALITY:
        draft.leave_out(
            "repair",
            "No repair: there is no trace of compression."
            if found.quality is None
            else f"No repair: at a JPEG quality of {found.quality} nothing is left that could be seen.",
            found.confidence,
        )
        return
    strength = 100.0 if found.quality < 80 else 80.0
    draft.take(
        Repair(strength=strength, quality=found.quality),
        f"Repair, at {strength:.0f} of 100: the file was compressed as a JPEG of quality {found.quality}, which leaves traces.",
        found.confidence,
    )


def _true_size(draft: _Draft, reading: Reading, target: Target) -> tuple[Target, float]:
    """The target told from the size the picture truly has, and how much it is shrunk to get there (1: not at all)."""
    factor = reading.enlarged_by
    if factor <= 1.2 or reading.enlarged_by_confidence < SURE:
        return target, 1.0
    shrink = 1 / min(factor, 1 / SMALLEST_FACTOR)
    again = target
    if isinstance(target, ByFactor):
        again = ByFactor(factor=min(LARGEST_FACTOR, target.factor / shrink))
    draft.take(
        Enlarge(engine="plain", target=ByFactor(factor=shrink)),
        f"Reduced to {100 * shrink:.0f} % first: the file seems to have been enlarged {factor:g} times before, "
        "and an engine does better from the pixels there truly are.",
        reading.enlarged_by_confidence,
    )
    return again, shrink


def _denoise(draft: _Draft, reading: Reading) -> None:
    noise = reading.noise
    measured = f"luminance noise is σ {noise.luminance:.1f} and colour noise σ {noise.colour:.1f} of 255"
    if noise.luminance < _LEAST_LUMINANCE and noise.colour < _LEAST_COLOUR:
        draft.leave_out("denoise", f"No denoise: {measured}, too little to be seen.", noise.confidence)
        return
    if not reading.raw and noise.colour < _LEAST_COLOUR and noise.luminance < _MAY_BE_TEXTURE:
        draft.leave_out(
            "denoise",
            f"No denoise: {measured}. Without colour in it, it is as likely fine texture or film grain; "
            "add the step and compare if it disturbs.",
            0.5,
        )
        return
    luminance, colour = _strength(noise.luminance, _LEAST_LUMINANCE), _strength(2 * noise.colour, _LEAST_COLOUR)
    draft.take(
        Denoise(luminance=luminance, colour=colour),
        f"Denoise, luminance {luminance:.0f} and colour {colour:.0f}: {measured}.",
        noise.confidence,
    )


def _strength(sigma: float, least: float) -> float:
    """Share of noise of σ ``sigma`` to be taken away: a little is left where there is little."""
    if sigma < least:
        return 0.0
    return 50.0 if sigma < 4 else 80.0 if sigma < 6 else 95.0


def _deblur(draft: _Draft, reading: Reading, shrink: float) -> None:
    found = reading.blur
    size = found.size_px * shrink
    if found.kind == "none" or size < _LEAST_BLUR:
        draft.leave_out("deblur", "No deblur: the picture is as sharp as its pixels.", found.confidence)
        return
    blur: Blur
    match found.kind:
        case "focus":
            blur, told = FocusBlur(radius=min(10, round(size, 1))), f"missed focus of {size:.1f} px radius"
        case "motion":
            blur = MotionBlur(length=min(30, round(size, 1)), angle=round(found.angle_deg))
            told = f"a movement of {size:.1f} px at {found.angle_deg:.0f}°"
        case _:
            blur, told = SoftBlur(sigma=min(5, round(size, 2))), f"softness of σ {size:.1f} px"
    if _worn(reading):
        draft.leave_out(
            "deblur", f"No deblur: edges look like {told}, but compression took what it would need.", found.confidence
        )
        return
    if found.confidence < SURE or (found.kind == "motion" and size < _LEAST_MOVEMENT):
        draft.leave_out(
            "deblur", f"No deblur: edges may show {told}, which is little more than a guess; try it and compare.", 0.4
        )
        return
    strength = 100.0 if found.confidence >= SURE_OF_BLUR else 70.0
    draft.take(
        Deblur(blur=blur, strength=strength),
        f"Deblur at {strength:.0f}: edges look like {told}. Move the size until edges are firm without a second line.",
        found.confidence,
    )


def _enlarge(draft: _Draft, reading: Reading, target: Target) -> None:
    confidence, blend = reading.kind_confidence, None
    match reading.kind:
        case "drawing" if not _pressed(reading) or confidence > _SURE_DRAWING:
            engine, reason = "drawn", "Drawn: lines and lettering with few tones between them."
        case _ if _worn(reading):
            engine = "salvage"
            reason = "Salvage: the file was noisy or soft before it was compressed. Compare with Faithful."
        case "texture":
            engine, reason = "faithful", "Faithful: an even texture. If it is laid edge to edge, switch “repeating” on."
        case _:
            # Photographs and renders are served alike, so it matters little which of them it is.
            confidence = max(confidence, 0.7)
            engine, reason = (
                "faithful",
                "Faithful: closest to the source. Compare with Crisp where edges may be firmer.",
            )
            if _pressed(reading):
                blend = Blend(engine="salvage", weight=50)
                reason = (
                    "Faithful with half of Salvage: closest to the source, and firm where compression wore edges away."
                )
    draft.take(Enlarge(engine=engine, blend=blend, target=target), reason, confidence)
