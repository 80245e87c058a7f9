"""Printer profiles: list them, bring one, take one away."""

from __future__ import annotations

import hashlib
import uuid

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from common.store import store
from kitecore.colour.soft_proof import LARGEST_PROFILE, printer_of
from kitecore.errors import TooLarge
from people.signed_in import PersonRequest
from printers.models import PrinterProfile
from printers.shelf import SHIPPED, shipped

router = Router(tags=["printers"])


class PrinterOut(Schema):
    id: str = Field(description="As proofs name it.")
    name: str
    channels: int = Field(description="1 grey, 3 RGB, 4 CMYK.")
    shipped: bool = False


def _out(row: PrinterProfile) -> PrinterOut:
    return PrinterOut(id=str(row.id), name=row.name, channels=row.channels)


@router.get("/printers", response=list[PrinterOut])
def list_printers(request: PersonRequest) -> list[PrinterOut]:
    """The made-up printer that ships, and those the person brought."""
    first = shipped()
    return [
        PrinterOut(id=SHIPPED, name=first.name, channels=first.channels, shipped=True),
        *(_out(row) for row in PrinterProfile.objects.of(request.auth)),
    ]


@router.post("/printers", response={201: PrinterOut})
def bring_printer(request: PersonRequest) -> Status[PrinterOut]:
    """Keep an ICC profile, which is the body of the request. The same bytes again are the same printer."""
    content = _body(request)
    printer = printer_of(content)
    sha256 = hashlib.sha256(content).hexdigest()
    row = PrinterProfile.objects.filter(owner=request.auth, sha256=sha256).first()
    if row is None:
        row = PrinterProfile(owner=request.auth, sha256=sha256, channels=printer.channels)
    row.name, row.removed = printer.name[:200], None
    store().write(content, row.path)
    row.save()
    return Status(201, _out(row))


@router.delete("/printers/{printer_id}", response={204: None})
def remove_printer(request: PersonRequest, printer_id: uuid.UUID) -> Status[None]:
    """Take a printer off the list; bringing its profile again brings it back."""
    get_object_or_404(PrinterProfile.objects.of(request.auth), id=printer_id).soft_delete()
    return Status(204, None)


def _body(request: HttpRequest) -> bytes:
    content = request.read(LARGEST_PROFILE + 1)
    if len(content) > LARGEST_PROFILE:
        raise TooLarge(f"This profile is larger than {LARGEST_PROFILE / 1e6:.0f} MB; printers' profiles are smaller.")
    return content
