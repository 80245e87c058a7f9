"""What several steps in a row compute, each where its mask lets it."""

from __future__ import annotations

from kitecore.masks.original import Affine, Original
from kitecore.masks.stages import MaskedStage
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.stage import Stage, resized
from kitecore.steps.base import Framed, Step


def where_masked(step: Step, before: Stage, made: Stage, to_source: Affine, framed: Framed) -> Stage:
    """What ``step`` ``made`` of ``before`` where its mask is, ``before`` at the size of the result elsewhere.

    ``to_source`` takes pixels of ``made`` to those of the upright source.
    """
    if step.mask is None or made is before:
        return made
    original = Original(resized(framed.stage, made.size), to_source, framed.source, framed.profile)
    return MaskedStage(resized(before, made.size), made, step.mask, original)


def scaled_affine(affine: Affine, size: Size, reduced: Size) -> Affine:
    """``affine`` from pixels of a picture of ``size``, for its version of the size ``reduced``.

    >>> import numpy as np
    >>> scaled_affine(np.array([[1.0, 0, 5], [0, 1, 7]]), Size(8, 6), Size(4, 3)).tolist()
    [[2.0, 0.0, 5.0], [0.0, 2.0, 7.0]]
    """
    result = affine.copy()
    result[:, 0] *= size.width / reduced.width
    result[:, 1] *= size.height / reduced.height
    return result


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
        stage = where_masked(step, stage, made, scaled_affine(framed.to_source, framed.full, made.size), framed)
        size, near = after, stage.size.width / after.width
    return stage
