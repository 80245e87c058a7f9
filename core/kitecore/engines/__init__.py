"""Engines: what an enlarge step runs. A folder each, with ``engine.json`` and, for networks, one ONNX file."""

from __future__ import annotations

import logging
import os
from collections.abc import Iterator
from contextlib import suppress
from functools import cache, lru_cache
from pathlib import Path

from kitecore.engines.engine import Engine
from kitecore.engines.kinds import KINDS, KindName
from kitecore.engines.manifest import Manifest
from kitecore.errors import EngineError
from kitecore.settings import settings

SHIPPED = Path(__file__).parent
_MANIFEST = "engine.json"


def _written() -> Iterator[tuple[str, int]]:
    """Folders that hold a manifest, and when it was written: the shipped ones, then those of ``KITE_ENGINES``.

    Asked many times in a request: names alone are looked at, and paths made of what has changed.
    """
    for place in (SHIPPED, *settings().engines):
        with suppress(FileNotFoundError, NotADirectoryError), os.scandir(place) as entries:
            for folder in sorted(entry.path for entry in entries):
                with suppress(FileNotFoundError, NotADirectoryError):
                    yield folder, os.stat(f"{folder}/{_MANIFEST}").st_mtime_ns  # noqa: PTH116


@cache
def _engine(folder: Path, written: int) -> Engine | None:
    """The engine in ``folder`` as written at that time; None, with a warning, if it cannot be read."""
    try:
        return Engine(folder, guest=folder.parent != SHIPPED)
    except EngineError as error:
        logging.getLogger(__name__).warning("%s", error)
        return None


@lru_cache(maxsize=2)
def _engines(written: tuple[tuple[str, int], ...]) -> dict[str, Engine]:
    """The engines in folders whose manifests were written at those times."""
    found: dict[str, Engine] = {}
    for folder, then in written:
        if engine := _engine(Path(folder), then):
            found.setdefault(engine.manifest.id, engine)
    return found


def engines() -> dict[str, Engine]:
    """Every engine there is, by id; the first folder with an id wins. Networks are loaded when first used."""
    return dict(_engines(tuple(_written())))


def engine_named(name: str, kind: KindName) -> Engine:
    """The engine of that id, which must be of ``kind``. Raises EngineError that names the ones there are."""
    there = engines()
    engine = there.get(name)
    if engine is None or engine.manifest.kind != kind:
        fitting = ", ".join(name for name, one in there.items() if one.manifest.kind == kind)
        raise EngineError(f"There is no engine “{name}” that can {kind}; there are {fitting}.")
    return engine


__all__ = ["KINDS", "Engine", "Manifest", "engine_named", "engines"]
