"""TIFF files written from strips as they come, their parts compressed side by side.

Each part is read again as soon as it is compressed, in the same thread, and its checksum kept; whether a finished file holds all
samples is then seen from its bytes alone.
"""

from __future__ import annotations

import os
import zlib
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from itertools import chain
from pathlib import Path
from typing import Literal, NamedTuple, TypeAlias, cast

import imagecodecs
import numpy as np
import tifffile

from kitecore.delivery.pieces import Packed, Part, Piece
from kitecore.delivery.raster import Beside, Raster
from kitecore.errors import OutputError
from kitecore.pipeline.meanwhile import side_by_side
from kitecore.pipeline.pixels import Samples, has_alpha

Compression: TypeAlias = Literal["none", "lzw", "zip"]

TILE_SIDE = 256
#: Classic offsets end at 4 GiB; leave room for what is not pixels.
_CLASSIC_BYTES = 4_000_000_000
#: Of a strip, before it is compressed.
_STRIP_BYTES = 1 << 19
#: The fastest there is; on photographs of 16 bits the others are no smaller.
_DEFLATE_LEVEL = 1
_XMP_TAG, _IPTC_TAG = 700, 33723
_BYTES, _LONGS = 1, 4

#: CRC-32 of the strips or tiles of a file, as they are in it, in order.
Checksums: TypeAlias = list[int]


