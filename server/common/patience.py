"""Waiting for a database that has gone away."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import TypeVar

from django.db import DatabaseError, connection

_PATIENCE_SECONDS = 120.0
Result = TypeVar("Result")


def patiently(action: Callable[[], Result]) -> Result:
    """Do something with the database, waiting for it if it has gone away. Raises DatabaseError if it does not come back."""
    until = time.monotonic() + _PATIENCE_SECONDS
    while True:
        try:
            return action()
        except DatabaseError:
            connection.close()
            if time.monotonic() > until:
                raise
            time.sleep(1)
