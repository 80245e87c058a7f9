"""The suggested start as it was rehearsed, each step with what it brought."""

from __future__ import annotations

from kitecore.reading import Reading
from kitecore.rehearsal.rehearse import CLEAR, Candidate, Rehearsal
from kitecore.steps import AnyStep, Frame
from kitecore.steps.enlarge import Enlarge, Target
from kitecore.takes.suggestion import Choice, Suggestion, suggest

_SURE, _UNSURE = 0.9, 0.5


def suggest_rehearsed(
    reading: Reading, rehearsal: Rehearsal | None, target: Target, frame: Frame | None = None
) -> Suggestion:
    """What won the rehearsal, at ``target``; what :func:`suggest` says where none was made.

    A picture that was enlarged before is reduced first; that is not rehearsed, and the reading decides.
    """
    prior = suggest(reading, target, frame)
    if rehearsal is None or any(isinstance(step, Enlarge) for step in prior.steps[:-1]):
        return prior
    best = rehearsal.best
    steps: list[AnyStep] = [step for step in prior.steps if step.belongs in ("raw", "frame")]
    choices = []
    for step in best.steps:
        if isinstance(step, Enlarge):
            continue
        steps.append(step)
        brought = best.gain - _without(rehearsal, step.kind)
        reason = f"{step.title.capitalize()}: rehearsed, {brought:.1f} dB nearer to the truth with it than without."
        choices.append(_choice(len(steps) - 1, step.kind, reason, _SURE if brought >= CLEAR else _UNSURE))
    had = {step.kind for step in steps}
    for kind in sorted({choice.kind for choice in prior.choices} - had - {"enlarge"}):
        choices.append(_left_out(rehearsal, prior, kind))
    engine = next((step for step in best.steps if isinstance(step, Enlarge)), Enlarge(engine="plain"))
    steps.append(engine.model_copy(update={"target": target}))
    clear = rehearsal.lead >= CLEAR or rehearsal.next is None
    choices.append(_choice(len(steps) - 1, "enlarge", _compared(rehearsal), _SURE if clear else _UNSURE))
    return Suggestion(steps=steps, choices=choices)


def _choice(step: int | None, kind: str, reason: str, confidence: float) -> Choice:
    return Choice(step=step, kind=kind, reason=reason, confidence=confidence, uncertain=confidence == _UNSURE)


def _engine(candidate: Candidate) -> tuple[str, object]:
    enlarge = candidate.steps[-1]
    return (enlarge.engine, enlarge.blend) if isinstance(enlarge, Enlarge) else ("plain", None)


def _without(rehearsal: Rehearsal, kind: str) -> float:
    """The gain of the best candidate that has no such step, of the same engine if there is one."""
    others = [one for one in rehearsal.candidates if kind not in {step.kind for step in one.steps}]
    alike = [one for one in others if _engine(one) == _engine(rehearsal.best)]
    return max((one.gain for one in alike or others), default=0.0)


def _left_out(rehearsal: Rehearsal, prior: Suggestion, kind: str) -> Choice:
    """Why a step that might have been there is not."""
    tried = [one for one in rehearsal.candidates if kind in {step.kind for step in one.steps}]
    if not tried:
        return next(choice for choice in prior.choices if choice.kind == kind).model_copy(update={"step": None})
    lost = rehearsal.best.gain - max(one.gain for one in tried)
    reason = f"No {kind}: rehearsed, " + (
        f"{lost:.1f} dB farther from the truth with it."
        if lost >= CLEAR
        else "it brings this picture no nearer to the truth."
    )
    return _choice(None, kind, reason, _SURE if lost >= CLEAR else _UNSURE)


def _compared(rehearsal: Rehearsal) -> str:
    best, following = rehearsal.best, rehearsal.next
    told = f"{best.called.split(', ')[-1].capitalize()}: rehearsed on small scenes of this picture, {best.told}"
    if following is None:
        return told
    if rehearsal.lead >= CLEAR:
        return f"{told} The next ({following.called}) is {rehearsal.lead:.1f} dB behind."
    return f"{told} “{best.called}” and “{following.called}” come out alike: compare the two."
