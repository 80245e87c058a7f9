import json
from pathlib import Path
from unittest import mock

from django.core.cache import cache
from django.test import Client

from common.errors import TooMany
from launch.application import services
from people import throttle
from people.throttle import FAILURES, FAILURES_OF_ADDRESS, FAILURES_OF_NAME
from server_tests.base import PASSWORD, ServerTestCase


class SignInTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        cache.clear()
        self.client = Client(enforce_csrf_checks=True)

    def token(self) -> str:
        return self.client.get("/api/session").json()["csrf"]

    def sign_in(self, password: str, name: str = "wren") -> int:
        return self.client.post(
            "/api/session",
            {"name": name, "password": password},
            "application/json",
            headers={"X-CSRFToken": self.token()},
        ).status_code

    def test_in_and_out(self) -> None:
        self.assertEqual(self.client.get("/api/jobs").status_code, 401)
        self.assertEqual(self.sign_in("wrong"), 400)
        self.assertEqual(self.sign_in(PASSWORD), 200)
        self.assertEqual(self.client.get("/api/session").json()["name"], "wren")
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)
        self.assertEqual(self.client.delete("/api/session", headers={"X-CSRFToken": self.token()}).status_code, 200)
        self.assertEqual(self.client.get("/api/jobs").status_code, 401)

    def test_changing_requests_need_the_token(self) -> None:
        body = {"name": "wren", "password": PASSWORD}
        self.assertEqual(self.client.post("/api/session", body, "application/json").status_code, 400)
        self.assertEqual(self.sign_in(PASSWORD), 200)
        job = {"title": "Stolen"}
        self.assertEqual(self.client.post("/api/jobs", job, "application/json").status_code, 403)
        headers = {"X-CSRFToken": self.token()}
        self.assertEqual(self.client.post("/api/jobs", job, "application/json", headers=headers).status_code, 201)

    def change(self, old: str, new: str) -> int:
        return self.client.put(
            "/api/password", {"old": old, "new": new}, "application/json", headers={"X-CSRFToken": self.token()}
        ).status_code

    def test_every_other_session_ends_with_the_password(self) -> None:
        self.assertEqual(self.sign_in(PASSWORD), 200)
        mine, self.client = self.client, Client(enforce_csrf_checks=True)
        self.assertEqual(self.sign_in(PASSWORD), 200)
        other, self.client = self.client, mine
        for old, new in (("wrong", "kites-over-the-dunes"), (PASSWORD, "short"), (PASSWORD, "password")):
            self.assertEqual(self.change(old, new), 400, new)
        self.assertEqual(other.get("/api/jobs").status_code, 200)
        self.assertEqual(self.change(PASSWORD, "kites-over-the-dunes"), 200)
        self.assertEqual(mine.get("/api/jobs").status_code, 200)
        self.assertEqual(other.get("/api/jobs").status_code, 401)
        self.client = Client(enforce_csrf_checks=True)
        self.assertEqual(self.sign_in(PASSWORD), 400)
        self.assertEqual(self.sign_in("kites-over-the-dunes"), 200)

    def test_an_audit_line_tells_who_came_took_along_and_took_away(self) -> None:
        with self.assertLogs("audit", "INFO") as lines:
            self.sign_in("wrong")
            self.sign_in(PASSWORD)
            headers = {"X-CSRFToken": self.token()}
            job = self.client.post("/api/jobs", {"title": "Short"}, "application/json", headers=headers).json()["id"]
            self.client.get(f"/api/jobs/{job}")
            self.client.delete(f"/api/jobs/{job}", headers=headers)
            self.client.delete("/api/session", headers=headers)
        told = [line.split(":", 2)[2] for line in lines.output]
        self.assertEqual([line.split(" {")[0] for line in told], [
            "was refused (400)", "signed in", "took away", "signed out",
        ])  # fmt: skip
        self.assertEqual([json.loads(line[line.index("{") :])["who"] for line in told], ["", "wren", "wren", "wren"])
        self.assertIn(job, told[2])

    def test_guessing_is_slowed_down(self) -> None:
        for _ in range(FAILURES):
            self.assertEqual(self.sign_in("guess"), 400)
        self.assertEqual(self.sign_in(PASSWORD), 429)
        self.assertEqual(self.sign_in(PASSWORD, "crow"), 200, "others are not kept out")

    def test_tries_that_come_at_once_count(self) -> None:
        """Each is counted before its password is looked at, which takes a while."""
        looked = []

        def slow(*_: object, **told: object) -> None:
            looked.append(told)
            if len(looked) == 1:
                # While the first is looked at, many more come.
                answers = [self.sign_in("guess") for _ in range(12)]
                self.assertEqual(answers.count(429), 12 - (FAILURES - 1))

        with mock.patch("people.api.authenticate", slow):
            self.assertEqual(self.sign_in("guess"), 400)
        self.assertEqual(len(looked), FAILURES)

    def test_a_name_and_an_address_have_bounds_of_their_own(self) -> None:
        for number in range(FAILURES_OF_NAME):
            throttle.attempt("tern", f"10.0.0.{number}")
        with self.assertRaises(TooMany):
            throttle.attempt("tern", "10.0.1.1")
        for number in range(FAILURES_OF_ADDRESS):
            throttle.attempt(f"name {number}", "10.9.9.9")
        with self.assertRaises(TooMany):
            throttle.attempt("gull", "10.9.9.9")

    def test_who_a_request_is_from_is_believed_of_named_proxies_only(self) -> None:
        plain, named = (
            services(Path("/nowhere"), variables, 1)[0].command for variables in ({}, {"KITE_PROXIES": "10.1.1.1"})
        )
        self.assertIn("--no-proxy-headers", plain)
        self.assertEqual(named[named.index("--forwarded-allow-ips") + 1], "10.1.1.1")
