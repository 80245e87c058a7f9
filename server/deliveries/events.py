"""Changes of a person's deliveries, as they happen, over server-sent events."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from datetime import timedelta

from asgiref.sync import sync_to_async
from django.db import DatabaseError, close_old_connections
from django.utils import timezone

from deliveries.models import Delivery
from deliveries.schemas import DeliveryOut
from people.models import Person

_LOOK_EVERY_SECONDS = 0.3
_KEEP_ALIVE_SECONDS = 15.0
#: Rows are looked at again for so long after they changed, for commits do not come in the order of their clocks.
_OVERLAP = timedelta(seconds=5)


async def delivery_events(person: Person) -> AsyncIterator[str]:
    """Events named ``delivery``, each with one delivery as JSON: what changed within the last minute, then every change."""

    def changed(since: object) -> list[tuple[str, str]]:
        close_old_connections()
        rows = Delivery.objects.of(person).filter(modified__gte=since)
        shown = [DeliveryOut.from_orm(row) for row in rows]
        return [(str(row.id), row.model_dump_json()) for row in shown]

    sent: dict[str, str] = {}
    silent = 0.0
    since = timezone.now() - timedelta(minutes=1)
    yield "retry: 2000\n\n"
    while True:
        looked = timezone.now()
        try:
            rows = await sync_to_async(changed)(since)
            since = looked - _OVERLAP
        except DatabaseError:
            rows = []
        for key, text in rows:
            if sent.get(key) != text:
                sent[key] = text
                silent = 0.0
                yield f"event: delivery\ndata: {text}\n\n"
        silent += _LOOK_EVERY_SECONDS
        if silent >= _KEEP_ALIVE_SECONDS:
            silent = 0.0
            yield ": still here\n\n"
        await asyncio.sleep(_LOOK_EVERY_SECONDS)
