"""Networks are made ready before the first one looks: loading one takes as long as a few tiles."""

from __future__ import annotations

import logging
import threading
import time

from kitecore.engines import engine_named
from kitecore.errors import KiteError
from kitecore.steps import Denoise, Enlarge

_WAIT_SECONDS = 1.0
#: What most takes begin with.
_USUAL = ((Enlarge(), 2), (Denoise(), 1))


def warm_up() -> None:
    """Load the usual networks in a thread of its own, once everything has started."""
    threading.Thread(target=_load, name="warm up", daemon=True).start()


def _load() -> None:
    time.sleep(_WAIT_SECONDS)
    for step, factor in _USUAL:
        try:
            engine_named(step.engine, step.engine_kind).session(factor)
        except KiteError:
            logging.getLogger(__name__).exception("%s could not be made ready", step.engine)
