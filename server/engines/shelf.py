"""The engines this workshop has: the shipped ones and those its people brought."""

from __future__ import annotations

import shutil
import time

import numpy as np
from django.conf import settings

from common.errors import Refused
from common.store import store
from engines.models import BroughtEngine, EngineSpeed
from kitecore.engines import Engine, engines
from kitecore.engines.engine import provider
from people.models import Person
from rendering.speed import note

#: Pixels a side of the region whose time is taken, and how often; the best counts.
_SIDE, _TIMES = 256, 3


def is_own(name: str) -> bool:
    """Whether an engine was brought by the workshop's people."""
    return (settings.ENGINES / name / "engine.json").is_file()


def brought_by() -> dict[str, Person]:
    """Who brought which engine; those from before that was noted nobody did."""
    return {row.name: row.person for row in BroughtEngine.objects.select_related("person")}


def may_remove(name: str, person: Person) -> bool:
    """Whether a person brought an engine, or is an administrator."""
    return person.is_superuser or BroughtEngine.objects.filter(name=name, person=person).exists()


def take_down(name: str, person: Person) -> None:
    """Take an engine that was brought off the shelf. Its files are kept aside, for :func:`put_back`."""
    if not is_own(name):
        raise Refused(f"“{name}” came with Kite Glass and stays.")
    _may(name, person)
    aside = settings.ENGINES / ".aside" / name
    with store().changing(settings.ENGINES):
        aside.parent.mkdir(exist_ok=True)
        shutil.rmtree(aside, ignore_errors=True)
        (settings.ENGINES / name).rename(aside)


def _may(name: str, person: Person) -> None:
    if not may_remove(name, person):
        raise Refused(
            "Somebody else brought this engine; only they or an administrator can take it off or put it back."
        )


def put_back(name: str, person: Person) -> None:
    aside = settings.ENGINES / ".aside" / name
    if not aside.is_dir():
        raise Refused(f"There is no engine “{name}” to put back.")
    _may(name, person)
    if name in engines():
        raise Refused(f"There is an engine “{name}” on the shelf again; take it down first.")
    with store().changing(settings.ENGINES):
        aside.rename(settings.ENGINES / name)


def _key(engine: Engine) -> str:
    return f"{engine.fingerprint} {provider()}"[:200]


def known_speeds() -> dict[str, float]:
    """Source pixels per second by engine id, of those measured with the weights and provider they have now."""
    kept = dict(EngineSpeed.objects.values_list("key", "source_pixels"))
    return {name: kept[_key(engine)] for name, engine in engines().items() if _key(engine) in kept}


def measured_speed(engine: Engine) -> float:
    """Source pixels per second of an engine's ×4 (or only) output on this machine, measured now and kept."""
    manifest = engine.manifest
    if manifest.network is None:
        raise Refused(f"{manifest.name} runs no network; there is nothing to measure.")
    random = np.random.default_rng(1)
    picture = random.random((_SIDE, _SIDE, manifest.does.planes), np.float32)
    maps = np.ones((_SIDE, _SIDE, len(manifest.does.maps)), np.float32)
    factor = 4 if 4 in manifest.factors else manifest.factors[-1]
    best = float("inf")
    for _ in range(_TIMES):
        began = time.perf_counter()
        if manifest.kind == "enlarge":
            engine.enlarge(picture, factor)
        else:
            engine.restore(picture, maps)
        best = min(best, time.perf_counter() - began)
    speed = _SIDE * _SIDE / best
    note(manifest.id, speed * engine.operations_per_pixel(factor))
    EngineSpeed.objects.update_or_create(key=_key(engine), defaults={"source_pixels": speed})
    return speed
