"""Read the files packed into a Qt resource file (``.rcc``)."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator
from pathlib import Path

_MAGIC = b"qres"
_DIRECTORY, _DEFLATED = 2, 1
#: Bytes of a node of the tree: since the second version it has a date.
_NODE, _NODE_WITH_DATE = 14, 22


def files_in(path: Path) -> Iterator[tuple[str, bytes]]:
    """Name and content of each file; names are paths inside the resource. Raises ValueError for other kinds of files."""
    packed = path.read_bytes()
    if packed[:4] != _MAGIC:
        raise ValueError(f"{path.name} is no Qt resource file")
    version, tree, data, names = struct.unpack(">4I", packed[4:20])
    node_bytes = _NODE_WITH_DATE if version > 1 else _NODE

    def called(at: int) -> str:
        """The name at an offset: its length, a hash, and two bytes a letter."""
        (length,) = struct.unpack_from(">H", packed, names + at)
        return packed[names + at + 6 : names + at + 6 + 2 * length].decode("utf-16-be")

    def walk(index: int, above: str) -> Iterator[tuple[str, bytes]]:
        at = tree + index * node_bytes
        name, flags = struct.unpack_from(">IH", packed, at)
        inside = f"{above}/{called(name)}" if index else above
        if flags & _DIRECTORY:
            count, first = struct.unpack_from(">II", packed, at + 6)
            for child in range(first, first + count):
                yield from walk(child, inside)
            return
        (place,) = struct.unpack_from(">I", packed, at + 10)
        (length,) = struct.unpack_from(">I", packed, data + place)
        content = packed[data + place + 4 : data + place + 4 + length]
        # Deflated ones begin with their length.
        yield inside, zlib.decompress(content[4:]) if flags & _DEFLATED else content

    return walk(0, "")
