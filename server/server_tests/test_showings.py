"""Showings: made of takes as they are, opened by their link and by nothing else, answered, and what follows from an answer."""

from __future__ import annotations

import io
from datetime import timedelta
from email import message_from_bytes, policy
from typing import Any
from unittest import mock

from django.core import mail
from django.core.mail.backends.filebased import EmailBackend
from django.test import Client, SimpleTestCase, override_settings
from django.utils import timezone
from PIL import Image, ImageFont

from kitecore.errors import EngineError
from kiteglass import audit
from kiteglass.logs import WithoutLinks
from pictures.models import Picture
from server_tests.base import ServerTestCase, plain, png_bytes
from showings import tasks
from showings.fonts import BOLD, REGULAR
from showings.models import Note, Showing, ShownPicture
from showings.tasks import show_picture
from spots.models import CheckSpot


class ShowingCase(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.shown = self.home / "showings"
        places = override_settings(SHOWINGS=self.shown)
        places.enable()
        self.addCleanup(places.disable)
        self.picture, self.take = self.picture_and_take(png_bytes(120, 90), steps=[plain(2)])
        self.nobody = Client()

    def make(self, **more: Any) -> dict[str, Any]:
        one = {"picture_id": self.picture["id"], "take_id": str(self.take.id)}
        wanted = {"title": "First look", "pictures": [one]} | more
        with self.captureOnCommitCallbacks(execute=True):
            made = self.send("post", f"/jobs/{self.job.id}/showings", wanted)
        self.assertEqual(made.status_code, 201, made.content)
        for row in ShownPicture.objects.filter(showing_id=made.json()["id"]):
            show_picture.func(str(row.id))
        return self.again(made.json())

    def again(self, showing: dict[str, Any]) -> dict[str, Any]:
        listed = self.send("get", f"/jobs/{self.job.id}/showings").json()
        found: dict[str, Any] = next(one for one in listed if one["id"] == showing["id"])
        return found

    def at(self, showing: dict[str, Any], rest: str = "") -> str:
        """An address of the API that its link opens."""
        return f"/api{showing['path']}{rest}"

    def answer(self, showing: dict[str, Any], verdict: str, client: Client | None = None) -> Any:
        said = {"verdict": verdict, "name": "Ines Marlow", "words": "The sail, please."}
        return self.send("post", f"{showing['path']}/pictures/0/answer", said, client or self.nobody)


class MadeTest(ShowingCase):
    def test_it_shows_the_take_as_it_was_and_nothing_larger_than_allowed(self) -> None:
        self.job.order = {"width": 10, "height": 7.5, "unit": "cm", "ppi": 200}
        self.job.save()
        spot = CheckSpot.objects.pin(Picture.objects.get(), CheckSpot(x=60, y=45).place, "rope")
        showing = self.make(longest=400)
        self.take.save_steps([plain(3)])
        told = self.nobody.get(self.at(showing)).json()
        (one,) = told["pictures"]
        self.assertEqual((one["width"], one["height"], one["ppi"]), (240, 180, 200))
        self.assertEqual((one["shown_width"], one["shown_height"]), (240, 180))
        self.assertEqual(one["spots"], ["rope"])
        self.assertEqual(one["done"], ["Brought to 2 times its size by Plain"])
        self.assertTrue({"Tone and colour"} <= {finding["title"] for finding in one["measured"]} or not one["measured"])
        for side in ("before", "after"):
            answer = self.nobody.get(self.at(showing, f"/pictures/0/{side}.jpg"))
            self.assertEqual(Image.open(io.BytesIO(answer.content)).size, (240, 180))
            self.assertEqual(answer["X-Robots-Tag"], "noindex, nofollow")
            self.assertEqual(answer["Referrer-Policy"], "no-referrer")
            self.assertEqual(self.nobody.get(self.at(showing, f"/pictures/0/spots/0/{side}.jpg")).status_code, 200)
        spot.soft_delete()
        self.assertEqual(self.nobody.get(self.at(showing)).json()["pictures"][0]["spots"], ["rope"])

    def test_smaller_is_smaller(self) -> None:
        self.take.save_steps([plain(8)])
        showing = self.make(longest=500, mark="not for print", with_spots=False)
        image = Image.open(io.BytesIO(self.nobody.get(self.at(showing, "/pictures/0/after.jpg")).content))
        self.assertEqual(image.size, (500, 375))
        self.assertEqual(showing["pictures"][0]["state"], "done")

    def test_what_cannot_be_shown_is_refused_with_a_sentence(self) -> None:
        one = {"picture_id": self.picture["id"], "take_id": str(self.take.id)}
        for wanted in (
            {"title": "", "pictures": [one]}, {"title": "x", "pictures": []}, {"title": "x", "pictures": [one], "longest": 9},
            {"title": "x", "pictures": [one], "email": "nobody"}, {"title": "x", "pictures": [one], "days": 0},
        ):  # fmt: skip
            answer = self.send("post", f"/jobs/{self.job.id}/showings", wanted)
            self.assertEqual(answer.status_code, 422, wanted)
            self.assertTrue(answer.json()["message"])
        other = self.upload(png_bytes(seed=3), "other.png").json()
        crossed = {"picture_id": other["id"], "take_id": str(self.take.id)}
        answer = self.send("post", f"/jobs/{self.job.id}/showings", {"title": "x", "pictures": [crossed]})
        self.assertEqual(answer.status_code, 404)
        self.assertFalse(Showing.objects.exists())

    def test_what_could_not_be_made_says_so_and_is_made_again(self) -> None:
        with mock.patch.object(tasks, "whole_view", side_effect=EngineError("The engine is gone.")):
            showing = self.make()
        self.assertEqual(showing["pictures"][0]["message"], "The engine is gone.")
        self.assertTrue(self.nobody.get(self.at(showing)).json()["pictures"][0]["failed"])
        self.assertEqual(self.nobody.get(self.at(showing, "/pictures/0/after.jpg")).status_code, 404)
        self.assertEqual(self.nobody.get(self.at(showing, "/pdf")).status_code, 409)
        self.send("post", f"/showings/{showing['id']}/pictures/0/retry")
        show_picture.func(str(ShownPicture.objects.get().id))
        self.assertEqual(self.nobody.get(self.at(showing, "/pictures/0/after.jpg")).status_code, 200)
        self.assertEqual(self.send("post", f"/showings/{showing['id']}/pictures/0/retry").status_code, 409)

    def test_the_pdf_has_a_page_for_the_picture_and_one_for_its_spots(self) -> None:
        CheckSpot.objects.pin(Picture.objects.get(), CheckSpot(x=60, y=45).place, "rope & <knot>")
        showing = self.make(words="Dear Ines,\nthese & those <b>.")
        for answer in (
            self.client.get(f"/api/showings/{showing['id']}/pdf"),
            self.nobody.get(self.at(showing, "/pdf")),
        ):
            self.assertEqual(answer["Content-Type"], "application/pdf")
            self.assertTrue(answer.content.startswith(b"%PDF-"))
            self.assertEqual(answer.content.count(b"/Type /Page\n"), 2)
            self.assertIn(b"/Subtype /Image", answer.content)


class FontsTest(SimpleTestCase):
    def test_names_and_notes_are_written_in_greek_and_cyrillic_as_well(self) -> None:
        for path in (REGULAR, BOLD):
            font = ImageFont.truetype(path, 40)

            def drawn(letter: str, font: ImageFont.FreeTypeFont = font) -> bytes:
                return bytes(font.getmask(letter))

            nothing = drawn("\uffff")
            self.assertEqual([letter for letter in "AÄßçŁőΩκάЖщїў" if drawn(letter) == nothing], [])


class LinkTest(ShowingCase):
    def test_only_its_link_opens_it(self) -> None:
        showing, other = self.make(), self.make(title="Another")
        token, wrong = showing["path"].split("/")[2], other["path"].split("/")[2]
        self.assertEqual(len(token), 72)
        for bent in (
            token[:-1] + ("0" if token[-1] != "0" else "1"),
            token[:32],
            token[:32] + wrong[32:],
            "0" * 72,
            "x",
            token + "0",
        ):
            for rest in ("", "/pictures/0/after.jpg", "/pdf"):
                self.assertEqual(self.nobody.get(f"/api/shown/{bent}{rest}").status_code, 404, bent)

    def test_nothing_else_is_reached_through_it(self) -> None:
        showing = self.make()
        token = showing["path"].split("/")[2]
        reached = set()
        for path, ways in self.client.get("/api/openapi.json").json()["paths"].items():
            for method in ways:
                address = path.format_map(_Everything(token))
                answer = Client().generic(method.upper(), address, "{}", content_type="application/json")
                if answer.status_code < 400:
                    reached.add((method, path))
        ours = {"/api/shown/{token}", "/api/shown/{token}/passphrase"}
        self.assertLessEqual({path for _, path in reached}, ours | {"/api/session", "/api/health"})
        self.assertIn(("get", "/api/shown/{token}"), reached)
        said = self.nobody.get(self.at(showing)).content.decode()
        for secret in (
            str(self.job.id),
            str(self.take.id),
            self.picture["id"],
            self.picture["sha256"],
            "wren",
            self.job.title,
        ):
            self.assertNotIn(secret, said)

    def test_it_ends_when_its_time_is_over_or_it_is_closed_and_can_be_opened_anew_by_another_link(self) -> None:
        showing = self.make(days=3)
        Showing.objects.update(expires=timezone.now() - timedelta(seconds=1))
        over = self.nobody.get(self.at(showing))
        self.assertEqual((over.status_code, over.json()["code"]), (410, "closed"))
        self.assertFalse(self.again(showing)["open"])
        renewed = self.send("post", f"/showings/{showing['id']}/renew").json()
        self.assertNotEqual(renewed["path"], showing["path"])
        self.assertEqual(self.nobody.get(self.at(showing)).status_code, 404)
        self.assertEqual(self.nobody.get(self.at(renewed)).status_code, 200)
        self.send("post", f"/showings/{showing['id']}/close")
        for rest in ("", "/pictures/0/after.jpg", "/pdf"):
            self.assertEqual(self.nobody.get(self.at(renewed, rest)).status_code, 410)
        self.assertEqual(self.answer(renewed, "approved").status_code, 410)

    def test_a_passphrase_is_asked_for_before_anything_is_seen_and_cannot_be_guessed_fast(self) -> None:
        showing = self.make(passphrase="seven gulls")
        for rest in ("", "/pictures/0/after.jpg", "/pdf"):
            answer = self.nobody.get(self.at(showing, rest))
            self.assertEqual((answer.status_code, answer.json()["code"]), (401, "locked"))
        self.assertEqual(self.answer(showing, "approved").status_code, 401)

        def give(words: str) -> Any:
            return self.send("post", f"{showing['path']}/passphrase", {"passphrase": words}, self.nobody)

        self.assertEqual(give("eight gulls").status_code, 400)
        self.assertEqual(give("seven gulls").status_code, 204)
        self.assertEqual(self.nobody.get(self.at(showing)).status_code, 200)
        self.assertEqual(Client().get(self.at(showing)).status_code, 401)
        cookie = self.nobody.cookies[f"showing-{showing['id'].replace('-', '')[:12]}"]
        self.assertTrue(cookie["httponly"] and cookie["samesite"] == "Strict")
        self.assertEqual(cookie["path"], f"/api{showing['path']}")
        for _ in range(5):
            give("nine gulls")
        self.assertEqual(give("seven gulls").status_code, 429)

    def test_only_its_owner_has_it(self) -> None:
        showing, stranger = self.make(), self.as_stranger()
        for method, path in (
            ("get", f"/jobs/{self.job.id}/showings"), ("post", f"/showings/{showing['id']}/close"),
            ("post", f"/showings/{showing['id']}/renew"), ("get", f"/showings/{showing['id']}/pdf"),
            ("get", f"/pictures/{self.picture['id']}/client-notes"),
        ):  # fmt: skip
            self.assertEqual(self.send(method, path, None if method == "get" else {}, stranger).status_code, 404, path)

    def test_the_log_tells_who_looked_and_not_what_opens_it(self) -> None:
        showing = self.make()
        with self.assertLogs(audit.LOG, "INFO") as log:
            self.nobody.get(self.at(showing))
            self.answer(showing, "approved")
        (looked, spoke) = log.output
        self.assertIn("looked at a showing", looked)
        with self.assertLogs("django.request", "WARNING") as warned:
            self.nobody.get(self.at(showing, "/pictures/7/after.jpg"))
        (record,) = warned.records
        self.assertTrue(WithoutLinks().filter(record))
        self.assertIn("pictures/7", record.getMessage())
        self.assertNotIn(showing["path"].split("/")[2][32:], record.getMessage())
        self.assertIn("spoke about a showing", spoke)
        token = showing["path"].split("/")[2]
        self.assertIn(token[:32], looked)
        self.assertNotIn(token[32:], looked + spoke)


class AnsweredTest(ShowingCase):
    def test_notes_come_back_as_places_of_the_source(self) -> None:
        frame = {"kind": "frame", "crop": {"x": 20, "y": 30, "width": 80, "height": 40}}
        self.take.save_steps([frame, plain(2)])
        showing = self.make()
        note = {"x": 0.25, "y": 0.5, "words": "Too dark here.", "name": "Ines Marlow"}
        told = self.send("post", f"{showing['path']}/pictures/0/notes", note, self.nobody).json()
        self.assertEqual(
            [(round(one["x"], 6), round(one["y"], 6)) for one in told["pictures"][0]["notes"]], [(0.25, 0.5)]
        )
        (back,) = self.send("get", f"/pictures/{self.picture['id']}/client-notes").json()
        self.assertEqual((back["x"], back["y"], back["words"], back["done"]), (40, 50, "Too dark here.", False))
        self.assertEqual(back["places"], {str(self.take.id): {"x": 40, "y": 40}})
        done = self.send("put", f"/client-notes/{back['id']}", {"done": True}).json()
        self.assertTrue(done["done"])
        self.assertEqual(
            self.send("put", f"/client-notes/{back['id']}", {"done": False}, self.as_stranger()).status_code, 404
        )
        for bad in ({"x": 2}, {"x": "NaN"}, {"words": "  "}, {"name": ""}, {"words": "a" * 3000}):
            answer = self.send("post", f"{showing['path']}/pictures/0/notes", note | bad, self.nobody)
            self.assertEqual(answer.status_code, 422, bad)
        self.assertEqual(Note.objects.count(), 1)

    def test_nobody_fills_the_disk_by_a_link(self) -> None:
        showing = self.make()
        note = {"x": 0.5, "y": 0.5, "words": "Again.", "name": "Ines"}
        with mock.patch("showings.client.MOST_NOTES", 2), mock.patch("showings.client.MOST_ANSWERS", 1):
            sent = [self.send("post", f"{showing['path']}/pictures/0/notes", note, self.nobody) for _ in range(3)]
            self.assertEqual([answer.status_code for answer in sent], [200, 200, 400])
            self.assertEqual([self.answer(showing, "changes").status_code for _ in range(2)], [200, 400])

    def test_the_last_word_counts_and_a_second_round_keeps_the_first(self) -> None:
        first = self.make()
        self.answer(first, "approved")
        self.answer(first, "changes")
        self.assertEqual(self.again(first)["pictures"][0]["answer"]["verdict"], "changes")
        second = self.make(title="Second look", follows=first["id"])
        self.assertEqual(second["round"], 2)
        self.assertTrue(self.again(first)["followed"])
        self.assertEqual(self.again(first)["pictures"][0]["answer"]["words"], "The sail, please.")
        self.assertIsNone(second["pictures"][0]["answer"])
        late = self.answer(first, "approved")
        self.assertEqual((late.status_code, "newer round" in late.json()["message"]), (409, True))
        self.assertIn("newer round", self.nobody.get(self.at(first)).json()["closed_to_answers"])
        one = {"picture_id": self.picture["id"], "take_id": str(self.take.id)}
        wanted = {"title": "Third", "pictures": [one], "follows": first["id"]}
        self.assertEqual(self.send("post", f"/jobs/{self.job.id}/showings", wanted).status_code, 409)

    def test_messages_are_in_the_outbox(self) -> None:
        self.owner.email = "wren@tern-sands.test"
        self.owner.save()
        outbox = self.home / "outbox"
        own = override_settings(
            EMAIL_FILE_PATH=outbox, EMAIL_BACKEND=f"{EmailBackend.__module__}.{EmailBackend.__name__}"
        )  # fmt: skip
        with own:
            showing = self.make(email="ines@example.test", words="Please look.", passphrase="seven gulls")
            self.nobody.post(
                self.at(showing, "/passphrase"), '{"passphrase": "seven gulls"}', content_type="application/json"
            )
            self.answer(showing, "approved")
        told = [
            message_from_bytes(path.read_bytes().split(b"\n---")[0], policy=policy.default) for path in outbox.iterdir()
        ]
        by_receiver = {message["To"]: message for message in told}
        to_client = by_receiver["ines@example.test"].get_content()
        self.assertIn(showing["path"], to_client)
        self.assertIn("Please look.", to_client)
        self.assertNotIn("gulls", to_client)
        self.assertIn("approved wall.png", by_receiver["wren@tern-sands.test"]["Subject"])
        self.assertEqual(mail.outbox, [])


class _Everything(dict[str, str]):
    """Stands for whatever an address has in braces."""

    def __init__(self, token: str) -> None:
        super().__init__()
        self._token = token

    def __missing__(self, key: str) -> str:
        return self._token
