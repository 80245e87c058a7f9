"""Many open pages: each holds a stream of events, and the list of jobs is there at once all the same."""

from __future__ import annotations

import socket
import statistics
import time
from contextlib import ExitStack
from typing import NamedTuple
from urllib.parse import urlsplit

from trials.person import Person


class Streams(NamedTuple):
    opened: int
    refused: int
    #: Seconds for the list of jobs while they are open: in the middle, and at most.
    middle: float
    longest: float


def streams(people: list[Person], count: int) -> Streams:
    """Open so many, shared out among people, and ask for the list of jobs meanwhile."""
    refused = 0
    with ExitStack() as held:
        for number in range(count):
            connection = held.enter_context(_stream(people[number % len(people)]))
            refused += b" 200 " not in connection.recv(200)
        spent = []
        for number in range(20):
            began = time.perf_counter()
            people[number % len(people)].get("/jobs")
            spent.append(time.perf_counter() - began)
    return Streams(count - refused, refused, statistics.median(spent), max(spent))


def _stream(person: Person) -> socket.socket:
    address = urlsplit(person.address)
    assert address.hostname and address.port
    connection = socket.create_connection((address.hostname, address.port), 30)
    lines = ("GET /api/events HTTP/1.1", f"Host: {address.netloc}", f"Cookie: {person.cookie}", "", "")
    connection.sendall("\r\n".join(lines).encode())
    return connection
