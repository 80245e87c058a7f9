"""Compute a plan: the stage of its result, how strongly a step works where, and whole results as arrays."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from kitecore.masks.mask import Mask
from kitecore.masks.original import Original
from kitecore.masks.stages import ProductStage, WeightStage
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels, Samples
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage, Stage, resized
from kitecore.pipeline.stage_cache import CacheStage, uncached
from kitecore.pipeline.strips import render_strips
from kitecore.steps import Step
from kitecore.steps.base import Framed
from kitecore.steps.composition import where_masked
from kitecore.takes.plan import Plan, chain_of, plan_of_steps

_DEEPEST = 48


def result_stage(
    plan: Plan, source: Stage, level: int = 0, cache: CacheStage = uncached, last: CacheStage = uncached
) -> Stage:
    """The stage that computes a take's result.

    Parameters
    ----------
    source
        The picture at level ``plan.source_reduction(level)``.
    level
        At 0 the result is exact; above, it has the result's size :meth:`Size.reduced` to it and is approximate.
    cache
        Is given the stages of slow steps that are worth keeping: those that other steps or levels are computed from.
    last
        Is given the stage of a last step that enlarges, from which nothing is computed: kept for those who ask for a view
        part by part.
    """
    reductions = plan.reductions(level)
    if source.size != plan.source.reduced(reductions[0]):
        raise ValueError(f"source is {source.size}, not {plan.source.reduced(reductions[0])}")
    stage, framing = source, len(plan.framed.steps)
    profile = source.profile if isinstance(source, SampleStage) else None
    framed = Framed(source, plan.source, plan.until(0).mapping, plan.source, profile)
    for index, (step, reduction) in enumerate(zip(plan.steps, reductions[1:], strict=True)):
        before, after = plan.sizes[index], plan.sizes[index + 1]
        if step.slow:
            slow = step.slow_stage(stage, before, after.reduced(reduction), framed)
            last_scales = index + 1 == len(plan.steps) and step.scales
            if slow is not stage:
                chain = chain_of([*plan.steps[:index], step.slow_part()])
                slow = (last if last_scales else cache)(slow, f"{chain} {source.size} {slow.size}")
            made = step.stage_upon(slow, stage, before)
        else:
            made = step.stage_beside(stage, before, after.reduced(reduction), framed)
        if step.mask is not None:
            to_source = plan.until(index + 1).mapping.reduced(after, made.size)
            made = where_masked(step, stage, made, to_source, framed)
        stage = made
        if index + 1 == framing:
            framed = Framed(stage, after, plan.until(framing).mapping, plan.source, profile)
    return resized(stage, plan.size.reduced(level))


def weights_of(plan: Plan, index: int, source: Stage, level: int = 0, cache: CacheStage = uncached) -> Stage:
    """How strongly the step at ``index`` works where in the result: one band, 0..1, the size of :func:`result_stage`'s.

    By its mask, and by what it knows of itself (a sharpening's edge mask). Arguments as for :func:`result_stage`.
    """
    step, wanted = plan.steps[index], plan.size.reduced(level)
    original = resized(_stage_at(plan.framed, source, wanted, cache), wanted)
    to_source = plan.mapping.reduced(plan.size, wanted)
    profile = source.profile if isinstance(source, SampleStage) else None
    mask = WeightStage(step.mask or Mask(inverted=True), Original(original, to_source, plan.source, profile))
    beneath = plan.until(index)
    own = step.weights_stage(_stage_at(beneath, source, wanted, cache), beneath.size)
    return mask if own is None else ProductStage(mask, resized(own, wanted))


def _stage_at(plan: Plan, source: Stage, size: Size, cache: CacheStage) -> Stage:
    """The plan's stage from ``source``, however much that is reduced: as small as it can be without being below ``size``."""
    fitting = [level for level in range(_DEEPEST) if plan.source.reduced(plan.source_reduction(level)) == source.size]
    large = [level for level in fitting if plan.size.reduced(level).width >= size.width]
    return result_stage(plan, source, max(large, default=min(fitting)), cache)


def render_array(source: Samples, steps: Sequence[Step], run: Run | None = None) -> Pixels:
    """The result of ``steps`` on an array.

    Parameters
    ----------
    source
        H×W×C uint8, uint16 or float32 (0..1); C as :mod:`kitecore.pipeline.pixels` has it.

    Returns
    -------
    float32 H'×W'×C.

    Raises
    ------
    TakeError, TooLarge, EngineError
        If the steps cannot be done on a picture of this size.

    Examples
    --------
    >>> from kitecore.steps import Frame
    >>> render_array(np.zeros((4, 6, 3), np.uint8), [Frame(turns=1)]).shape
    (6, 4, 3)
    """
    stage = SampleStage(source)
    result = result_stage(plan_of_steps(steps, stage.size), stage)
    return np.concatenate(list(render_strips(result, lambda pixels: pixels, run or Run())))
