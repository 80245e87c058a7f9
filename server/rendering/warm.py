"""Networks are made ready before the first one looks: loading one, and its first run, take as long as a few tiles."""

from __future__ import annotations

import logging
import os
import threading
import time

import numpy as np
from django.db import connection

from kitecore.errors import KiteError
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Denoise, Enlarge
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan_of_steps
from kitecore.takes.render import result_stage
from rendering.speed import note_first

_WAIT_SECONDS = 1.0
#: Pixels a side of the region they are tried on: about what a tile of full size is made of.
_SIDE = 152
#: How often each is tried: the first time it is loaded.
_TIMES = 4
#: Height and width of what a view of usual size gives them at most: part of a picture for what enlarges, a whole one at fit for
#: what restores. Memory for it is had before somebody waits for it.
_VIEWS = {Enlarge: (384, 544), Denoise: (688, 1008)}
#: Others take no more than this of the time.
_MOST_DISTURBED = 4.0


def warm_up() -> None:
    """Load the usual networks in a thread of its own, once everything has started."""
    threading.Thread(target=_load, name="warm up", daemon=True).start()


def _load() -> None:
    time.sleep(_WAIT_SECONDS)
    # What most takes begin with.
    for step in (Enlarge(target=ByFactor(factor=2)), Denoise()):
        try:
            _tried(step)
        except KiteError:
            logging.getLogger(__name__).exception("%s could not be made ready", step.engine)
        finally:
            connection.close()


def _tried(step: Enlarge | Denoise) -> None:
    """Load a step's network; what is known of its speed until a file has been made by it is told by the runs after the first."""
    seconds = []
    for _ in range(_TIMES):
        wall, busy = time.perf_counter(), time.process_time()
        plan = _rendered(step, (_SIDE, _SIDE))
        wall, busy = time.perf_counter() - wall, time.process_time() - busy
        # What others take of the processors while everything starts is not held against it.
        seconds.append(min(wall, max(busy / len(os.sched_getaffinity(0)), wall / _MOST_DISTURBED)))
    # So small a picture is mostly surroundings to a network, which a file hardly has.
    around = (1 + 2 * step.engines_used()[0].engine().reach / _SIDE) ** 2
    note_first(step.engine, around * sum(plan.works.values()) / min(seconds[1:]))
    _rendered(step, _VIEWS[type(step)])


def _rendered(step: Enlarge | Denoise, shape: tuple[int, int]) -> Plan:
    """Have it made of a black picture of this height and width; gives what was made."""
    source = SampleStage(np.zeros((*shape, 3), np.uint8))
    plan = plan_of_steps([step], source.size)
    result_stage(plan, source).render(plan.size.region, Run())
    return plan
