"""What several steps in a row compute, each where its mask lets it."""

from __future__ import annotations

from kitecore.masks.original import Original
from kitecore.masks.stages import MaskedStage
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.stage import Stage, resized
from kitecore.steps.base import Framed, Step


def where_masked(step: Step, before: Stage, made: Stage, to_source: Mapping, framed: Framed) -> Stage:
    """What ``step`` ``made`` of ``before`` where its mask is, ``before`` at the size of the result elsewhere.

    ``to_source`` takes pixels of ``made`` to those of the upright source.
    """
    if step.mask is None or made is before:
        return made
    original = Original(resized(framed.stage, made.size), to_source, framed.source, framed.profile)
    return MaskedStage(resized(before, made.size), made, step.mask, original)


def steps_beside(steps: list[Step], framed: Framed, share: float) -> Stage:
    """What ``steps``, none of them a frame, make of the framed original.

    ``share`` is that of its full size at which the result is looked at: from afar nothing is computed larger than that.
    """
    stage, size = framed.stage, framed.full
    near = stage.size.width / size.width
    for step in steps:
        if not step.on:
            continue
        after = step.result_size(size)
        # From afar the picture is no larger than it is looked at.
        reduction = near if after == size else min(1.0, share)
        wanted = after.scaled(reduction) if reduction < 1 else after
        made = step.stage_beside(stage, size, wanted, framed)
        stage = where_masked(step, stage, made, framed.to_source.reduced(framed.full, made.size), framed)
        size, near = after, stage.size.width / after.width
    return stage
