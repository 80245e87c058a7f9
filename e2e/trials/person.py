"""Somebody who uses the API as a browser does."""

from __future__ import annotations

import json
import time
from http.cookiejar import CookieJar
from typing import Any, NamedTuple
from urllib.error import HTTPError, URLError
from urllib.request import HTTPCookieProcessor, Request, build_opener

#: How long it is tried anew while the server is away.
_PATIENCE_SECONDS = 120.0


class Answer(NamedTuple):
    status: int
    content: bytes

    @property
    def told(self) -> Any:
        return json.loads(self.content)


class Person:
    """Signed in under a name."""

    def __init__(self, address: str, name: str, password: str) -> None:
        self.address = address
        self._opener = build_opener(HTTPCookieProcessor(cookies := CookieJar()))
        self._cookies = cookies
        self._token = self.patiently("GET", "/session").told["csrf"]
        signed_in = self.patiently("POST", "/session", {"name": name, "password": password})
        if signed_in.status != 200:
            raise SystemExit(f"{name} could not sign in: {signed_in.told['message']}")
        self._token = signed_in.told["csrf"]

    @property
    def cookie(self) -> str:
        """For connections that are opened by hand."""
        return "; ".join(f"{one.name}={one.value}" for one in self._cookies)

    def ask(
        self, method: str, path: str, body: Any = None, kind: str = "application/json", timeout: float = 120
    ) -> Answer:
        """Send a request, a body of bytes as it is and any other as JSON. Raises OSError if nobody answers."""
        content = body if isinstance(body, bytes) or body is None else json.dumps(body).encode()
        request = Request(f"{self.address}/api{path}", content, method=method)
        if method != "GET":
            request.add_header("X-CSRFToken", self._token)
            request.add_header("Content-Type", kind)
        try:
            with self._opener.open(request, timeout=timeout) as answer:
                return Answer(answer.status, answer.read())
        except HTTPError as error:
            return Answer(error.code, error.read())

    def patiently(self, method: str, path: str, body: Any = None) -> Answer:
        """The same, tried anew as long as the server or its database is away; only for what may be asked twice."""
        until = time.monotonic() + _PATIENCE_SECONDS
        while True:
            try:
                answer = self.ask(method, path, body)
                if answer.status != 503:
                    return answer
            except (URLError, OSError):
                pass
            if time.monotonic() > until:
                raise SystemExit(f"Nobody has answered {path} for {_PATIENCE_SECONDS:.0f} s.")
            time.sleep(0.2)

    def get(self, path: str) -> Any:
        return self.patiently("GET", path).told
