"""Engines: what an enlarge step runs. A folder each, with ``engine.json`` and, for networks, one ONNX file."""

from __future__ import annotations

import os
from functools import cache
from pathlib import Path

from kitecore.engines.engine import Engine
from kitecore.engines.manifest import Manifest
from kitecore.errors import EngineError

SHIPPED = Path(__file__).parent


def _folders() -> list[Path]:
    """Folders that may hold engines: the shipped ones, then those of ``KITE_ENGINES`` (separated like PATH)."""
    places = [SHIPPED, *(Path(place) for place in os.environ.get("KITE_ENGINES", "").split(os.pathsep) if place)]
    return [folder for place in places if place.is_dir() for folder in sorted(place.iterdir())]


@cache
def engines() -> dict[str, Engine]:
    """Every engine there is, by id; the first folder with an id wins. Networks are loaded when first used."""
    found: dict[str, Engine] = {}
    for folder in _folders():
        if (folder / "engine.json").is_file():
            engine = Engine(folder)
            found.setdefault(engine.manifest.id, engine)
    return found


def engine_named(name: str) -> Engine:
    """The engine of that id. Raises EngineError that names the ones there are."""
    try:
        return engines()[name]
    except KeyError:
        raise EngineError(f"There is no engine “{name}”; there are {', '.join(engines())}.") from None


__all__ = ["Engine", "Manifest", "engine_named", "engines"]
