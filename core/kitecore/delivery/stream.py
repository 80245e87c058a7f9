"""Rendered strips as a libvips image, made while it is being written: neither held nor parked on disk.

libvips reads the strips as a PNG with nothing compressed, from a source of our own; rendering happens when it asks for
more. PNG because it holds every kind of picture there is here, in order, and can be read without seeking (RFC 2083).
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator

import numpy as np
import pyvips

from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Samples

_COLOUR_TYPE = {1: 0, 2: 4, 3: 2, 4: 6}
_SIGNATURE = b"\x89PNG\r\n\x1a\n"


def _chunk(kind: bytes, body: bytes) -> bytes:
    return b"".join((struct.pack(">I", len(body)), kind, body, struct.pack(">I", zlib.crc32(body, zlib.crc32(kind)))))


def _png(strips: Iterator[Samples], size: Size, bands: int, bits: int) -> Iterator[bytes]:
    """The bytes of the PNG, a chunk at a time; a strip is asked for when its bytes are."""
    header = struct.pack(">IIBBBBB", size.width, size.height, bits, _COLOUR_TYPE[bands], 0, 0, 0)
    yield _SIGNATURE + _chunk(b"IHDR", header)
    stored = zlib.compressobj(0)
    for strip in strips:
        # Samples have their high byte first; every row begins with the number of its filter, 0 for none.
        rows = np.ascontiguousarray(strip, dtype=np.uint8 if bits == 8 else ">u2").view(np.uint8)
        lines = np.zeros((strip.shape[0], 1 + strip.shape[1] * bands * bits // 8), np.uint8)
        lines[:, 1:] = rows.reshape(strip.shape[0], -1)
        yield _chunk(b"IDAT", stored.compress(lines.data))
    yield _chunk(b"IDAT", stored.flush()) + _chunk(b"IEND", b"")


class StripStream:
    """An image of ``size`` whose rows come from ``strips`` (each H×width×bands, uint8 or uint16), top to bottom.

    If the strips end in an error, opening or reading the image fails with a libvips error; ``fault`` then holds the
    error that was the reason.
    """

    def __init__(self, strips: Iterator[Samples], size: Size, bands: int, bits: int) -> None:
        self.fault: BaseException | None = None
        self._chunks = _png(strips, size, bands, bits)
        self._waiting = memoryview(b"")
        # The source must outlive the image that reads it.
        self._source = pyvips.SourceCustom()
        self._source.on_read(self._read)

    def open(self) -> pyvips.Image:
        """The image; to be read once, sequentially. Opening it renders the first strip already."""
        return pyvips.Image.pngload_source(self._source, access="sequential", fail_on="truncated", unlimited=True)

    def _read(self, count: int) -> bytes:
        if not self._waiting:
            try:
                self._waiting = memoryview(next(self._chunks, b""))
            except BaseException as error:  # carried over to the thread that writes
                self.fault = error
                return b""
        given, self._waiting = self._waiting[:count], self._waiting[count:]
        return bytes(given)
