"""How fast this machine works, learnt from the deliveries it has made."""

from __future__ import annotations

from django.db.models import Sum

#: Operations per second until the first delivery has told better: two cores of a server processor.
_SUPPOSED = 60e9
#: Encoding and writing, per output pixel.
_WRITING_SECONDS = 6e-8
_OVERHEAD_SECONDS = 0.4
_LEARNT_FROM = 10
#: Shorter ones say more about overhead than about speed.
_TOO_SHORT_SECONDS = 1.5


def seconds_for(work: float, pixels: int) -> float:
    """Seconds a render of ``work`` floating-point operations into a file of ``pixels`` will take, about."""
    from deliveries.models import Delivery

    recent = Delivery.objects.filter(state="done", seconds__gt=_TOO_SHORT_SECONDS).order_by("-finished")[:_LEARNT_FROM]
    learnt = recent.aggregate(work=Sum("work"), seconds=Sum("seconds"))
    speed = learnt["work"] / learnt["seconds"] if learnt["seconds"] else _SUPPOSED
    return round(_OVERHEAD_SECONDS + work / speed + pixels * _WRITING_SECONDS, 2)
