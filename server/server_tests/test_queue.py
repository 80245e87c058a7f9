"""The queue: its order, holding it, and what has lost its place in it."""

from __future__ import annotations

from datetime import timedelta

from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from batches.models import Batch
from batches.tasks import place_batch
from deliveries.models import Delivery, State
from deliveries.queue import enqueue_what_was_lost
from deliveries.tasks import deliver
from readings.models import PictureReading
from readings.tasks import read
from rehearsals.tasks import rehearse_picture
from reports.tasks import report
from server_tests.base import CommittedTestCase, plain


class QueueTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        _, self.take = self.picture_and_take(steps=[plain(2)])
        self.ids = [self.ordered(name) for name in "ABCD"]

    def ordered(self, name: str) -> str:
        return self.send("post", f"/takes/{self.take.id}/deliveries", {"spec": {}, "name": name}).json()["id"]

    def work(self) -> list[str]:
        """Deliveries whose work waits, in the order in which workers will take it."""
        waiting = ProcrastinateJob.objects.filter(task_name="deliver", status="todo").order_by("-priority", "id")
        # The queue itself is not emptied between tests.
        return [key for job in waiting if (key := job.args["delivery_id"]) in self.ids]

    def shown(self) -> list[str]:
        return [one["id"] for one in self.client.get("/api/queue").json()]

    def test_first_come_first_made_until_it_is_put_in_another_order(self) -> None:
        self.assertEqual((self.shown(), self.work()), (self.ids, self.ids))
        a, b, c, d = self.ids
        answer = self.send("put", "/queue/order", {"ids": [d, a, b, c]}).json()
        self.assertEqual([one["id"] for one in answer], [d, a, b, c])
        self.assertEqual(self.work(), [d, a, b, c])
        # Some of them change places among themselves; the others stay where they are.
        self.send("put", "/queue/order", {"ids": [c, d]})
        self.assertEqual(self.work(), [c, a, b, d])
        self.assertEqual(self.shown(), self.work())

    def test_nobody_else_can_touch_it(self) -> None:
        stranger = self.as_stranger()
        self.send("put", "/queue/order", {"ids": self.ids[::-1]}, client=stranger)
        self.send("post", "/queue/pause", {}, client=stranger)
        self.send("post", "/queue/cancel", {}, client=stranger)
        self.assertEqual(stranger.get("/api/queue").json(), [])
        self.assertEqual(self.work(), self.ids)

    def test_what_is_held_keeps_its_place(self) -> None:
        a, b, c, d = self.ids
        self.send("post", "/queue/pause", {"ids": [a, c]})
        self.assertEqual(self.work(), [b, d])
        deliver.func(a)
        self.assertEqual(Delivery.objects.get(id=a).state, State.PAUSED, "work at hand lets a held one be")
        self.send("put", "/queue/order", {"ids": [d, c, b, a]})
        self.assertEqual(self.work(), [d, b])
        self.send("post", "/queue/resume", {})
        self.assertEqual((self.work(), self.shown()), ([d, c, b, a], [d, c, b, a]))

    def test_a_batch_is_held_and_called_off_by_itself(self) -> None:
        batch = Batch.objects.create(job=self.job, treatment="Their takes")
        Delivery.objects.filter(id__in=self.ids[:2]).update(batch=batch)
        self.send("post", "/queue/pause", {"batch_id": str(batch.id)})
        self.assertEqual(self.work(), self.ids[2:])
        self.send("post", "/queue/cancel", {"batch_id": str(batch.id)})
        states = Delivery.objects.filter(batch=batch).values_list("state", flat=True)
        self.assertEqual(set(states), {State.CANCELLED})
        self.assertEqual(self.shown(), self.ids[2:])

    def test_what_is_tried_again_goes_last(self) -> None:
        self.send("post", "/queue/cancel", {"ids": self.ids[:1]})
        self.send("post", f"/deliveries/{self.ids[0]}/retry")
        self.assertEqual(self.work(), [*self.ids[1:], self.ids[0]])

    def test_work_that_was_lost_is_found_again(self) -> None:
        with self.subTest("what has its work is left alone"):
            Delivery.objects.update(modified=timezone.now() - timedelta(minutes=2))
            self.assertEqual(enqueue_what_was_lost(), [])
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs WHERE queueing_lock = %s", [f"delivery-{self.ids[1]}"])
        self.assertEqual([str(one.id) for one in enqueue_what_was_lost()], [self.ids[1]])
        self.assertEqual(self.work(), self.ids, "and it is back in its place")

    def test_what_somebody_waits_for_comes_before_a_hundred_readings(self) -> None:
        for number in range(100):
            read.configure(queueing_lock=f"read {number}").defer(key=f"{number}")
        for task in (rehearse_picture, report, place_batch):
            task.configure(queueing_lock=f"{task.name} 1").defer(key="1")
        waiting = ProcrastinateJob.objects.filter(status="todo").order_by("-priority", "id")
        order = [one.queueing_lock for one in waiting]
        watched = [order.index(f"{name} 1") for name in ("rehearse", "report", "place")]
        self.assertLess(max(watched), min(order.index(f"read {number}") for number in range(100)))

    def test_a_reading_whose_work_was_lost_gets_it_back(self) -> None:
        row = PictureReading.objects.get(original=self.take.picture.original)
        lock = f"read-{row.pk}"
        self.assertEqual(PictureReading.enqueue_what_was_lost(read), [], "it has only begun to wait")
        PictureReading.objects.update(modified=timezone.now() - timedelta(minutes=2))
        self.assertEqual(PictureReading.enqueue_what_was_lost(read), [], "its work is there")
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM procrastinate_jobs WHERE queueing_lock = %s", [lock])
        self.assertEqual([one.pk for one in PictureReading.enqueue_what_was_lost(read)], [row.pk])
        self.assertEqual(ProcrastinateJob.objects.filter(queueing_lock=lock, status="todo").count(), 1)
