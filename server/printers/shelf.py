"""Finding a printer's profile by its name in the API."""

from __future__ import annotations

import uuid

from django.shortcuts import get_object_or_404

from common.errors import Refused
from common.store import store
from kitecore.colour.soft_proof import MADE_UP, Printer, printer_of
from people.models import Person
from printers.models import PrinterProfile

#: What the profile that ships is called in addresses.
SHIPPED = "made-up"


def shipped() -> Printer:
    return printer_of(MADE_UP.read_bytes())


def printer_named(person: Person, name: str) -> Printer:
    """The shipped printer, or one of the person's. Raises Http404 or Refused if it is not there."""
    if name == SHIPPED:
        return shipped()
    try:
        row = get_object_or_404(PrinterProfile.objects.of(person), id=uuid.UUID(name))
    except ValueError:
        raise Refused("There is no printer of that name; choose one from the list.") from None
    return printer_of(store().read(row.path))
