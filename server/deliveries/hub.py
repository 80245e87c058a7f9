"""Who listens to changes of deliveries in this process: one connection to the database hears for all of them.

The database tells of every change by NOTIFY (see the triggers in the migrations); what changed is fetched once, however many
streams it goes to.
"""

from __future__ import annotations

import asyncio
import logging
from dataclasses import dataclass, field
from weakref import WeakKeyDictionary

import psycopg
from django.db import DatabaseError, connection

from common.errors import TooMany
from deliveries.models import Delivery
from deliveries.schemas import DeliveryOut

log = logging.getLogger(__name__)

#: Channels of NOTIFY: a delivery changed (“owner delivery”), a session ended (its key).
CHANGED, ENDED = "kite_delivery", "kite_session"
MOST_STREAMS_OF_ONE = 64
#: Changes that come close together are fetched together.
_GATHER_SECONDS = 0.15
_RECONNECT_SECONDS = 1.0
_MOST_MISSED = 200


@dataclass(eq=False)
class Stream:
    """One open page: what it is to be told. ``None`` ends it."""

    person: int
    session: str
    told: asyncio.Queue[tuple[str, str] | None] = field(default_factory=asyncio.Queue)


class Hub:
    """All streams of one event loop. Listens as long as there are any."""

    def __init__(self) -> None:
        self._streams: set[Stream] = set()
        self._changed: set[str] = set()
        self._listening: asyncio.Task[None] | None = None
        self._fetching: asyncio.Task[None] | None = None

    def open(self, person: int, session: str) -> Stream:
        """A stream for a page of somebody's. Raises TooMany beyond what one person may have open."""
        if sum(stream.person == person for stream in self._streams) >= MOST_STREAMS_OF_ONE:
            raise TooMany("Kite Glass is open in too many windows; close some of them and reload this one.")
        stream = Stream(person, session)
        self._streams.add(stream)
        if self._listening is None or self._listening.done():
            self._listening = asyncio.create_task(self._listen())
        return stream

    def close(self, stream: Stream) -> None:
        self._streams.discard(stream)
        if not self._streams and self._listening:
            self._listening.cancel()

    async def _listen(self) -> None:
        while self._streams:
            try:
                async with await _listener() as heard:
                    async for note in heard.notifies():
                        self._hear(note.channel, note.payload)
            except (psycopg.Error, OSError):
                log.warning("the database does not tell of changes any more; trying again")
                await asyncio.sleep(_RECONNECT_SECONDS)
                # What changed meanwhile nobody has told.
                self._changed |= await asyncio.to_thread(_newest)
                self._fetch_soon()

    def _hear(self, channel: str, payload: str) -> None:
        if channel == ENDED:
            for stream in self._streams:
                if stream.session == payload:
                    stream.told.put_nowait(None)
            return
        person, _, delivery = payload.partition(" ")
        if any(str(stream.person) == person for stream in self._streams):
            self._changed.add(delivery)
            self._fetch_soon()

    def _fetch_soon(self) -> None:
        if self._changed and (self._fetching is None or self._fetching.done()):
            self._fetching = asyncio.create_task(self._fetch())

    async def _fetch(self) -> None:
        while self._changed:
            await asyncio.sleep(_GATHER_SECONDS)
            wanted, self._changed = self._changed, set()
            try:
                rows = await asyncio.to_thread(_shown, wanted)
            except DatabaseError:
                self._changed |= wanted
                await asyncio.sleep(_RECONNECT_SECONDS)
                continue
            for owner, key, text in rows:
                for stream in self._streams:
                    if stream.person == owner:
                        stream.told.put_nowait((key, text))


async def _listener() -> psycopg.AsyncConnection:
    parameters = {key: value for key, value in connection.get_connection_params().items() if key in _CONNECTING}
    heard = await psycopg.AsyncConnection.connect(autocommit=True, **parameters)
    for channel in (CHANGED, ENDED):
        await heard.execute(f"LISTEN {channel}")
    return heard


_CONNECTING = {"dbname", "user", "password", "host", "port", "connect_timeout"}


def _shown(keys: set[str]) -> list[tuple[int, str, str]]:
    """Owner, id and JSON of deliveries."""
    try:
        rows = Delivery.objects.filter(id__in=keys, job__removed=None).select_related("picture__original", "job")
        return [(row.job.owner_id, str(row.id), DeliveryOut.from_orm(row).model_dump_json()) for row in rows]
    finally:
        # The thread may wait long for its next turn.
        connection.close()


def _newest() -> set[str]:
    try:
        newest = Delivery.objects.order_by("-modified").values_list("id", flat=True)[:_MOST_MISSED]
        return {str(key) for key in newest}
    except DatabaseError:
        return set()
    finally:
        connection.close()


_hubs: WeakKeyDictionary[asyncio.AbstractEventLoop, Hub] = WeakKeyDictionary()


def hub() -> Hub:
    """The hub of the running event loop."""
    return _hubs.setdefault(asyncio.get_running_loop(), Hub())
