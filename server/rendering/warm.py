"""Networks are made ready before the first one looks: loading one, and its first run, take as long as a few tiles."""

from __future__ import annotations

import logging
import threading
import time

import numpy as np

from kitecore.errors import KiteError
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Denoise, Enlarge
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage

_WAIT_SECONDS = 1.0
#: Pixels a side of the region they are tried on: about what a tile of full size is made of.
_SIDE = 152


def warm_up() -> None:
    """Load the usual networks in a thread of its own, once everything has started."""
    threading.Thread(target=_load, name="warm up", daemon=True).start()


def _load() -> None:
    time.sleep(_WAIT_SECONDS)
    source = SampleStage(np.zeros((_SIDE, _SIDE, 3), np.uint8))
    # What most takes begin with.
    for step in (Enlarge(target=ByFactor(factor=2)), Denoise()):
        try:
            result_stage(plan_of_steps([step], source.size), source).render(Region(0, 0, _SIDE, _SIDE), Run())
        except KiteError:
            logging.getLogger(__name__).exception("%s could not be made ready", step.engine)
