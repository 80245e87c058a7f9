"""Batches: planned without a trace, ordered in one go, and one picture that cannot be done stops none of the others."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from contextlib import suppress
from datetime import timedelta
from typing import Any
from unittest import mock

from django.db.models import QuerySet
from django.test import SimpleTestCase
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from batches.models import Batch
from batches.placing import Wanted
from batches.tasks import place_batch
from cards.models import Card
from deliveries.models import Delivery, State
from deliveries.tasks import deliver
from pictures.models import Picture
from readings.tasks import read
from server_tests.base import CommittedTestCase, ServerTestCase, plain, png_bytes
from takes.models import Take


def dying_after(count: int) -> Callable[..., None]:
    """Orders so many pictures, and then ends as a killed worker does."""
    order, done = Wanted.order, itertools.count()

    def dying(*args: Any) -> None:
        if next(done) == count:
            raise SystemExit
        order(*args)

    return dying


class WithPictures(SimpleTestCase):
    def setUp(self) -> None:
        super().setUp()
        for seed, name in enumerate(("one.png", "two.png", "three.png")):
            self.upload(png_bytes(64, 48, seed), name)
        self.pictures = list(Picture.objects.order_by("name"))
        for picture in self.pictures:
            Take.objects.get(picture=picture).save_steps([plain(2)])

    def ask(self, path: str, **wanted: Any) -> Any:
        ids = [str(picture.id) for picture in self.pictures]
        return self.send("post", path, {"pictures": ids, "spec": {"format": "png"}} | wanted)


class PlacingTest(WithPictures, CommittedTestCase):
    def work(self, batch: dict[str, Any]) -> QuerySet[ProcrastinateJob]:
        """What is in the queue for a batch; the queue itself is not emptied between tests."""
        return ProcrastinateJob.objects.filter(task_name="place", args={"key": batch["id"]})

    def waiting(self, batch: dict[str, Any]) -> int:
        return self.work(batch).filter(status="todo").count()

    def test_an_order_is_kept_at_once_and_placed_by_a_worker(self) -> None:
        batch = self.ask("/batch").json()
        self.assertEqual((batch["placed"], batch["count"], batch["deliveries"]), (False, 3, []))
        self.assertEqual(self.waiting(batch), 1)
        place_batch.func(batch["id"])
        (report,) = self.client.get("/api/batches").json()
        self.assertEqual((report["placed"], len(report["deliveries"])), (True, 3))

    def test_a_worker_that_dies_over_it_leaves_nothing_out_and_nothing_twice(self) -> None:
        batch = self.ask("/batch").json()
        with (
            mock.patch("batches.placing.Wanted.order", autospec=True, side_effect=dying_after(1)),
            suppress(SystemExit),
        ):
            place_batch.func(batch["id"])
        self.assertEqual(Delivery.objects.count(), 1)
        self.work(batch).update(status="failed", queueing_lock=None)
        Batch.objects.update(heard=timezone.now() - timedelta(minutes=2))
        self.send("get", "/batches")
        self.assertEqual(self.waiting(batch), 1)
        place_batch.func(batch["id"])
        place_batch.func(batch["id"])
        self.assertEqual(
            sorted(Delivery.objects.values_list("picture__name", flat=True)), ["one.png", "three.png", "two.png"]
        )


class BatchTest(WithPictures, ServerTestCase):
    def order(self, **wanted: Any) -> dict[str, Any]:
        """Order a batch and have it placed: its report."""
        batch = self.ask("/batch", **wanted).json()
        place_batch.func(batch["id"])
        (report,) = [one for one in self.client.get("/api/batches").json() if one["id"] == batch["id"]]
        return dict(report)

    def test_the_plan_tells_sizes_and_changes_nothing(self) -> None:
        planned = self.ask("/batch/plan").json()
        self.assertEqual([one["picture_name"] for one in planned], ["one.png", "three.png", "two.png"])
        self.assertEqual({(one["width"], one["height"]) for one in planned}, {(128, 96)})
        self.assertTrue(all(one["bytes"] > 0 and one["problem"] is None for one in planned))
        self.assertEqual((Delivery.objects.count(), Take.objects.count()), (0, 3))

    def test_what_is_taken_away_before_it_is_placed_is_told(self) -> None:
        batch = self.ask("/batch").json()
        self.pictures[0].soft_delete()
        place_batch.func(batch["id"])
        (report,) = self.client.get("/api/batches").json()
        self.assertIn("taken away", report["left_out"][0]["problem"])
        self.assertTrue(report["placed"])

    def test_one_that_cannot_be_done_stops_none_of_the_others(self) -> None:
        Take.objects.get(picture=self.pictures[1]).save_steps([plain(4), plain(8), plain(8), plain(8)])
        report = self.order()
        self.assertEqual([one["name"] for one in report["left_out"]], ["three.png"])
        self.assertIn("at most", report["left_out"][0]["problem"])
        for one in report["deliveries"]:
            deliver.func(one["id"])
            self.assertEqual(Delivery.objects.get(id=one["id"]).state, State.DONE)
        self.assertEqual(Delivery.objects.count(), 2)

    def test_the_report_tells_of_every_picture(self) -> None:
        first, second, third = (one["id"] for one in self.order()["deliveries"])
        deliver.func(first)
        (report,) = self.client.get("/api/batches").json()
        self.assertEqual(
            [(one["id"], one["state"]) for one in report["deliveries"]],
            [(first, "done"), (second, "queued"), (third, "queued")],
        )
        self.assertTrue(report["deliveries"][0]["worker"])
        self.assertGreater(report["deliveries"][1]["expected_seconds"], 0)
        self.assertEqual(self.as_stranger().get("/api/batches").json(), [])

    def test_the_chosen_take_is_the_one_that_is_delivered(self) -> None:
        other = Take.objects.begin(self.pictures[0], [plain(3)])
        other.choose()
        other.save()
        ordered = self.order()["deliveries"]
        self.assertEqual([one["width"] for one in ordered], [192, 128, 128])
        self.assertEqual(Take.objects.count(), 4)

    def test_prints_are_tagged_with_the_ppi_they_were_made_for(self) -> None:
        target = {"by": "print", "width": 2, "unit": "cm", "ppi": 160}
        Take.objects.get(picture=self.pictures[0]).save_steps(
            [{"kind": "enlarge", "engine": "plain", "target": target}]
        )
        ordered = self.order()["deliveries"]
        specs = [Delivery.objects.get(id=one["id"]).core_spec for one in ordered]
        self.assertEqual([spec.ppi for spec in specs], [160, None, None])
        self.job.order = {"width": 20, "height": 30, "unit": "cm", "ppi": 220}
        self.job.save()
        ordered = self.order()["deliveries"]
        specs = [Delivery.objects.get(id=one["id"]).core_spec for one in ordered]
        self.assertEqual([spec.ppi for spec in specs], [160, 220, 220])

    def test_a_card_makes_a_take_of_each(self) -> None:
        card = Card.objects.create(owner=self.owner, name="Fourfold", steps=[plain(4)])
        ordered = self.order(by="card", card_id=str(card.id))["deliveries"]
        self.assertEqual({one["width"] for one in ordered}, {256})
        self.assertEqual(Take.objects.filter(name="Fourfold").count(), 3)
        self.assertIn("Choose the card", self.ask("/batch", by="card").json()["message"])

    def test_suggestions_need_a_reading(self) -> None:
        read.func(self.pictures[0].original_id)
        planned = self.ask("/batch/plan", by="suggestion").json()
        self.assertIsNone(planned[0]["problem"])
        self.assertIn("has not been read yet", planned[1]["problem"])
        self.order(by="suggestion")
        self.assertEqual(Take.objects.filter(name="Suggested").count(), 1)

    def test_other_peoples_pictures_are_refused(self) -> None:
        ids = [str(picture.id) for picture in self.pictures]
        answer = self.send("post", "/batch", {"pictures": ids, "spec": {}}, client=self.as_stranger())
        self.assertEqual(answer.status_code, 400)
        self.assertEqual(Delivery.objects.count(), 0)