@dataclass(frozen=True)
class Packer:
    """Makes the strips or tiles of a TIFF file, wherever that is. Raises OutputError if one does not hold what it was made of."""

    raster: Raster
    compression: Compression
    tiled: bool

    @property
    def rows(self) -> int:
        """Of a strip, or of a row of tiles: what is packed elsewhere has a whole multiple of them, but for the last."""
        return TILE_SIDE if self.tiled else min(self.raster.size.height, max(1, _STRIP_BYTES // self.raster.row_bytes))

    def parts(self, strips: Iterator[Samples]) -> Iterator[Part]:
        """Of rows of full width, from top to bottom, however high each strip of them is."""
        whole = rechunked(strips, self.rows)
        cut = _tiles(whole) if self.tiled else whole
        return side_by_side(_PACKINGS[self.compression].proved, cut, os.cpu_count() or 1)

    def packed(self, samples: Samples, first: int) -> Packed:
        """Rows of full width, and the ``first`` so many of them as they are."""
        return Packed(list(self.parts(iter([samples]))), samples[:first].copy())


def write_tiff(strips: Iterable[Samples] | Iterable[Packed], beside: Beside, path: Path, packer: Packer) -> Checksums:
    """Write ``strips``, each H×width×bands from top to bottom, however high, or what a packer has made of such.

    BigTIFF where the classic form is too small. Gives the checksums of parts that were found to hold their samples. Raises
    OSError as the disk has it, and OutputError if a part does not hold what it was made of.
    """
    raster, compression, tiled, rows = packer.raster, packer.compression, packer.tiled, packer.rows
    big = raster.row_bytes * raster.size.height > _CLASSIC_BYTES
    sums: Checksums = []

    def contents() -> Iterator[bytes]:
        for part in _parts_of(strips, packer):
            sums.append(part.checksum)
            yield part.content

    with tifffile.TiffWriter(path, bigtiff=big, byteorder="<") as file:
        file.write(
            contents(),
            shape=(raster.size.height, raster.size.width, raster.bands)[: 3 if raster.bands > 1 else 2],
            dtype=raster.dtype, photometric="rgb" if raster.bands > 2 else "minisblack", planarconfig="contig",
            extrasamples=["unassalpha"] if has_alpha(raster.bands) else None,
            compression={"none": None, "lzw": "lzw", "zip": "adobe_deflate"}[compression],
            predictor=None if compression == "none" else 3 if raster.bits == 32 else 2,
            tile=(TILE_SIDE, TILE_SIDE) if tiled else None, rowsperstrip=None if tiled else rows,
            resolution=(beside.ppi, beside.ppi), resolutionunit="inch", iccprofile=beside.profile,
            extratags=_tags(beside), metadata=None, software=False,
        )  # fmt: skip
    return sums


def _parts_of(strips: Iterable[Samples] | Iterable[Packed], packer: Packer) -> Iterator[Part]:
    coming: Iterator[Piece] = iter(strips)
    first = next(coming)
    if isinstance(first, Packed):
        return chain(first.parts, chain.from_iterable(one.parts for one in cast("Iterator[Packed]", coming)))
    return packer.parts(chain([first], cast("Iterator[Samples]", coming)))


def checksums_in(path: Path) -> Iterator[int]:
    """Those of the parts of the first picture of a TIFF file, read from the disk."""
    with tifffile.TiffFile(path) as file:
        page = file.pages.first
        places = list(zip(page.dataoffsets, page.databytecounts, strict=True))
    with path.open("rb") as content:
        for place, count in places:
            content.seek(place)
            yield zlib.crc32(content.read(count))


def write_dng(strips: Iterator[Samples], raster: Raster, beside: Beside, path: Path) -> None:
    """Write ``strips``, each H×width×3 of uint16, as a linear DNG. Raises OSError as the disk has it."""
    assert beside.negative is not None  # only raws become negatives
    rows = min(raster.size.height, max(1, _STRIP_BYTES // raster.row_bytes))
    with tifffile.TiffWriter(path, byteorder="<") as file:
        file.write(
            (_little_endian(part) for part in rechunked(strips, rows)),
            shape=(raster.size.height, raster.size.width, 3), dtype=raster.dtype, photometric=34892,
            planarconfig="contig", rowsperstrip=rows, resolution=(beside.ppi, beside.ppi), resolutionunit="inch",
            extratags=[*_tags(beside), *beside.negative.tags()], metadata=None, software=False, subfiletype=0,
        )  # fmt: skip


def _tags(beside: Beside) -> list[tuple[int, int, int, bytes, bool]]:
    tags = []
    if beside.xmp:
        tags.append((_XMP_TAG, _BYTES, len(beside.xmp), beside.xmp, True))
    if beside.iptc:
        whole = beside.iptc + b"\0" * (-len(beside.iptc) % 4)
        tags.append((_IPTC_TAG, _LONGS, len(whole) // 4, whole, True))
    return tags


def rechunked(strips: Iterator[Samples], rows: int) -> Iterator[Samples]:
    """The same rows, in strips of ``rows``, the last one of what is left.

    >>> [len(strip) for strip in rechunked(iter([np.zeros((5, 1, 1)), np.zeros((4, 1, 1))]), 4)]
    [4, 4, 1]
    """
    left: Samples | None = None
    for strip in strips:
        whole = strip if left is None else np.concatenate([left, strip])
        end = len(whole) // rows * rows
        for top in range(0, end, rows):
            yield whole[top : top + rows]
        left = whole[end:].copy() if end < len(whole) else None
        del strip, whole
    if left is not None:
        yield left


def _tiles(rows: Iterator[Samples]) -> Iterator[Samples]:
    """Tiles of rows as high as a tile; what reaches beyond the picture repeats its edge, which compresses best."""
    for row in rows:
        right, below = -row.shape[1] % TILE_SIDE, TILE_SIDE - len(row)
        padded = np.pad(row, ((0, below), (0, right), (0, 0)), mode="edge") if right or below else row
        for left in range(0, padded.shape[1], TILE_SIDE):
            yield padded[:, left : left + TILE_SIDE]


def _differences(samples: Samples) -> Samples:
    samples = np.ascontiguousarray(samples)
    if samples.dtype == np.float32:
        return np.asarray(imagecodecs.floatpred_encode(samples.astype("<f4", copy=False), axis=1))
    return np.asarray(imagecodecs.delta_encode(samples, axis=1))


def _little_endian(samples: Samples) -> bytes:
    return np.ascontiguousarray(samples, samples.dtype.newbyteorder("<")).tobytes()


def _summed(content: bytes | bytearray, like: Samples) -> Samples:
    """Samples of differences, as they were before; ``like`` says of what shape and type."""
    differences = (
        np.frombuffer(content, like.dtype.newbyteorder("<")).astype(like.dtype, copy=False).reshape(like.shape)
    )
    if like.dtype == np.float32:
        return np.asarray(imagecodecs.floatpred_decode(differences, axis=1))
    return np.asarray(imagecodecs.delta_decode(differences, axis=1))


class _Packing(NamedTuple):
    """A way of compressing samples, and back: the bytes, and samples as the last ones they were made of are."""

    pack: Callable[[Samples], bytes]
    unpack: Callable[[bytes, Samples], Samples]

    def proved(self, samples: Samples) -> Part:
        """Packed, and unpacked to see that nothing has changed. Raises OutputError if something has."""
        content = self.pack(samples)
        # By their bytes: what is no number differs from itself.
        if self.unpack(content, samples).tobytes() != samples.tobytes():
            raise OutputError("A part of the file did not hold what it was made of; nothing was kept. Deliver again.")
        return Part(content, zlib.crc32(content))


def _plain(content: bytes, like: Samples) -> Samples:
    return np.frombuffer(content, like.dtype.newbyteorder("<")).astype(like.dtype, copy=False)


_PACKINGS: dict[Compression, _Packing] = {
    "none": _Packing(_little_endian, _plain),
    "lzw": _Packing(
        lambda samples: bytes(imagecodecs.lzw_encode(_little_endian(_differences(samples)))),
        lambda content, like: _summed(imagecodecs.lzw_decode(content, out=like.nbytes), like),
    ),
    "zip": _Packing(
        lambda samples: bytes(imagecodecs.deflate_encode(_little_endian(_differences(samples)), level=_DEFLATE_LEVEL)),
        lambda content, like: _summed(imagecodecs.deflate_decode(content, out=like.nbytes), like),
    ),
}
