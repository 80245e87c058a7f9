"""How fast this machine works, learnt from the files it has made."""

from __future__ import annotations

from django.db.models import Sum

from rendering.models import RenderedFile

#: Operations per second until the first file has told better: two cores of a server processor.
_SUPPOSED = 60e9
#: Encoding and writing, per output pixel.
_WRITING_SECONDS = 6e-8
_OVERHEAD_SECONDS = 0.4
_LEARNT_FROM = 10
#: Shorter ones say more about overhead than about speed.
_TOO_SHORT_SECONDS = 1.5


def learn(work: float, seconds: float) -> None:
    """Take into account that a file of ``work`` floating-point operations took so long."""
    if seconds <= _TOO_SHORT_SECONDS:
        return
    RenderedFile.objects.create(work=work, seconds=seconds)
    newest = RenderedFile.objects.values_list("pk", flat=True)[:_LEARNT_FROM]
    RenderedFile.objects.exclude(pk__in=list(newest)).delete()


def seconds_for(work: float, pixels: int) -> float:
    """Seconds a render of ``work`` floating-point operations into a file of ``pixels`` will take, about."""
    learnt = RenderedFile.objects.aggregate(work=Sum("work"), seconds=Sum("seconds"))
    speed = learnt["work"] / learnt["seconds"] if learnt["seconds"] else _SUPPOSED
    return round(_OVERHEAD_SECONDS + work / speed + pixels * _WRITING_SECONDS, 2)
