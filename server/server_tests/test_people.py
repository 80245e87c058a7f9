from django.core.cache import cache
from django.test import Client

from people.throttle import FAILURES
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

    def test_guessing_is_slowed_down(self) -> None:
        for _ in range(FAILURES):
            self.assertEqual(self.sign_in("guess"), 400)
        self.assertEqual(self.sign_in(PASSWORD), 429)
        self.assertEqual(self.sign_in(PASSWORD, "crow"), 200, "others are not kept out")
