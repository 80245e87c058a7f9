"""No address changes anything for a request that was not sent by a page of ours, nor for one that nobody has signed."""

from __future__ import annotations

import re
import uuid
from collections.abc import Iterator
from typing import Any

from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver

from server_tests.base import ServerTestCase

CHANGING = ("POST", "PUT", "PATCH", "DELETE")
#: Addresses at which somebody signs in have no session to protect; theirs is checked for itself.
WITHOUT_SESSION = {("POST", "/api/session")}
#: At these nobody is signed in: what opens them is in the address itself, which no page elsewhere knows.
BEHIND_LINKS = "/api/shown/"


def changing_addresses() -> Iterator[tuple[str, str]]:
    """Method and address, with something in the place of every parameter, of all that changes anything."""

    def walk(patterns: list[URLPattern | URLResolver], before: str) -> Iterator[tuple[str, Any]]:
        for one in patterns:
            address = before + str(one.pattern)
            if isinstance(one, URLResolver):
                yield from walk(one.url_patterns, address)
            else:
                yield address, one.callback

    for address, view in walk(get_resolver().url_patterns, "/"):
        operations = getattr(getattr(view, "__self__", None), "operations", None)
        if operations is None:
            operations = [cell.cell_contents for cell in getattr(view, "__closure__", None) or ()]
            operations = [one for cell in operations for one in getattr(cell, "operations", [])]
        filled = re.sub(r"<(?:(\w+):)?\w+>", lambda m: str(uuid.uuid4()) if m[1] == "uuid" else "1", address)
        for operation in operations:
            for method in operation.methods:
                if method in CHANGING:
                    yield method, filled


class ForgedTest(ServerTestCase):
    def answers(self, client: Client) -> Iterator[tuple[str, str, Any]]:
        for method, address in sorted(set(changing_addresses()) - WITHOUT_SESSION):
            if address.startswith(BEHIND_LINKS):
                continue
            body = b"{}"
            answer = client.generic(
                method, address, body, content_type="application/json", headers={"origin": "https://elsewhere.example"}
            )  # fmt: skip
            yield method, address, answer

    def test_every_changing_address_asks_for_the_token(self) -> None:
        self.assertGreater(len(set(changing_addresses())), 50)
        client = Client(enforce_csrf_checks=True)
        client.force_login(self.owner)
        for method, address, answer in self.answers(client):
            with self.subTest(f"{method} {address}"):
                self.assertEqual((answer.status_code, answer.json()["code"]), (403, "forged"))

    def test_every_changing_address_asks_who_it_is(self) -> None:
        for method, address, answer in self.answers(Client()):
            with self.subTest(f"{method} {address}"):
                self.assertEqual((answer.status_code, answer.json()["code"]), (401, "signed-out"))

    def test_behind_links_nothing_is_changed_without_one(self) -> None:
        body = {"passphrase": "x", "verdict": "approved", "name": "x", "x": 0.5, "y": 0.5, "words": "x"}
        addresses = {address for _, address in changing_addresses() if address.startswith(BEHIND_LINKS)}
        self.assertEqual(len(addresses), 3)
        for address in addresses:
            answer = Client().post(address, body, content_type="application/json")
            self.assertEqual((answer.status_code, answer.json()["code"]), (404, "missing"), address)

    def test_signing_in_asks_for_the_token_too(self) -> None:
        credentials = {"name": "wren", "password": "x"}
        answer = Client(enforce_csrf_checks=True).post("/api/session", credentials, content_type="application/json")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("open too long", answer.json()["message"])
