"""The reading: made once for a file, kept, made again when the way of measuring changes; its suggestion becomes a take."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from unittest import mock

import numpy as np
import pyvips
from django.utils import timezone

from common.background import State
from kitecore.errors import PictureError
from pictures.models import Original, Picture
from readings import tasks
from readings.models import PictureReading
from readings.tasks import read
from server_tests.base import CommittedTestCase, ServerTestCase, plain, png_bytes
from takes.models import Take


def worn_jpeg(quality: int = 30) -> bytes:
    """A smooth scene with noise, as a JPEG file of low quality."""
    y, x = np.mgrid[0:160, 0:200]
    scene = np.stack([90 + 60 * np.sin(x / 9) + 30 * np.cos(y / 7)] * 3, axis=2)
    noisy = np.clip(scene + np.random.default_rng(2).normal(0, 12, scene.shape), 0, 255).astype(np.uint8)
    image = pyvips.Image.new_from_memory(noisy.tobytes(), 200, 160, 3, "uchar").copy(interpretation="srgb")
    content: bytes = image.jpegsave_buffer(Q=quality)
    return content


class ReadingsTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(worn_jpeg())
        self.path = f"/pictures/{self.picture['id']}/reading"

    def read(self) -> Any:
        read.func(Original.objects.get().sha256)
        return self.send("get", self.path).json()

    def test_grain_that_matches_the_source_waits_for_its_reading(self) -> None:
        picture, take = self.picture_and_take(png_bytes(200, 150), [plain(2)])
        path = f"/takes/{take.id}/grain"
        self.assertIn("has not been read yet", self.send("get", path).json()["message"])
        read.func(picture["sha256"])
        found = self.send("get", path).json()
        self.assertEqual((found["kind"], found["tones"]), ("grain", 0))
        self.assertGreater(found["amount"], 5, "these pictures are noise")
        self.assertEqual(self.send("get", path, client=self.as_stranger()).status_code, 404)

    def test_a_new_picture_is_read_and_the_reading_is_told(self) -> None:
        self.assertEqual(self.send("get", self.path).json()["state"], "queued")
        self.assertIsNone(self.send("get", f"/pictures/{self.picture['id']}").json()["reading"])
        told = self.read()
        self.assertEqual(told["state"], "done")
        self.assertEqual(told["reading"]["compression"]["quality"], 30)
        self.assertEqual(told["reading"]["pixels"], {"width": 200, "height": 160})
        self.assertEqual(self.send("get", f"/jobs/{self.job.id}/pictures").json()[0]["reading"], told["reading"])

    def test_nothing_is_applied_until_the_suggestion_is_made_a_take(self) -> None:
        told = self.read()
        self.assertEqual([take.name for take in Take.objects.all()], ["A"])
        self.assertEqual([step.kind for step in self.take.core.steps], ["frame", "enlarge"])
        made = self.send("post", f"/pictures/{self.picture['id']}/suggested").json()
        self.assertEqual(made["name"], "Suggested")
        self.assertEqual(made["steps"], told["suggestion"]["steps"])
        self.assertIn("repair", [step["kind"] for step in made["steps"]])
        for choice in told["suggestion"]["choices"]:
            self.assertTrue(choice["reason"].endswith("."), choice)
            if choice["step"] is not None:
                self.assertEqual(made["steps"][choice["step"]]["kind"], choice["kind"])
        again = self.send("post", f"/pictures/{self.picture['id']}/suggested").json()
        self.assertEqual(again["name"], "Suggested 2")

    def test_what_was_ordered_decides_the_size(self) -> None:
        self.job.order = {"width": 30, "height": 24, "unit": "cm", "ppi": 100}
        self.job.save()
        self.read()
        made = self.send("post", f"/pictures/{self.picture['id']}/suggested").json()
        self.assertEqual(made["steps"][-1]["target"]["by"], "print")
        self.assertEqual(made["plan"]["size"]["width"], 1181)

    def test_a_suggestion_before_the_reading_is_refused_with_a_sentence(self) -> None:
        answer = self.send("post", f"/pictures/{self.picture['id']}/suggested")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("has not been read yet", answer.json()["message"])

    def test_the_same_file_is_read_once(self) -> None:
        first = self.read()
        second = self.upload(worn_jpeg(), "again.jpg").json()
        self.assertEqual(second["reading"], first["reading"])
        with mock.patch.object(tasks, "read_picture") as reader:
            read.func(Original.objects.get().sha256)
        reader.assert_not_called()

    def test_an_older_reading_is_made_again_when_asked_for(self) -> None:
        self.read()
        PictureReading.objects.update(revision=0)
        self.assertEqual(self.send("get", self.path).json()["state"], "none")
        self.assertEqual(self.send("post", self.path).json()["state"], "queued")
        self.assertEqual(self.read()["state"], "done")

    def test_what_failed_is_told_and_what_was_given_up_is_begun_again(self) -> None:
        with mock.patch.object(tasks, "read_picture", side_effect=PictureError("It breaks off.")):
            self.assertEqual(self.read()["message"], "It breaks off.")
        self.assertEqual(self.send("post", self.path).json()["state"], "queued")
        PictureReading.objects.update(state=State.RUNNING)
        self.assertEqual(self.send("post", self.path).json()["state"], "running")
        PictureReading.objects.update(modified=timezone.now() - timedelta(minutes=2))
        self.assertEqual(self.send("post", self.path).json()["state"], "queued")

    def test_others_see_none_of_it(self) -> None:
        for method, path in (
            ("get", self.path),
            ("post", self.path),
            ("post", self.path.replace("reading", "suggested")),
        ):
            self.assertEqual(self.send(method, path, client=self.as_stranger()).status_code, 404)

    def test_a_picture_whose_reading_waits_can_be_treated(self) -> None:
        self.take.save_steps([plain(3)])
        self.assertEqual(self.send("get", f"/takes/{self.take.id}").json()["plan"]["size"]["width"], 600)
        self.assertEqual(Picture.objects.count(), 1)


class DrawnBlurTest(CommittedTestCase):
    def test_a_line_is_told_in_the_pixels_of_the_step(self) -> None:
        deblur = {"kind": "deblur", "blur": {"by": "soft", "sigma": 1}}
        _, take = self.picture_and_take(worn_jpeg(), [deblur, plain(2), deblur])
        line = {"what": "line", "start": [20, 20], "end": [20, 8]}
        for index, length in ((0, 12.0), (2, 24.0)):
            found = self.send("post", f"/takes/{take.id}/steps/{index}/blur", line).json()
            self.assertEqual(found, {"blur": {"by": "motion", "angle": 90.0, "length": length}, "confidence": 1})

    def test_an_area_is_read_or_refused_with_a_reason(self) -> None:
        _, take = self.picture_and_take(worn_jpeg(), [plain(2)])
        area = {"what": "area", "start": [20, 20], "end": [150, 120]}
        small = self.send("post", f"/takes/{take.id}/steps/0/blur", area)
        self.assertIn("too small", small.json()["message"])
        read = self.send("post", f"/takes/{take.id}/steps/1/blur", area).json()
        self.assertIn(read["blur"]["by"], ("soft", "focus"))
        other = self.send("post", f"/takes/{take.id}/steps/1/blur", area, client=self.as_stranger())
        self.assertEqual(other.status_code, 404)
