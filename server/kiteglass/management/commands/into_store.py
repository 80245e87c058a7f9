from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from common.store import store

#: Folders whose files never change under their names, and those whose may.
_LASTING, _OTHERS = ("originals", "deliveries", "showings"), ("previews", "printers")


class Command(BaseCommand):
    """Put all files that last into the store; what is there already stays. May be run again at any time."""

    help = "Put a home's files into the store that KITE_STORE names."

    def handle(self, *args: Any, **options: Any) -> None:
        if store().shared is None:
            raise CommandError("KITE_STORE names no store.")
        count = 0
        for name in (*_LASTING, *_OTHERS):
            for path in sorted((store().home / name).rglob("*")):
                if path.is_file() and not path.name.startswith("."):
                    store().put(path, lasting=name in _LASTING)
                    count += 1
        for shelf in settings.SHELVES:
            with store().changing(shelf):
                pass
        self.stdout.write(f"{count} files and all shelves are in the store.")
