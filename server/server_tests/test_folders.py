"""Hand-off folders: files come in once, finished ones go out once, and nothing outside the roots is touched."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any
from unittest import mock

import tifffile
from django.test import override_settings

from cards.models import Card
from deliveries.models import Delivery, State
from deliveries.tasks import deliver
from folders import looking
from folders.models import HandOff
from jobs.models import Job
from pictures.models import Picture
from readings.tasks import read
from server_tests.base import ServerTestCase, plain, png_bytes


class FoldersTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.root = self.home / "shared"
        self.inbox, self.outbox = self.root / "in", self.root / "out"
        for folder in (self.inbox, self.outbox):
            folder.mkdir(parents=True)
        allowed = override_settings(FOLDERS=[str(self.root)])
        allowed.enable()
        self.addCleanup(allowed.disable)

    def lay(self, name: str, content: bytes | None = None, age: float = 60) -> Path:
        path = self.inbox / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content or png_bytes(64, 48, seed=len(name)))
        at = path.stat().st_mtime - age
        os.utime(path, (at, at))
        return path

    def begin(self, **wanted: Any) -> Any:
        body = {"inbox": str(self.inbox), "outbox": str(self.outbox)} | wanted
        return self.send("post", f"/jobs/{self.job.id}/hand-offs", body)

    def look(self) -> dict[str, Any]:
        for hand_off in HandOff.objects.filter(removed=None):
            looking.look_into(hand_off)
        return self.client.get(f"/api/jobs/{self.job.id}/hand-offs").json()[0]

    def names(self) -> list[str]:
        return sorted(Picture.objects.values_list("name", flat=True))

    def out(self) -> list[str]:
        return sorted(str(path.relative_to(self.outbox)) for path in self.outbox.rglob("*") if path.is_file())

    def test_a_file_becomes_a_picture_once_and_stays_where_it_is(self) -> None:
        self.begin()
        path = self.lay("one.png")
        before = path.read_bytes(), path.stat().st_mtime_ns
        self.assertEqual(self.look()["came"], 1)
        self.lay("deeper/two.png")
        self.assertEqual(self.look()["came"], 2)
        self.assertEqual(self.look()["came"], 2)
        self.assertEqual(self.names(), ["one.png", "two.png"])
        self.assertEqual((path.read_bytes(), path.stat().st_mtime_ns), before)

    def test_what_is_still_being_written_waits(self) -> None:
        self.begin()
        self.lay("fresh.png", age=0)
        self.lay("half.png.part")
        self.lay(".hidden.png")
        self.assertEqual(self.look()["came"], 0)
        self.lay("fresh.png", age=30)
        self.assertEqual(self.look()["came"], 1)

    def test_a_file_that_is_changed_comes_again(self) -> None:
        self.begin()
        self.lay("one.png")
        self.look()
        self.lay("one.png", png_bytes(30, 20, seed=9), age=10)
        self.assertEqual(self.look()["came"], 2)

    def test_what_is_no_picture_is_told_once(self) -> None:
        self.begin()
        self.lay("notes.txt", b"bring thread")
        self.lay("broken.png", b"\x89PNG\r\n\x1a\nnothing")
        told = self.look()
        self.assertEqual([one["name"] for one in told["refused"]], ["broken.png", "notes.txt"])
        self.assertIn("left where it is", told["refused"][1]["problem"])
        self.assertEqual(self.look(), told)
        self.assertEqual(self.names(), [])

    def test_an_inbox_is_one_persons_whatever_is_switched_on_later(self) -> None:
        first = self.begin().json()["id"]
        theirs = Job.objects.create(owner=self.stranger, title="Elsewhere")
        asked = {"inbox": str(self.inbox), "outbox": str(self.outbox), "watched": False}
        client = self.as_stranger()
        deeper = self.inbox / "deeper"
        deeper.mkdir()
        for inbox in (self.inbox, deeper, self.inbox.parent):
            answer = self.send(
                "post", f"/jobs/{theirs.id}/hand-offs", asked | {"inbox": str(inbox), "outbox": str(inbox)}, client
            )
            self.assertIn("handed off already", answer.json()["message"], inbox)
        # One of the same person that rests may not be switched on beside the first.
        second = self.begin(watched=False).json()["id"]
        tapped = self.send("patch", f"/hand-offs/{second}", {"watched": True})
        self.assertIn("handed off already", tapped.json()["message"])
        self.send("patch", f"/hand-offs/{first}", {"watched": False})
        self.assertEqual(self.send("patch", f"/hand-offs/{second}", {"watched": True}).status_code, 200)

    def test_of_two_that_ask_at_once_one_gets_the_inbox(self) -> None:
        self.begin()
        with mock.patch("folders.api._free_to_watch"):
            self.assertIn("handed off already", self.begin().json()["message"])
        self.assertEqual(HandOff.objects.count(), 1)

    def test_a_finished_file_is_laid_beside_and_never_over_another(self) -> None:
        self.begin(outbox=str(self.inbox))
        self.lay("one.png")
        self.look()
        picture = Picture.objects.get()
        take = picture.takes.get()
        take.save_steps([plain(2)])
        (self.inbox / "one 128x96.tif").write_bytes(b"somebody else's")
        os.utime(self.inbox / "one 128x96.tif", (1, 1))
        made = self.send("post", f"/takes/{take.id}/deliveries", {"spec": {"depth": 8}}).json()
        deliver.func(made["id"])
        self.assertEqual(self.look()["went"], 1)
        laid = self.inbox / "one 128x96 2.tif"
        self.assertEqual(tifffile.imread(laid).shape, (96, 128, 3))
        self.assertEqual((self.inbox / "one 128x96.tif").read_bytes(), b"somebody else's")
        os.utime(laid, (1, 1))
        told = self.look()
        self.assertEqual((told["came"], told["went"]), (1, 1), "our own file is not taken in again")

    def test_a_worker_that_died_after_laying_a_file_down_leaves_it_once(self) -> None:
        self.begin(treat="card", card_id=str(self.card().id))
        self.lay("one.png")
        self.look()
        deliver.func(str(Delivery.objects.get().id))
        with (
            mock.patch.object(looking.Return.objects, "create", side_effect=RuntimeError),
            self.assertRaises(RuntimeError),
        ):
            self.look()
        self.assertEqual(self.out(), ["one 192x144.tif"])
        self.assertEqual(self.look()["went"], 1)
        self.assertEqual(self.out(), ["one 192x144.tif"])

    def card(self) -> Card:
        return Card.objects.create(owner=self.owner, name="Threefold", steps=[plain(3)])

    def test_folder_in_folder_out_with_a_card(self) -> None:
        for name in ("a.png", "b/c.png", "no.txt"):
            self.lay(name)
        self.begin(treat="card", card_id=str(self.card().id), watched=False, spec={"format": "png", "depth": 8})
        self.look()
        for delivery in Delivery.objects.all():
            deliver.func(str(delivery.id))
        self.assertEqual(self.look()["went"], 2)
        self.assertEqual(self.out(), ["a 192x144.png", "b/c 192x144.png"])
        (batch,) = self.client.get("/api/batches").json()
        self.assertEqual([one["state"] for one in batch["deliveries"]], [State.DONE, State.DONE])
        self.lay("later.png")
        self.assertEqual(self.look()["came"], 2, "it was to be looked into once")

    def test_a_link_in_the_outbox_leads_nowhere(self) -> None:
        elsewhere = self.home / "elsewhere"
        elsewhere.mkdir()
        (self.outbox / "b").symlink_to(elsewhere)
        self.lay("b/c.png")
        self.begin(treat="card", card_id=str(self.card().id))
        self.look()
        deliver.func(str(Delivery.objects.get().id))
        self.assertEqual(self.look()["went"], 0)
        self.assertEqual(list(elsewhere.iterdir()), [])

    def test_suggestions_wait_for_the_reading_of_each(self) -> None:
        self.begin(treat="suggestion")
        self.lay("one.png")
        self.look()
        self.assertEqual(Delivery.objects.count(), 0)
        read.func(Picture.objects.get().original_id)
        self.look()
        self.look()
        self.assertEqual(Delivery.objects.count(), 1)
        self.assertEqual(Delivery.objects.get().take_name, "Suggested")

    def test_nothing_outside_the_roots_is_read_or_written(self) -> None:
        secret = self.home / "secret"
        secret.mkdir()
        (secret / "key.png").write_bytes(png_bytes())
        (self.root / "way-out").symlink_to(secret)
        for inbox in (secret, self.root / ".." / "secret", self.root / "way-out", Path("in"), Path("/")):
            answer = self.begin(inbox=str(inbox))
            self.assertEqual(answer.status_code, 400, inbox)
            self.assertEqual(self.client.get("/api/folders", {"path": str(inbox)}).status_code, 400)
        (self.inbox / "linked.png").symlink_to(secret / "key.png")
        os.utime(secret / "key.png", (1, 1))
        self.begin()
        self.assertEqual(self.look()["came"], 0)
        # A folder that is swapped for a way out after it was handed off is refused when it is looked into.
        (self.inbox / "linked.png").unlink()
        self.inbox.rmdir()
        self.inbox.symlink_to(secret)
        told = self.look()
        self.assertEqual(told["came"], 0)
        self.assertIn("outside", told["problem"])
        self.inbox.unlink()
        self.inbox.mkdir()
        self.assertEqual(self.look()["problem"], "")

    def test_browsing_shows_folders_inside_the_roots(self) -> None:
        self.lay("one.png")
        top = self.client.get("/api/folders").json()
        self.assertEqual(top["folders"], [str(self.root)])
        root = self.client.get("/api/folders", {"path": str(self.root)}).json()
        self.assertEqual((root["folders"], root["parent"]), ([str(self.inbox), str(self.outbox)], ""))
        inner = self.client.get("/api/folders", {"path": str(self.inbox)}).json()
        self.assertEqual((inner["files"], inner["parent"]), (1, str(self.root)))

    def test_what_cannot_be_is_refused_with_a_sentence(self) -> None:
        self.assertIn("no folder", self.begin(inbox=str(self.root / "none")).json()["message"])
        (self.inbox / "out").mkdir()
        self.assertIn("inside", self.begin(outbox=str(self.inbox / "out")).json()["message"])
        self.assertIn("Choose the card", self.begin(treat="card").json()["message"])
        self.assertEqual(self.begin().status_code, 201)
        self.assertIn("already", self.begin().json()["message"])

    def test_it_can_be_stopped_and_ended_and_is_its_owners(self) -> None:
        hand_off = self.begin().json()["id"]
        stranger = self.as_stranger()
        self.assertEqual(self.send("patch", f"/hand-offs/{hand_off}", {"watched": False}, stranger).status_code, 404)
        self.assertEqual(stranger.get(f"/api/jobs/{self.job.id}/hand-offs").json(), [])
        self.look()
        self.send("patch", f"/hand-offs/{hand_off}", {"watched": False})
        self.lay("one.png")
        self.assertEqual(self.look()["came"], 0)
        self.assertEqual(self.client.delete(f"/api/hand-offs/{hand_off}").status_code, 204)
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.id}/hand-offs").json(), [])
