"""Changes of a person's deliveries, as they happen, over server-sent events."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from datetime import timedelta

from asgiref.sync import sync_to_async
from django.db import DatabaseError, connection
from django.utils import timezone

from deliveries.hub import Stream, hub
from deliveries.models import Delivery
from deliveries.schemas import DeliveryOut
from people.models import Person

_KEEP_ALIVE_SECONDS = 15.0
_SINCE = timedelta(minutes=1)


async def delivery_events(person: Person, stream: Stream) -> AsyncIterator[str]:
    """Events named ``delivery``, each with one delivery as JSON: what changed within the last minute, then every change.

    Ends when the person signs out.
    """
    sent: dict[str, str] = {}
    try:
        yield "retry: 2000\n\n"
        for told in await _recent(person):
            stream.told.put_nowait(told)
        while True:
            try:
                async with asyncio.timeout(_KEEP_ALIVE_SECONDS):
                    news = await stream.told.get()
            except TimeoutError:
                yield ": still here\n\n"
                continue
            if news is None:
                return
            key, text = news
            if sent.get(key) != text:
                sent[key] = text
                yield f"event: delivery\ndata: {text}\n\n"
    finally:
        hub().close(stream)


@sync_to_async
def _recent(person: Person) -> list[tuple[str, str]]:
    try:
        rows = Delivery.objects.of(person).filter(modified__gte=timezone.now() - _SINCE)
        return [(str(row.id), DeliveryOut.from_orm(row).model_dump_json()) for row in rows]
    except DatabaseError:
        return []
    finally:
        # Whoever recognised the person used the same one; an open page must not hold it for as long as it is open.
        connection.close()
