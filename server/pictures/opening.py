"""Pictures opened by workers, wherever their files are."""

from __future__ import annotations

from django.conf import settings

from common.store import store
from kitecore.files.source import Source
from pictures.models import Picture


def opened_here(picture: Picture) -> Source:
    """A picture's source on this machine, damaged or not, and beside it what the workshop brought: engines, tables, lenses.

    Raises FileNotFoundError, NoSpace, StoreFault, PictureError.
    """
    follow_shelves()
    return Source(picture.original.here(), settings.SCRATCH, picture.name, damaged=True, space=picture.space)


def follow_shelves() -> None:
    """Have here what was brought elsewhere. Raises NoSpace, StoreFault."""
    for shelf in settings.SHELVES:
        store().follow(shelf)
