"""How fast this machine works, learnt from the files it has made."""

from __future__ import annotations

from statistics import median

from rendering.models import RenderedFile

#: Operations per second, as two cores of a server processor have them; counts as two files until others have told more,
#: so that one that was made while the machine had other work says little.
_SUPPOSED = 60e9
_SUPPOSITIONS = 2
#: Encoding, writing, hashing and reading back, per output pixel of a 16-bit TIFF.
_WRITING_SECONDS = 4e-7
_OVERHEAD_SECONDS = 0.4
_LEARNT_FROM = 10
#: Shorter ones say more about overhead than about speed.
_TOO_SHORT_SECONDS = 1.5


def learn(work: float, pixels: int, seconds: float) -> None:
    """Take into account that a file of ``work`` floating-point operations and ``pixels`` took so long."""
    computing = seconds - _beside(pixels)
    if computing <= _TOO_SHORT_SECONDS:
        return
    RenderedFile.objects.create(work=work, seconds=computing)
    newest = RenderedFile.objects.values_list("pk", flat=True)[:_LEARNT_FROM]
    RenderedFile.objects.exclude(pk__in=list(newest)).delete()


def seconds_for(work: float, pixels: int) -> float:
    """Seconds a render of ``work`` floating-point operations into a file of ``pixels`` will take, about."""
    learnt = [work / seconds for work, seconds in RenderedFile.objects.values_list("work", "seconds")[:_LEARNT_FROM]]
    suppositions = [_SUPPOSED] * max(0, _SUPPOSITIONS - max(0, len(learnt) - _SUPPOSITIONS))
    return round(_beside(pixels) + work / median(learnt + suppositions), 2)


def _beside(pixels: int) -> float:
    """Seconds that no network takes."""
    return _OVERHEAD_SECONDS + pixels * _WRITING_SECONDS
