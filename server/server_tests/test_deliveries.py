import hashlib
from unittest import mock

import numpy as np
import tifffile
from asgiref.sync import async_to_sync
from django.db import DatabaseError
from django.http import StreamingHttpResponse
from django.test import SimpleTestCase
from django.utils import timezone
from pypdfium2 import PdfDocument

from deliveries import tasks
from deliveries.models import Delivery, State
from deliveries.tasks import MOST_DEATHS, deliver
from rendering.load import Beside
from server_tests.base import CommittedTestCase, ServerTestCase, plain, png_bytes
from takes.models import Take


class Ordering(SimpleTestCase):
    """Orders a delivery of a fresh picture."""

    def ordered(self, factor: float = 2, name: str = "", **spec: object) -> Delivery:
        _, take = self.picture_and_take(steps=[plain(factor)])
        answer = self.send("post", f"/takes/{take.id}/deliveries", {"spec": spec, "name": name})
        self.assertEqual(answer.status_code, 201, answer.content)
        return Delivery.objects.get(id=answer.json()["id"])


class DeliveriesTest(Ordering, ServerTestCase):
    async def received(self, answer: StreamingHttpResponse) -> bytes:
        return b"".join([chunk async for chunk in answer.streaming_content])

    def run_task(self, delivery: Delivery) -> Delivery:
        deliver.func(str(delivery.id))
        delivery.refresh_from_db()
        return delivery

    def test_a_delivery_is_made_and_downloaded(self) -> None:
        delivery = self.run_task(self.ordered(ppi=240))
        self.assertEqual((delivery.state, delivery.progress), (State.DONE, 1))
        answer = self.client.get(f"/api/deliveries/{delivery.id}/file")
        content = async_to_sync(self.received)(answer)
        self.assertEqual(hashlib.sha256(content).hexdigest(), delivery.sha256)
        self.assertEqual(answer["Content-Disposition"], 'attachment; filename="wall 120x80.tif"')
        (self.home / "got.tif").write_bytes(content)
        with tifffile.TiffFile(self.home / "got.tif") as file:
            self.assertEqual((file.pages[0].shape, file.pages[0].dtype), ((80, 120, 3), np.uint16))
        self.assertEqual(self.as_stranger().get(f"/api/deliveries/{delivery.id}/file").status_code, 404)
        self.assertEqual(self.files("deliveries"), [delivery.path])

    def test_what_the_machine_did_beside_it_is_not_learnt_as_its_speed(self) -> None:
        with mock.patch.object(Beside, "alone", return_value=0.5), mock.patch("deliveries.tasks.learn") as learnt:
            delivery = self.run_task(self.ordered())
        self.assertEqual(learnt.call_args.args[1], 0.5 * delivery.seconds)

    def test_a_name_carries_the_size_of_the_file_and_words_in_braces_are_filled_in(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        wrapped = {"layout": {"wrap_mm": 10}, "ppi": 254}
        plain_name, wrapped_name = (
            self.send("post", f"/takes/{take.id}/estimate", {"spec": spec}).json() for spec in ({}, wrapped)
        )
        for told in (plain_name, wrapped_name):
            self.assertIn(f"{told['width']}x{told['height']}", told["name"])
        self.assertEqual(wrapped_name["width"] - plain_name["width"], 200)
        made = self.send("post", f"/takes/{take.id}/deliveries", {"spec": {}, "name": "{picture} for the wall"}).json()
        self.assertEqual(made["name"], "wall for the wall.tif")
        wrong = self.send("post", f"/takes/{take.id}/files", {"spec": {}, "name": "{pictures}"})
        self.assertEqual((wrong.status_code, "not known in names" in wrong.json()["message"]), (400, True))

    def test_a_picture_with_braces_in_its_name_is_delivered_under_it(self) -> None:
        picture = self.upload(png_bytes(40, 30, seed=9), "odd%20{one}.png").json()
        take = Take.objects.get(picture_id=picture["id"])
        made = self.send("post", f"/takes/{take.id}/files", {"spec": {}}).json()
        self.assertIn("odd {one}", made[0]["name"])

    def test_panels_are_ordered_together_and_fit_together(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        layout = {"panels_across": 2, "bleed_mm": 2, "overlap_mm": 2}
        wanted = {"spec": {"ppi": 254, "layout": layout}, "name": "Banner"}
        estimate = self.send("post", f"/takes/{take.id}/estimate", wanted).json()
        self.assertEqual((estimate["width"], estimate["height"]), ((120 + 40) // 2 + 10, 80 + 40))
        made = self.send("post", f"/takes/{take.id}/files", wanted).json()
        self.assertEqual([one["name"] for one in made], ["Banner, panel 1 of 2.tif", "Banner, panel 2 of 2.tif"])
        parts = [tifffile.imread(self.run_task(Delivery.objects.get(id=one["id"])).path) for one in made]
        self.assertEqual(parts[0].shape[:2], (estimate["height"], estimate["width"]))
        np.testing.assert_array_equal(parts[0][:, -20:], parts[1][:, :20], "neighbours share the overlap")
        too_deep = {"spec": {"layout": {"wrap_mm": 900}}, "name": ""}
        self.assertEqual(self.send("post", f"/takes/{take.id}/files", too_deep).status_code, 422)

    def test_one_take_goes_out_in_several_sizes_at_once(self) -> None:
        _, take = self.picture_and_take(steps=[plain(4)])
        saved = {
            name: self.send("post", "/outputs", {"name": name, "spec": spec}).json()["id"]
            for name, spec in (("web", {"format": "jpeg", "longest_side": 100}), ("proof", {"format": "pdf"}))
        }
        wanted = {"spec": {"depth": 8}, "outputs": list(saved.values())}
        made = self.send("post", f"/takes/{take.id}/files", wanted).json()
        self.assertEqual(
            [(one["name"], one["width"]) for one in made],
            [("wall 240x160.tif", 240), ("wall 100x67 web.jpg", 100), ("wall 240x160 proof.pdf", 240)],
        )
        for one in made:
            row = self.run_task(Delivery.objects.get(id=one["id"]))
            self.assertEqual((row.state, row.message), (State.DONE, ""))

    def test_a_print_pdf_is_titled_as_its_file_is_named(self) -> None:
        delivery = self.run_task(self.ordered(2, "Boathouse wall", format="pdf"))
        self.assertEqual(delivery.name, "Boathouse wall.pdf")
        self.assertEqual(PdfDocument(delivery.path).get_metadata_dict()["Title"], "Boathouse wall")

    def test_outputs_are_saved_replaced_and_forgotten(self) -> None:
        first = self.send("post", "/outputs", {"name": " web ", "spec": {"format": "jpeg"}}).json()
        again = self.send("post", "/outputs", {"name": "web", "spec": {"format": "webp"}}).json()
        self.assertEqual(first["id"], again["id"])
        self.assertEqual([one["spec"]["format"] for one in self.client.get("/api/outputs").json()], ["webp"])
        self.assertEqual(self.as_stranger().get("/api/outputs").json(), [])
        self.assertEqual(self.as_stranger().delete(f"/api/outputs/{first['id']}").status_code, 404)
        self.assertEqual(self.client.delete(f"/api/outputs/{first['id']}").status_code, 204)
        _, take = self.picture_and_take(steps=[plain(2)])
        answer = self.send("post", f"/takes/{take.id}/files", {"spec": {}, "outputs": [first["id"]]})
        self.assertEqual(answer.status_code, 400)
        self.assertEqual(Delivery.objects.count(), 0, "all of them or none")

    def test_it_keeps_the_steps_it_was_ordered_with(self) -> None:
        delivery = self.ordered(2)
        delivery.picture.takes.get().save_steps([plain(5)])
        self.assertEqual(tifffile.imread(self.run_task(delivery).path).shape, (80, 120, 3))

    def test_a_name_that_is_taken_gets_a_number_and_nothing_is_overwritten(self) -> None:
        first = self.run_task(self.ordered(2, "wall.tif"))
        before = first.path.read_bytes()
        second = self.run_task(self.ordered(3, "Wall"))
        self.assertEqual((first.name, second.name), ("wall.tif", "Wall 2.tif"))
        self.assertEqual(first.path.read_bytes(), before)
        self.assertEqual(self.ordered(2, "../../a/b\\c:d.tif", format="jpeg").name, "a-b-c-d.jpg")
        self.assertEqual(self.ordered(2, "Size 30/40").name, "Size 30-40.tif")

    def test_the_estimate_tells_name_size_and_time(self) -> None:
        _, take = self.picture_and_take(steps=[plain(4)])
        answer = self.send("post", f"/takes/{take.id}/estimate", {"spec": {"compression": "none"}}).json()
        self.assertEqual((answer["name"], answer["bytes"], answer["bits"]), ("wall 240x160.tif", 240 * 160 * 6, 16))
        self.assertGreater(answer["seconds"], 0)

    def test_cancelling_while_it_waits_and_trying_again(self) -> None:
        delivery = self.ordered()
        self.assertEqual(self.send("post", f"/deliveries/{delivery.id}/cancel").json()["state"], "cancelled")
        self.assertEqual(self.run_task(delivery).state, State.CANCELLED)
        self.assertEqual(self.files("deliveries"), [])
        self.assertEqual(self.send("post", f"/deliveries/{delivery.id}/cancel").status_code, 409)
        self.assertEqual(self.send("post", f"/deliveries/{delivery.id}/retry").json()["state"], "queued")
        self.assertEqual(self.run_task(delivery).state, State.DONE)

    def test_cancelling_while_it_runs_leaves_no_file(self) -> None:
        delivery = self.ordered(8)
        with mock.patch.object(tasks, "_TELL_EVERY_SECONDS", 0):
            original = tasks._Watch._look

            def asked(watch: tasks._Watch) -> None:
                Delivery.objects.filter(id=delivery.id).update(cancel_asked=True)
                original(watch)

            with mock.patch.object(tasks._Watch, "_look", asked):
                self.run_task(delivery)
        self.assertEqual(delivery.state, State.CANCELLED)
        self.assertEqual(self.files("deliveries"), [])

    def test_a_run_that_was_given_up_on_touches_nothing(self) -> None:
        delivery = self.ordered()
        with (
            mock.patch.object(tasks, "_TELL_EVERY_SECONDS", 0),
            mock.patch.object(tasks, "plan", side_effect=self.overtake(delivery)),
        ):
            deliver.func(str(delivery.id))
        delivery.refresh_from_db()
        self.assertEqual((delivery.state, delivery.attempt), (State.RUNNING, 7))

    def overtake(self, delivery: Delivery):  # type: ignore[no-untyped-def]
        from kitecore.takes.plan import plan

        def overtaken(*arguments: object) -> object:
            Delivery.objects.filter(id=delivery.id).update(attempt=7)
            return plan(*arguments)  # type: ignore[arg-type]

        return overtaken

    def test_left_over_by_a_killed_worker_it_is_made_afresh_and_once(self) -> None:
        delivery = self.ordered()
        Delivery.objects.filter(id=delivery.id).update(
            state=State.RUNNING, attempt=1, started=timezone.now(), progress=0.5
        )
        delivery.folder.mkdir(parents=True)
        (delivery.folder / ".kite-half").write_bytes(b"half a file")
        self.assertEqual(self.run_task(delivery).state, State.DONE)
        self.assertEqual(self.files("deliveries"), [delivery.path])
        finished = delivery.finished
        self.assertEqual(self.run_task(delivery).finished, finished, "a finished one is left alone")

    def test_a_worker_that_dies_again_and_again_is_said(self) -> None:
        delivery = self.ordered()
        Delivery.objects.filter(id=delivery.id).update(state=State.RUNNING, deaths=MOST_DEATHS - 1)
        delivery.folder.mkdir(parents=True)
        (delivery.folder / "half.tif.part").write_bytes(bytes(5000))
        self.assertEqual(self.run_task(delivery).state, State.FAILED)
        self.assertEqual(self.files("deliveries"), [], "nothing is left of what died")
        self.assertIn("died 3 times", delivery.message)

    def test_a_full_disk_is_a_sentence_and_harms_nothing(self) -> None:
        delivery = self.ordered()
        with mock.patch("kitecore.delivery.write.free_bytes", return_value=10):
            self.run_task(delivery)
        self.assertEqual(delivery.state, State.FAILED)
        self.assertIn("Free some space", delivery.message)
        self.assertIn(delivery.name, delivery.message)
        self.assertEqual(self.files("deliveries"), [])
        self.assertEqual(len(self.files("originals")), 1)

    def test_specs_that_make_no_sense_are_refused(self) -> None:
        _, take = self.picture_and_take(png_bytes(), [plain(2)])
        for spec in ({"format": "gif"}, {"depth": 12}, {"quality": 0}, {"ppi": -1}):
            answer = self.send("post", f"/takes/{take.id}/deliveries", {"spec": spec})
            self.assertEqual(answer.status_code, 422)
        self.assertEqual(Delivery.objects.count(), 0)


class DatabaseAwayTest(Ordering, CommittedTestCase):
    def test_a_database_that_is_away_for_a_moment_does_not_stop_the_work(self) -> None:
        delivery = self.ordered(6)
        real, failures = Delivery.objects.filter, iter([True, True, True])

        def shaky(*arguments: object, **conditions: object) -> object:
            if next(failures, False):
                raise DatabaseError("gone")
            return real(*arguments, **conditions)

        claimed = tasks._begin(str(delivery.id))
        assert claimed is not None
        with (
            mock.patch.object(tasks, "_TELL_EVERY_SECONDS", 0),
            mock.patch.object(Delivery.objects, "filter", shaky),
            mock.patch("time.sleep"),
        ):
            tasks._make(claimed)
        delivery.refresh_from_db()
        self.assertEqual(delivery.state, State.DONE)
