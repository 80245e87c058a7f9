"""A bundle: finished files, their checksums and the ledger in one ZIP, sent while it is made."""

from __future__ import annotations

import io
from collections.abc import Iterator
from pathlib import Path
from zipfile import ZIP_DEFLATED, ZIP_STORED, ZipFile, ZipInfo

from django.utils import timezone

from common.store import store
from deliveries.ledger import Ledger, page

_CHUNK = 1024 * 1024


class _Outlet(io.RawIOBase):
    """What a ZipFile writes into; :meth:`taken` gives what has come since. It cannot be sought in."""

    def __init__(self) -> None:
        self._waiting = bytearray()

    def writable(self) -> bool:
        return True

    def write(self, content: bytes | bytearray | memoryview) -> int:  # type: ignore[override]
        self._waiting += content
        return len(content)

    def taken(self) -> bytes:
        content = bytes(self._waiting)
        self._waiting.clear()
        return content


def bundle(ledger: Ledger, paths: dict[str, Path]) -> Iterator[bytes]:
    """The bytes of a ZIP of ``paths`` (by their names inside), ``SHA256SUMS``, ``ledger.html`` and ``ledger.json``.

    Pictures are stored as they are, with ZIP64 where they are large; nothing is held but a chunk. Raises OSError when
    a file is gone.
    """
    outlet = _Outlet()
    now = timezone.localtime().timetuple()[:6]
    with ZipFile(outlet, "w", ZIP_STORED, allowZip64=True) as archive:
        for name, path in paths.items():
            store().here(path)
            about = ZipInfo(name, now)
            about.file_size = path.stat().st_size
            with path.open("rb") as file, archive.open(about, "w", force_zip64=True) as inside:
                while chunk := file.read(_CHUNK):
                    inside.write(chunk)
                    yield outlet.taken()
        sums = "".join(f"{entry.sha256}  {entry.file}\n" for entry in ledger.files)
        for name, text in (
            ("SHA256SUMS", sums), ("ledger.html", page(ledger)), ("ledger.json", ledger.model_dump_json(indent=2)),
        ):  # fmt: skip
            archive.writestr(ZipInfo(name, now), text, ZIP_DEFLATED)
    yield outlet.taken()
