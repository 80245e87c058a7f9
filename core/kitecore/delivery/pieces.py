"""What one machine makes of a file that another writes: samples of a region, or parts of the file that hold some rows."""

from __future__ import annotations

import zlib
from pathlib import Path
from typing import NamedTuple, TypeAlias

import numpy as np

from kitecore.errors import OutputError
from kitecore.pipeline.pixels import Samples


class Part(NamedTuple):
    """A strip or a tile as it is in a file, found to hold its samples, and its CRC-32."""

    content: bytes
    checksum: int


class Packed(NamedTuple):
    """The parts that hold some rows of a picture, and the first of these rows as far as they are to be compared."""

    parts: list[Part]
    first: Samples


Piece: TypeAlias = Samples | Packed


def save_piece(piece: Piece, path: Path) -> None:
    """Raises OSError as the disk has it."""
    with path.open("wb") as file:
        if not isinstance(piece, Packed):
            np.save(file, piece)
            return
        np.save(file, piece.first)
        np.save(file, np.array([(len(part.content), part.checksum) for part in piece.parts], np.uint64))
        file.writelines(part.content for part in piece.parts)


def load_piece(path: Path) -> Piece:
    """What :func:`save_piece` has written. Raises OSError, and OutputError if it is not what was written."""
    with path.open("rb") as file:
        first: Samples = np.load(file)
        if not file.peek(1):
            return first
        parts = [Part(file.read(int(length)), int(checksum)) for length, checksum in np.load(file)]
    if any(zlib.crc32(part.content) != part.checksum for part in parts):
        raise OutputError("A part of the file was damaged on its way between two machines; deliver again.")
    return Packed(parts, first)
