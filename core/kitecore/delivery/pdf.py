"""Print PDFs: one page the size of the file, with the boxes a printer cuts by, after PDF/X-4 (ISO 15930-7).

The picture is taken over as it was encoded: the stream inside a PNG is what PDF calls FlateDecode with PNG predictors,
a JPEG is DCTDecode (ISO 32000-1, 7.4.4 and 7.4.8). It is copied in pieces, so memory does not grow with the picture.
"""

from __future__ import annotations

import hashlib
import re
import struct
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import BinaryIO

from kitecore.errors import OutputError
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run

POINTS_PER_INCH = 72.0
#: A page side in user space may be so long (ISO 32000-1, annex C); larger pages have a larger unit.
_LONGEST_PAGE = 14_400.0
_PIECE = 1 << 20
#: The end of a file holds where its table begins.
_TRAILER_BYTES = 1024


@dataclass(frozen=True)
class Page:
    """What the page holds. Boxes are in pixels of the picture; without bleed both are the same."""

    size: Size
    bands: int
    bits: int
    ppi: float
    trim: Region
    bleed: Region
    title: str
    profile: bytes
    profile_name: str
    xmp: bytes
    when: datetime


def write_pdf(encoded: Path, page: Page, path: Path, run: Run) -> None:
    """Write ``path`` around a PNG or JPEG without alpha that holds the picture of ``page``.

    The file is read back: its table, and every byte of the picture. Raises Cancelled; OutputError if it holds something
    else; OSError as the disk has it.
    """
    with path.open("wb") as file:
        out = _Objects(file)
        out.raw(b"%PDF-1.6\n%\xe2\xe3\xcf\xd3\n")
        _document(out, page)
        jpeg = encoded.suffix == ".jpg"
        spans = [(0, encoded.stat().st_size)] if jpeg else _idat(encoded)
        length = sum(count for _, count in spans)
        digest = hashlib.sha256()
        with encoded.open("rb") as picture:
            pieces = _hashed(_pieces(picture, spans, run), digest)
            out.stream(_PICTURE, _picture_entries(page, jpeg), pieces, length)
        out.finish(_CATALOGUE, _INFO, hashlib.md5(page.xmp, usedforsecurity=False).hexdigest())

    if _picture_inside(path, length, run) != digest.hexdigest():
        raise OutputError(f"{path.name} was read back after writing and its picture is another; deliver again.")


def _picture_inside(path: Path, length: int, run: Run) -> str | None:
    """SHA-256 of the stream of the picture, found by way of the table; None where the table does not lead to it."""
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - _TRAILER_BYTES))
        found = re.search(rb"startxref\n(\d+)\n%%EOF\n$", file.read())
        if not found:
            return None
        file.seek(int(found[1]))
        places = re.findall(rb"(\d{10}) 00000 n", file.read())
        if len(places) < _PICTURE:
            return None
        file.seek(int(places[_PICTURE - 1]))
        if file.readline() != f"{_PICTURE} 0 obj\n".encode():
            return None
        while (line := file.readline()) != b"stream\n":
            if not line:
                return None
        digest = hashlib.sha256()
        for _ in _hashed(_pieces(file, [(file.tell(), length)], run), digest):
            pass
        return digest.hexdigest()


def _hashed(pieces: Iterator[bytes], digest: hashlib._Hash) -> Iterator[bytes]:
    for piece in pieces:
        digest.update(piece)
        yield piece


_CATALOGUE, _PAGES, _PAGE, _CONTENT, _PROFILE, _INTENT, _XMP, _INFO, _PICTURE = range(1, 10)


