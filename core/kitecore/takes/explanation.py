"""What a take does to a picture, step by step: sizes, stages, and how long each takes."""

from __future__ import annotations

import time
from typing import Any

from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.takes.plan import plan
from kitecore.takes.render import result_stage
from kitecore.takes.take import Take

#: Side of the part that is rendered to tell how long a step takes, in pixels of its own result.
_TRIED = 256


def explain(take: Take, source: Source) -> dict[str, Any]:
    """Sizes, stages and seconds of every step that is on.

    Seconds are those of the whole result of a step alone, told from a part in the middle: of up to 256×256 px, with all it
    is made of, less what the steps before it took for theirs.

    Raises TakeError, TooLarge or EngineError if the take cannot be done on this picture.
    """
    resolved = plan(take, source.size)
    rows, before = [], 0.0
    for index, step in enumerate(resolved.steps):
        stage = result_stage(resolved.until(index + 1), source.stage())
        width, height = min(_TRIED, stage.size.width), min(_TRIED, stage.size.height)
        part = Region((stage.size.width - width) // 2, (stage.size.height - height) // 2, width, height)
        stage.render(part, Run())
        began = time.perf_counter()
        stage.render(part, Run())
        spent = (time.perf_counter() - began) * stage.size.pixels / part.size.pixels
        rows.append({
            "step": step.kind, "did": step.sentence() or "nothing", "stage": type(stage).__name__,
            "from": str(resolved.sizes[index]), "to": str(resolved.sizes[index + 1]),
            "seconds": round(max(0.0, spent - before), 2),
            "operations": resolved.until(index + 1).work - resolved.until(index).work,
        })  # fmt: skip
        before = spent
    return {"source": str(source.size), "result": str(resolved.size), "chain": resolved.chain, "steps": rows}
