"""Look-up tables: what is on the shelf, and bringing one's own."""

from __future__ import annotations

import json
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja import File, Router, Schema, Status
from ninja import Path as InPath
from ninja.files import UploadedFile

from common.errors import Refused
from common.files import write_whole
from common.store import store
from kitecore.colour.cube import MOST_BYTES, read_cube, table_id

router = Router(tags=["tables"])


class TableOut(Schema):
    id: str
    name: str
    size: str


def _about(name: str) -> Path:
    return settings.TABLES / f"{name}.json"


def _shown(path: Path) -> TableOut:
    told = json.loads(_about(path.stem).read_text())
    return TableOut(id=path.stem, name=told["name"], size=told["size"])


@router.get("/tables", response=list[TableOut])
def list_tables(request: HttpRequest) -> list[TableOut]:
    """Every table on the shelf, by name."""
    store().follow(settings.TABLES)
    found = [_shown(path) for path in settings.TABLES.glob("*.cube") if _about(path.stem).is_file()]
    return sorted(found, key=lambda table: table.name.lower())


@router.post("/tables", response={201: TableOut})
def bring(request: HttpRequest, file: File[UploadedFile]) -> Status[TableOut]:
    """Bring a .cube file; it is read whole, and what is wrong with it is said. The same file is there once."""
    if (file.size or 0) > MOST_BYTES:
        raise Refused(f"{file.name} is larger than the {MOST_BYTES / 1e6:,.0f} MB that are accepted.")
    content = file.read()
    table = read_cube(content)
    size = (
        f"{len(table.three)}³"
        if table.three is not None
        else f"{len(table.one)} steps"
        if table.one is not None
        else ""
    )
    name = table_id(content)
    path = settings.TABLES / f"{name}.cube"
    told = {"name": (table.title or Path(file.name or "table").stem)[:80], "size": size}
    with store().changing(settings.TABLES):
        write_whole(json.dumps(told).encode(), _about(name))
        write_whole(content, path)
    return Status(201, _shown(path))


@router.get("/tables/{name}/file", include_in_schema=False)
def download(request: HttpRequest, name: str = InPath(pattern=r"^[0-9a-f]{32}$")) -> HttpResponse:
    """The file of a table, as it was brought."""
    path = _there(name)
    response = HttpResponse(path.read_bytes(), content_type="text/plain; charset=utf-8")
    response["Content-Disposition"] = content_disposition_header(True, f"{_shown(path).name}.cube") or "attachment"
    return response


@router.delete("/tables/{name}", response={204: None})
def take_down(request: HttpRequest, name: str = InPath(pattern=r"^[0-9a-f]{32}$")) -> Status[None]:
    """Take a table off the shelf. Takes that use it say so until it is brought again."""
    path = _there(name)
    with store().changing(settings.TABLES):
        path.unlink(missing_ok=True)
        _about(name).unlink(missing_ok=True)
    return Status(204, None)


def _there(name: str) -> Path:
    path: Path = settings.TABLES / f"{name}.cube"
    if not path.is_file():
        raise Refused("There is no such table on the shelf any more.")
    return path
