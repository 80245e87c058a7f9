"""Names of delivered files: never one that is taken."""

from __future__ import annotations

import re
from pathlib import PurePath

from common.names import safe_name
from jobs.models import Job
from kitecore.delivery.encode import ending_of, format_of_ending
from kitecore.delivery.spec import Format

_NOT_IN_NAMES = re.compile(r'[/\\<>:"|?*]')


def free_name(job: Job, wanted: str, form: Format) -> str:
    """``wanted`` with the format's ending, and a number behind it if the job already has a file of that name.

    What cannot be in a name on some system or other becomes a dash.
    """
    replaced = re.sub(r"-{2,}", "-", _NOT_IN_NAMES.sub("-", wanted)).lstrip(" .-")
    stem = PurePath(safe_name(replaced, "picture"))
    known = format_of_ending(stem.suffix.lower()) is not None
    base = stem.stem if known else stem.name
    taken = {name.lower() for name in job.deliveries.values_list("name", flat=True)}
    for number in range(1, len(taken) + 2):
        name = f"{base}{'' if number == 1 else f' {number}'}{ending_of(form)}"
        if name.lower() not in taken:
            return name
    raise AssertionError("one more name than there are files must be free")
