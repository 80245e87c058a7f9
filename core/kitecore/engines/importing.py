"""Bring one's own network: an ONNX file and a manifest become an engine once they are shown to work."""

from __future__ import annotations

import hashlib
import json
import os
import re
import subprocess
import sys
import unicodedata
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from pydantic import ValidationError

from kitecore.engines import engines
from kitecore.engines.manifest import Manifest
from kitecore.errors import EngineError

MOST_NETWORK_BYTES = 256 * 1024 * 1024
MOST_MANIFEST_BYTES = 256 * 1024
_PROBE_SECONDS = 180
#: Imported engines stand after the shipped ones.
_ORDER = 500
#: Arithmetic is not counted in foreign networks; it is inferred from their speed at this many operations a second.
_OPERATIONS_PER_SECOND = 60e9


def import_engine(network: bytes, manifest: bytes, home: Path) -> Manifest:
    """Check an engine in a process of its own and put it into ``home``.

    Parameters
    ----------
    network
        An ONNX file of at most 256 MB.
    manifest
        JSON as in ``engine.json``. ``id``, ``licence``, ``network.file``, ``network.sha256`` and
        ``network.operations_per_pixel`` may be left out and are filled in.
    home
        A folder of ``KITE_ENGINES``; made if need be.

    Raises
    ------
    EngineError
        With the reason, if the engine is refused. Nothing is kept then.
    """
    if len(network) > MOST_NETWORK_BYTES:
        raise EngineError(
            f"The network has {len(network) / 1e6:,.0f} MB; at most {MOST_NETWORK_BYTES / 1e6:,.0f} MB are accepted."
        )
    if not network:
        raise EngineError("The network file is empty; choose the ONNX file.")
    if len(manifest) > MOST_MANIFEST_BYTES:
        raise EngineError("The manifest is too large to be one; choose the JSON file that describes the network.")
    described = _completed(manifest, network)
    if described.id in engines():
        raise EngineError(f"There is an engine “{described.id}” already; give yours another name.")
    home.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory(dir=home, prefix=".probing-") as scratch:
        folder = Path(scratch) / described.id
        folder.mkdir()
        assert described.network is not None
        (folder / described.network.file).write_bytes(network)
        (folder / "engine.json").write_text(described.model_dump_json(indent=2))
        speed = _probe(folder)
        operations = dict.fromkeys(described.network.outputs, _OPERATIONS_PER_SECOND / speed)
        counted = described.network.model_copy(update={"operations_per_pixel": operations})
        described = described.model_copy(update={"network": counted})
        (folder / "engine.json").write_text(described.model_dump_json(indent=2))
        folder.rename(home / described.id)
    return described


def _completed(text: bytes, network: bytes) -> Manifest:
    """The manifest with what can be filled in filled in. Raises EngineError if it is not usable."""
    try:
        given: Any = json.loads(text)
    except ValueError as error:
        raise EngineError(f"The manifest is not JSON ({error}).") from error
    if not isinstance(given, dict) or not isinstance(given.get("network"), dict):
        raise EngineError("The manifest must be a JSON object with name, purpose, kind and network.")
    name = str(given.get("name", ""))
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    described = {
        "id": re.sub(r"[^a-z0-9]+", "-", plain).strip("-"), "licence": "Brought by its user.", **given, "order": _ORDER,
        "network": {
            **given["network"], "file": "network.onnx", "sha256": hashlib.sha256(network).hexdigest(),
            "operations_per_pixel": dict.fromkeys(given["network"].get("outputs", {}), 0.0),
        },
    }  # fmt: skip
    try:
        return Manifest.model_validate(described)
    except ValidationError as error:
        fault = error.errors(include_url=False)[0]
        place = " ".join(str(part) for part in fault["loc"]) or "manifest"
        raise EngineError(f"The manifest's “{place}” is not usable: {fault['msg'].rstrip('.').lower()}.") from error


def _probe(folder: Path) -> float:
    """Source pixels per second of the engine in ``folder``, tried in a process of its own. Raises EngineError."""
    core = Path(__file__).parent.parent.parent
    environment = {"PATH": os.environ.get("PATH", ""), "PYTHONPATH": str(core)}
    with TemporaryDirectory() as empty:
        try:
            done = subprocess.run(
                [sys.executable, "-m", "kitecore.engines.probe", str(folder.resolve())], cwd=empty, env=environment,
                capture_output=True, timeout=_PROBE_SECONDS, check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired as error:
            raise EngineError("The network was still not done with a small picture after three minutes.") from error
    try:
        answer = json.loads(done.stdout.decode(errors="replace").strip().splitlines()[-1])
    except (IndexError, ValueError) as error:
        raise EngineError(
            "Trying the network broke off: it needs more memory or time than an engine may take, or it is damaged."
        ) from error
    if "refusal" in answer:
        raise EngineError(str(answer["refusal"]))
    return float(answer["speed"])
