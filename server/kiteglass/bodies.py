"""Bodies of requests are let in by who sends them and how large they are, before any of them is read.

The web framework spools a body to disk before it looks at the address or the session; this stands before it.
"""

from __future__ import annotations

import json
import re
from collections.abc import Awaitable, Callable, MutableMapping
from http.cookies import CookieError, SimpleCookie
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth import get_user
from django.contrib.sessions.backends.db import SessionStore
from django.db import OperationalError, connection
from django.http import HttpRequest

from kitecore.engines.importing import MOST_MANIFEST_BYTES, MOST_NETWORK_BYTES

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Any, Any, Any], Awaitable[None]]

#: So much may come from anybody: a sign-in has to.
FROM_ANYBODY = 16 * 1024
#: Most of what is sent is settings; the framework takes no more than that into memory.
USUAL = 4 * 1024 * 1024
#: What a form adds to the files in it.
_FORM = 64 * 1024
_FILES = re.compile(r"^/api/(jobs/[^/]+/(pictures|clips)|pictures/[^/]+/outside)$")
_SHELVES = {
    "/api/engines": MOST_NETWORK_BYTES + MOST_MANIFEST_BYTES + _FORM,
    "/api/tables": 32 * 1024 * 1024, "/api/printers": 32 * 1024 * 1024,
}  # fmt: skip


def most_bytes(path: str) -> int:
    """How large the body of a request to an address may be."""
    return settings.MOST_UPLOAD_BYTES if _FILES.match(path) else _SHELVES.get(path, USUAL)


class TooMuch(Exception):
    """More has come than was let in."""


def guarded(application: Application) -> Application:
    """The application behind a guard that looks at what comes."""

    async def guard(scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await application(scope, receive, send)
        elif (refusal := await _refusal(scope)) is not None:
            await _refuse(send, *refusal)
        else:
            await _counted(application, scope, receive, send, most_bytes(scope["path"]))

    return guard


async def _refusal(scope: Scope) -> tuple[int, str, str] | None:
    """Status, code and sentence, if what is to come is not let in."""
    headers = {name.decode("latin1").lower(): value.decode("latin1") for name, value in scope["headers"]}
    length, most = headers.get("content-length", ""), most_bytes(scope["path"])
    told = int(length) if length.isdigit() and len(length) < 20 else None
    comes = told is not None or "transfer-encoding" in headers
    if told is not None and told > most:
        return 413, "too-large", f"This is larger than the {most / 1e6:,.0f} MB that are taken here."
    if not comes or (told is not None and told <= FROM_ANYBODY):
        return None
    try:
        known = await sync_to_async(_known, thread_sensitive=False)(headers.get("cookie", ""))
    except OperationalError:
        return 503, "no-database", "The database does not answer. Nothing is lost; try again in a moment."
    return None if known else (401, "signed-out", "You are signed out; sign in to go on.")


async def _counted(application: Application, scope: Scope, receive: Receive, send: Send, most: int) -> None:
    """The application, given no more than was let in, whatever the header said."""
    come, begun = 0, False

    async def counted() -> Message:
        nonlocal come
        message = await receive()
        come += len(message.get("body", b""))
        if come > most:
            raise TooMuch
        return message

    async def noted(message: Message) -> None:
        nonlocal begun
        begun = True
        await send(message)

    try:
        await application(scope, counted, noted)
    except TooMuch:
        if not begun:
            await _refuse(send, 413, "too-large", f"More has come than the {most / 1e6:,.0f} MB that are taken here.")


def _known(cookies: str) -> bool:
    """Whether a session's cookie is among these, and of somebody who may sign in."""
    try:
        key = SimpleCookie(cookies).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return False
    if key is None or not key.value:
        return False
    request = HttpRequest()
    request.session = SessionStore(key.value)
    try:
        person = get_user(request)
        return bool(person.is_authenticated and person.is_active)
    finally:
        # No request of the framework's ends in this thread, which would give it back.
        connection.close()


async def _refuse(send: Send, status: int, code: str, message: str) -> None:
    content = json.dumps({"code": code, "message": message}).encode()
    # What still comes is not read, so nothing else can come this way.
    headers = [
        (b"content-type", b"application/json"),
        (b"content-length", b"%d" % len(content)),
        (b"connection", b"close"),
    ]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": content})


__all__ = ["FROM_ANYBODY", "USUAL", "guarded", "most_bytes"]
