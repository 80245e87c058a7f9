"""Engines: what an enlarge step runs. A folder each, with ``engine.json`` and, for networks, one ONNX file."""

from __future__ import annotations

import logging
from functools import cache
from pathlib import Path

from kitecore.engines.engine import Engine
from kitecore.engines.kinds import KINDS, KindName
from kitecore.engines.manifest import Manifest
from kitecore.errors import EngineError
from kitecore.settings import settings

SHIPPED = Path(__file__).parent


def _folders() -> list[Path]:
    """Folders that may hold engines: the shipped ones, then those of ``KITE_ENGINES`` (separated like PATH)."""
    return [folder for place in (SHIPPED, *settings().engines) if place.is_dir() for folder in sorted(place.iterdir())]


@cache
def _engine(folder: Path, written: int) -> Engine | None:
    """The engine in ``folder`` as written at that time; None, with a warning, if it cannot be read."""
    try:
        return Engine(folder, guest=folder.parent != SHIPPED)
    except EngineError as error:
        logging.getLogger(__name__).warning("%s", error)
        return None


def engines() -> dict[str, Engine]:
    """Every engine there is, by id; the first folder with an id wins. Networks are loaded when first used."""
    found: dict[str, Engine] = {}
    for folder in _folders():
        manifest = folder / "engine.json"
        if manifest.is_file() and (engine := _engine(folder, manifest.stat().st_mtime_ns)):
            found.setdefault(engine.manifest.id, engine)
    return found


def engine_named(name: str, kind: KindName) -> Engine:
    """The engine of that id, which must be of ``kind``. Raises EngineError that names the ones there are."""
    there = {name: engine for name, engine in engines().items() if engine.manifest.kind == kind}
    try:
        return there[name]
    except KeyError:
        raise EngineError(f"There is no engine “{name}” that can {kind}; there are {', '.join(there)}.") from None


__all__ = ["KINDS", "Engine", "Manifest", "engine_named", "engines"]
