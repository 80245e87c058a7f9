"""Every field of every request of the API is sent what it does not expect: no answer is a fault, each is a sentence."""

from __future__ import annotations

import json
import random
from typing import Any

from django.test import Client

from cards.models import Card
from kiteglass.api import api
from server_tests.base import CommittedTestCase, plain
from server_tests.hostile import HOSTILE, LEFT_OUT, addressed, places_in, values_of, with_at

#: How many hostile requests each operation gets, at most, drawn by a fixed seed; ``bin/trial`` sends more.
EACH = 30


class HostileTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(steps=[plain(2)])
        self.schema = json.loads(json.dumps(api.get_openapi_schema(), default=str))
        self.client.raise_request_exception = False
        self.random = random.Random(11)
        self.ids = {"job_id": self.job.id, "picture_id": self.picture["id"], "take_id": self.take.id}

    def address(self, path: str) -> str:
        return addressed(path, self.ids)

    def tell(self, answer: Any, what: str) -> None:
        self.assertLess(answer.status_code, 500, f"{what}: {answer.content[:300]!r}")
        if answer.status_code >= 400:
            told = answer.json()
            self.assertTrue(told.get("message"), f"{what}: {told}")

    def test_bodies(self) -> None:
        sent = 0
        for path, operations in self.schema["paths"].items():
            for method, operation in operations.items():
                content = operation.get("requestBody", {}).get("content", {}).get("application/json")
                if content is None or (method, path) in LEFT_OUT:
                    continue
                usual = values_of(content["schema"], self.schema)
                tries = [(place, put) for place in places_in(usual) for put in HOSTILE]
                for place, put in self.random.sample(tries, min(EACH, len(tries))):
                    body = json.dumps(with_at(usual, place, put))
                    answer = self.client.generic(method.upper(), self.address(path), body, "application/json")
                    self.tell(answer, f"{method} {path} with {put!r} at {place}")
                    sent += 1
        self.assertGreater(sent, 800)

    def test_addresses_and_questions(self) -> None:
        for path, operations in self.schema["paths"].items():
            for method, operation in operations.items():
                if method != "get":
                    continue
                for parameter in operation.get("parameters", []):
                    for put in ("%00", "%ED%A0%80", "x" * 3000, "-1", "NaN", "..%2F..", "1e400"):
                        address = self.address(path)
                        if parameter["in"] == "query":
                            address = f"{address}?{parameter['name']}={put}"
                        elif parameter["in"] == "path":
                            before = path.replace("{" + parameter["name"] + "}", put)
                            address = self.address(before)
                        self.tell(self.client.get(address), f"{path} with {parameter['name']}={put}")

    def test_what_is_no_request_at_all(self) -> None:
        deep = "[" * 100_000 + "]" * 100_000
        for body in (
            "",
            "{",
            "[1, 2",
            "\xff\xfe",
            "null",
            deep,
            '{"title": NaN}',
            '{"title": "a\\u0000b"}',
            '{"title": "\\ud800"}',
        ):
            for method, path in (("POST", "/api/jobs"), ("PUT", f"/api/takes/{self.take.id}")):
                answer = self.client.generic(method, path, body, "application/json")
                self.tell(answer, f"{path}: {body[:20]!r}")
                # Without anything a take has no steps, which it may.
                self.assertTrue(answer.status_code >= 400 or body == "null", body[:20])

    def test_what_the_api_is_like_is_told_to_those_who_are_signed_in(self) -> None:
        self.assertEqual(self.client.get("/api/openapi.json").status_code, 200)
        asked = Client().get("/api/openapi.json")
        self.assertEqual((asked.status_code, asked.json()["code"]), (401, "signed-out"))
        astray = self.client.get("/api/no/such/thing")
        self.assertEqual((astray.status_code, astray.json()["code"]), (404, "missing"))

    def test_a_card_of_a_long_name_is_used_twice(self) -> None:
        card = Card.objects.create(owner=self.owner, name="k" * 59, steps=[plain(1)])
        for _ in range(3):
            made = self.send("post", f"/cards/{card.id}/apply", {"pictures": [self.picture["id"]]})
            self.tell(made, "card")
