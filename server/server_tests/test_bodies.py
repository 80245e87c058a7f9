"""What is sent is let in by who sends it and how large it is, before any of it is kept."""

from __future__ import annotations

import asyncio
import json
from typing import Any

from django.test import Client

from kiteglass.bodies import FROM_ANYBODY, USUAL, guarded, most_bytes
from server_tests.base import PASSWORD, CommittedTestCase


class BodiesTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        #: Bytes that the application behind the guard was given, request by request.
        self.read: list[int] = []

    async def application(self, scope: Any, receive: Any, send: Any) -> None:
        self.read.append(0)
        more = True
        while more:
            message = await receive()
            self.read[-1] += len(message.get("body", b""))
            more = message.get("more_body", False)
        await send({"type": "http.response.start", "status": 204, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    def send_body(self, path: str, length: int, told: int | None, cookie: str = "") -> tuple[int, dict[str, str]]:
        """Status and answer of a request with so many bytes, of which the header tells so many; None: nothing."""
        headers = [(b"cookie", cookie.encode())]
        headers.append((b"transfer-encoding", b"chunked") if told is None else (b"content-length", b"%d" % told))
        sent: list[Any] = []

        async def go() -> None:
            left = length

            async def receive() -> dict[str, Any]:
                nonlocal left
                size = min(left, 1 << 20)
                left -= size
                return {"type": "http.request", "body": bytes(size), "more_body": left > 0}

            async def send(message: dict[str, Any]) -> None:
                sent.append(message)

            scope = {"type": "http", "method": "POST", "path": path, "headers": headers}
            await guarded(self.application)(scope, receive, send)

        asyncio.run(go())
        content = b"".join(one.get("body", b"") for one in sent)
        return sent[0]["status"], json.loads(content) if content else {}

    def cookie(self) -> str:
        client = Client()
        client.login(username="wren", password=PASSWORD)
        return f"theme=dark; sessionid={client.cookies['sessionid'].value}"

    def test_strangers_send_no_more_than_a_sign_in_takes(self) -> None:
        path = f"/api/jobs/{self.job.id}/pictures"
        for cookie in ("", "sessionid=", "sessionid=forged0123456789forged", 'sessionid="'):
            status, answer = self.send_body(path, 1_000_000, 1_000_000, cookie)
            self.assertEqual((status, answer["code"]), (401, "signed-out"), cookie)
            self.assertEqual(self.send_body(path, 1_000_000, None, cookie)[0], 401)
        self.assertEqual(self.read, [])
        self.assertEqual(self.send_body("/api/session", 200, 200)[0], 204)
        self.assertEqual(self.send_body("/api/session", FROM_ANYBODY + 1, FROM_ANYBODY + 1)[0], 401)

    def test_who_is_signed_in_sends_pictures_and_little_else_that_is_large(self) -> None:
        cookie = self.cookie()
        self.assertEqual(self.send_body(f"/api/jobs/{self.job.id}/pictures", 9_000_000, 9_000_000, cookie)[0], 204)
        self.assertEqual(self.send_body("/api/jobs", 9_000_000, 9_000_000, cookie)[0], 413)
        self.assertEqual(self.read, [9_000_000])
        self.assertGreater(most_bytes("/api/engines"), most_bytes("/api/tables"))
        self.assertEqual(most_bytes("/api/takes/1"), USUAL)

    def test_what_the_header_does_not_tell_is_counted(self) -> None:
        cookie = self.cookie()
        for told in (None, 100):
            status, answer = self.send_body("/api/jobs", 3 * USUAL, told, cookie)
            self.assertEqual((status, answer["code"]), (413, "too-large"))
            self.assertLessEqual(self.read[-1], USUAL)

    def test_sessions_that_have_ended_are_strangers(self) -> None:
        cookie = self.cookie()
        self.owner.is_active = False
        self.owner.save()
        self.assertEqual(self.send_body("/api/jobs", 1_000_000, 1_000_000, cookie)[0], 401)
