from django.test import AsyncClient
from django.test.utils import override_settings

from people.models import Person
from server_tests.base import PASSWORD, CommittedTestCase


class AtOnceTest(CommittedTestCase):
    """As an ASGI server asks: Django's middlewares do what they do one by one."""

    async def test_every_answer_carries_the_headers_of_all_of_them(self) -> None:
        answer = await AsyncClient().get("/api/session")
        self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
        self.assertEqual(answer.headers["X-Frame-Options"], "DENY")
        self.assertEqual(answer.headers["Referrer-Policy"], "same-origin")

    @override_settings(ALLOWED_HOSTS=["kite.example"])
    async def test_what_one_refuses_is_answered_by_those_before_it(self) -> None:
        answer = await AsyncClient().get("/api/session", headers={"Host": "elsewhere.example"})
        self.assertEqual(answer.status_code, 400)
        self.assertEqual(answer.headers["X-Content-Type-Options"], "nosniff")
        self.assertNotIn("X-Frame-Options", answer.headers)

    async def test_a_session_is_saved_when_it_has_changed_and_only_then(self) -> None:
        client = AsyncClient(enforce_csrf_checks=True)
        token = (await client.get("/api/session")).json()["csrf"]
        self.assertNotIn("sessionid", client.cookies)
        sent = {"name": "wren", "password": PASSWORD}
        answer = await client.post("/api/session", sent, "application/json", headers={"X-CSRFToken": token})
        self.assertEqual(answer.status_code, 200)
        self.assertIn("sessionid", answer.cookies)
        told = await client.get("/api/session")
        self.assertEqual(told.json()["name"], "wren")
        self.assertNotIn("sessionid", told.cookies)

    async def test_what_is_not_sent_from_an_open_page_is_refused(self) -> None:
        client = AsyncClient(enforce_csrf_checks=True)
        await client.aforce_login(await Person.objects.aget(username="wren"))
        answer = await client.post("/api/jobs", {"title": "Kites", "client": ""}, "application/json")
        self.assertEqual(answer.status_code, 403)
