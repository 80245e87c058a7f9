"""How far the faces of a step depart from what they were."""

from __future__ import annotations

from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.pipeline.stage_cache import CacheStage, uncached
from kitecore.steps import Faces
from kitecore.takes.plan import Plan
from kitecore.takes.render import result_stage


def departures(
    plan: Plan, index: int, source: Stage, run: Run, cache: CacheStage = uncached
) -> list[float | None]:  # fmt: skip
    """Of each face of the step at ``index`` of a plan, which is of the kind faces; see :meth:`Faces.departures`.

    ``source`` is the picture at full size.
    """
    step = plan.steps[index]
    if not isinstance(step, Faces):
        raise ValueError(f"step {index} is {step.kind}")
    framing = len(plan.framed.steps)
    framed = plan.until(framing if index >= framing else 0)
    given = result_stage(plan.until(index), source, 0, cache)
    return step.departures(given, framed.size, framed.mapping, run)
