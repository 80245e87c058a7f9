"""The audit line: who signed in, took files along or took things away, when and from where; in the web server's log."""

from __future__ import annotations

import json
import logging
import re
from collections.abc import Awaitable, Callable

from asgiref.sync import markcoroutinefunction
from django.http import HttpRequest, HttpResponse

from kiteglass.logs import without_links

LOG = logging.getLogger("audit")
#: What is noted of requests that went well: their method, the end of their address, and what it is called.
_NOTED = (
    ("POST", re.compile(r"^/api/session$"), "signed in"),
    ("DELETE", re.compile(r"^/api/session$"), "signed out"),
    ("PUT", re.compile(r"^/api/password$"), "changed the password"),
    ("GET", re.compile(r"^/api/.*/(file|bundle)$"), "took along"),
    ("DELETE", re.compile(r"^/api/"), "took away"),
    ("GET", re.compile(r"^/api/shown/[^/]+$"), "looked at a showing"),
    ("POST", re.compile(r"^/api/shown/[^/]+/passphrase$"), "opened a showing"),
    ("POST", re.compile(r"^/api/shown/[^/]+/pictures/[^/]+/(notes|answer)$"), "spoke about a showing"),
    ("GET", re.compile(r"^/api/(shown|showings)/[^/]+/pdf$"), "took along"),
)
_REFUSED = re.compile(r"^/api/(session|password|shown/[^/]+/passphrase)$")


class Audit:
    """Middleware; one line a request that it is about: a word for what was done, then JSON."""

    async_capable, sync_capable = True, False

    def __init__(self, answer: Callable[[HttpRequest], Awaitable[HttpResponse]]) -> None:
        self._answer = answer
        markcoroutinefunction(self)

    async def __call__(self, request: HttpRequest) -> HttpResponse:
        # Who signs out is somebody else afterwards.
        before = await _name(request) if request.method == "DELETE" else ""
        response = await self._answer(request)
        if (what := _what(request, response.status_code)) is not None:
            who = before or await _name(request)
            told = {"who": who, "from": request.META.get("REMOTE_ADDR", ""), "address": without_links(request.path)}
            LOG.info("%s %s", what, json.dumps(told))
        return response


def _what(request: HttpRequest, status: int) -> str | None:
    if status >= 400:
        tried = request.method in ("POST", "PUT") and _REFUSED.match(request.path)
        return f"was refused ({status})" if tried else None
    return next((what for method, path, what in _NOTED if request.method == method and path.match(request.path)), None)


async def _name(request: HttpRequest) -> str:
    person = await request.auser()
    return person.get_username() if person.is_authenticated else ""
