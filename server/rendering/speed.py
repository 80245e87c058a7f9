"""How fast machines work: learnt for each engine on each, from the files it has made and from the shelf's measurements.

The speed of a machine that others share changes from one minute to the next: files it has just made say more than older ones,
and so does what this process has just rendered for those who look, though files are made beside other work than views are.
"""

from __future__ import annotations

import platform
from collections.abc import Iterable, Mapping
from datetime import timedelta
from statistics import median

from django.utils import timezone

from kitecore.engines.pace import pace
from kitecore.takes.plan import Plan
from rendering.models import EngineRate

#: Operations per second of a network, and of all else, as two cores of a server processor have them; each counts until
#: something is known of the machine.
_SUPPOSED, _SUPPOSED_PLAIN = 120e9, 3e9
#: Encoding what was rendered last and reading everything back, per output pixel of a 16-bit TIFF.
_WRITING_SECONDS = 5e-8
_OVERHEAD_SECONDS = 0.4
#: The newest so many of each engine on each machine are kept. The fourth part of them that was faster begins at what counts:
#: a file that was made while the machine had other work says little.
_LEARNT_FROM = 9
#: Files made within so long say how fast a machine is now: the newest few of them.
_LATELY, _LATEST = timedelta(minutes=10), 3
#: Shorter ones say more about overhead than about speed.
_TOO_SHORT_SECONDS = 1.0
#: Nobody becomes so much faster or slower at once.
_MOST_SURPRISE = 3.0
#: An engine that does less of the work than this says nothing of itself.
_LEAST_SHARE = 0.1


def machine() -> str:
    """The name of the machine this runs on."""
    return platform.node()[:120]


def note(engine: str, rate: float) -> None:
    """Keep that an engine ran at ``rate`` floating-point operations per second on this machine."""
    known = EngineRate.objects.filter(machine=machine(), engine=engine)
    known.filter(tried=True).delete()
    EngineRate.objects.create(machine=machine(), engine=engine, rate=rate)
    known.exclude(pk__in=list(known.values_list("pk", flat=True)[:_LEARNT_FROM])).delete()


def note_first(engine: str, rate: float) -> None:
    """As :func:`note`, as long as nothing is known of the engine on this machine, and until something is."""
    if not EngineRate.objects.filter(machine=machine(), engine=engine).exists():
        EngineRate.objects.create(machine=machine(), engine=engine, rate=rate, tried=True)


def learn(plan: Plan, seconds: float) -> None:
    """Take into account that a file of a plan took so long on this machine, written and read back, as if it had been alone there.

    Where several engines ran, each is taken to have been as much faster or slower than thought as the whole was.
    """
    known = _rates(EngineRate.objects.filter(machine=machine()))
    expected = _parts(plan.works, known)
    computing, thought = seconds - _beside(plan.size.pixels), sum(expected.values())
    if computing <= _TOO_SHORT_SECONDS or thought <= 0:
        return
    faster = min(_MOST_SURPRISE, max(1 / _MOST_SURPRISE, thought / computing))
    for engine, part in expected.items():
        if engine and part > _LEAST_SHARE * thought:
            note(engine, plan.works[engine] / part * faster)


def seconds_for(plan: Plan) -> float:
    """Seconds that making a file of a plan will take, about, on the machine that has last made one."""
    newest = EngineRate.objects.first()
    noted = list(EngineRate.objects.filter(machine=newest.machine)) if newest else []
    known = _rates(noted)
    if newest is None or newest.machine == machine():
        known |= _now(plan.works, [one for one in noted if not one.tried])
    return round(_beside(plan.size.pixels) + sum(_parts(plan.works, known).values()), 2)


def _now(engines: Iterable[str], files: list[EngineRate]) -> dict[str, float]:
    """Operations per second of the engines that anything is known of now, by files and by what this process has run lately.

    Each file of late counts as much as all that was looked at; older ones together as much as one.
    """
    since = timezone.now() - _LATELY
    found = {}
    for engine in engines:
        own = [one for one in files if one.engine == engine]
        late = [one for one in own if one.noted >= since][:_LATEST]
        told, looked_at = _rates(late or own).get(engine), pace.of(engine)
        if told is None or looked_at is None:
            found[engine] = told or looked_at
        else:
            counts = max(1, len(late))
            found[engine] = (told**counts * looked_at) ** (1 / (counts + 1))
    return {engine: rate for engine, rate in found.items() if rate is not None}


def _rates(noted: Iterable[EngineRate]) -> dict[str, float]:
    """Operations per second of each engine by what was noted of it."""
    found: dict[str, list[float]] = {}
    for one in noted:
        found.setdefault(one.engine, []).append(one.rate)
    return {engine: _usual(rates) for engine, rates in found.items()}


def _usual(rates: list[float]) -> float:
    return sorted(rates)[(len(rates) - 1) * 3 // 4] if len(rates) > 2 else median(rates)


def _parts(works: Mapping[str, float], known: Mapping[str, float]) -> dict[str, float]:
    """Seconds of each engine; one that is not known is taken to be as fast as those that are."""
    usual = median(known.values()) if known else _SUPPOSED
    return {
        engine: work / (known.get(engine, usual) if engine else _SUPPOSED_PLAIN)
        for engine, work in works.items()
    }  # fmt: skip


def _beside(pixels: int) -> float:
    """Seconds in which nothing is computed."""
    return _OVERHEAD_SECONDS + pixels * _WRITING_SECONDS
