"""Files that are there whole or not at all."""

from __future__ import annotations

from pathlib import Path
from tempfile import NamedTemporaryFile


def write_whole(content: bytes, path: Path) -> None:
    """Write a small file; whoever looks meanwhile finds the one before, or none."""
    path.parent.mkdir(parents=True, exist_ok=True)
    with NamedTemporaryFile(dir=path.parent, delete=False) as file:
        file.write(content)
    Path(file.name).replace(path)