def _document(out: _Objects, page: Page) -> None:
    unit = max(1.0, max(page.size.width, page.size.height) / page.ppi * POINTS_PER_INCH / _LONGEST_PAGE)
    scale = POINTS_PER_INCH / page.ppi / unit
    width, height = _number(page.size.width * scale), _number(page.size.height * scale)

    def box(region: Region) -> str:
        corners = (region.x, page.size.height - region.bottom, region.right, page.size.height - region.y)
        return "[" + " ".join(_number(corner * scale) for corner in corners) + "]"

    date = page.when.strftime("(D:%Y%m%d%H%M%SZ)")
    out.object(
        _CATALOGUE, f"<< /Type /Catalog /Pages {_PAGES} 0 R /Metadata {_XMP} 0 R /OutputIntents [{_INTENT} 0 R] >>"
    )
    out.object(_PAGES, f"<< /Type /Pages /Kids [{_PAGE} 0 R] /Count 1 >>")
    out.object(
        _PAGE,
        f"<< /Type /Page /Parent {_PAGES} 0 R /MediaBox [0 0 {width} {height}] /BleedBox {box(page.bleed)} "
        f"/TrimBox {box(page.trim)} /UserUnit {_number(unit)} /Contents {_CONTENT} 0 R "
        f"/Resources << /XObject << /Im0 {_PICTURE} 0 R >> >> >>",
    )
    content = f"q {width} 0 0 {height} 0 0 cm /Im0 Do Q\n".encode()
    out.stream(_CONTENT, "", iter([content]), len(content))
    channels = page.bands
    out.stream(_PROFILE, f"/N {channels}", iter([page.profile]), len(page.profile))
    name = _text(page.profile_name)
    out.object(
        _INTENT,
        f"<< /Type /OutputIntent /S /GTS_PDFX /OutputConditionIdentifier {name} /Info {name} "
        f"/DestOutputProfile {_PROFILE} 0 R >>",
    )
    out.stream(_XMP, "/Type /Metadata /Subtype /XML", iter([page.xmp]), len(page.xmp))
    out.object(
        _INFO,
        f"<< /Title {_text(page.title)} /Creator (Kite Glass) /Producer (Kite Glass) /CreationDate {date} "
        f"/ModDate {date} /Trapped /False >>",
    )


def _picture_entries(page: Page, jpeg: bool) -> str:
    entries = (
        f"/Type /XObject /Subtype /Image /Width {page.size.width} /Height {page.size.height} "
        f"/BitsPerComponent {page.bits} /ColorSpace [/ICCBased {_PROFILE} 0 R] "
    )
    if jpeg:
        return entries + "/Filter /DCTDecode"
    predictor = f"/Predictor 15 /Colors {page.bands} /BitsPerComponent {page.bits} /Columns {page.size.width}"
    return entries + f"/Filter /FlateDecode /DecodeParms << {predictor} >>"


def _idat(png: Path) -> list[tuple[int, int]]:
    """Where the pixel stream of a PNG lies: offset and length of each piece, in order."""
    spans = []
    with png.open("rb") as file:
        place = 8
        while True:
            file.seek(place)
            length, kind = struct.unpack(">I4s", file.read(8))
            if kind == b"IDAT":
                spans.append((place + 8, length))
            if kind == b"IEND":
                return spans
            place += 12 + length


def _pieces(file: BinaryIO, spans: list[tuple[int, int]], run: Run) -> Iterator[bytes]:
    for start, length in spans:
        file.seek(start)
        for place in range(0, length, _PIECE):
            run.check()
            yield file.read(min(length - place, _PIECE))


def _number(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".")


def _text(text: str) -> str:
    """A text string (ISO 32000-1, 7.9.2.2): UTF-16 in hexadecimal, whatever it holds."""
    return f"<FEFF{text.encode('utf-16-be').hex().upper()}>"


class _Objects:
    """Objects of a PDF in the order they are written, and the table of where they begin."""

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._places: dict[int, int] = {}

    def raw(self, content: bytes) -> None:
        self._file.write(content)

    def object(self, number: int, body: str) -> None:
        self._places[number] = self._file.tell()
        self.raw(f"{number} 0 obj\n{body}\nendobj\n".encode("latin-1"))

    def stream(self, number: int, entries: str, pieces: Iterator[bytes], length: int) -> None:
        self._places[number] = self._file.tell()
        self.raw(f"{number} 0 obj\n<< {entries} /Length {length} >>\nstream\n".encode("latin-1"))
        for piece in pieces:
            self.raw(piece)
        self.raw(b"\nendstream\nendobj\n")

    def finish(self, catalogue: int, info: int, identity: str) -> None:
        """The cross-reference table and the trailer; objects must be numbered from 1 without gaps."""
        begin = self._file.tell()
        count = len(self._places) + 1
        self.raw(f"xref\n0 {count}\n0000000000 65535 f \n".encode())
        for number in range(1, count):
            self.raw(f"{self._places[number]:010} 00000 n \n".encode())
        trailer = f"<< /Size {count} /Root {catalogue} 0 R /Info {info} 0 R /ID [<{identity}> <{identity}>] >>"
        self.raw(f"trailer\n{trailer}\nstartxref\n{begin}\n%%EOF\n".encode())
