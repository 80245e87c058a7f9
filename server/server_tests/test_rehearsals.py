"""Rehearsals: made by the worker once for a file and factor, told with their sheet, the suggestion follows; called off."""

from __future__ import annotations

import io
from typing import Any
from unittest import mock

import numpy as np
import pyvips
from PIL import Image

from batches.treatment import Treatment
from kitecore.rehearsal import CELL
from pictures.models import Original, Picture
from readings.tasks import read
from rehearsals import tasks
from rehearsals.models import PictureRehearsal
from rehearsals.tasks import rehearse_picture
from server_tests.base import ServerTestCase, png_bytes
from takes.models import Take


def worn_jpeg(width: int = 240, height: int = 200) -> bytes:
    """Discs of many sizes, compressed far too much."""
    random = np.random.default_rng(4)
    y, x = np.mgrid[0:height, 0:width]
    scene = np.full((height, width, 3), 120.0)
    for _ in range(60):
        middle, radius = random.uniform(0, [width, height]), random.uniform(4, 30)
        inside = np.hypot(x - middle[0], y - middle[1]) < radius
        scene[inside] = random.uniform(20, 235, 3)
    image = pyvips.Image.new_from_memory(scene.astype(np.uint8).tobytes(), width, height, 3, "uchar")
    content: bytes = image.copy(interpretation="srgb").jpegsave_buffer(Q=25)
    return content


class RehearsalsTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(worn_jpeg())
        self.path = f"/pictures/{self.picture['id']}/rehearsal"

    def rehearsed(self) -> Any:
        read.func(Original.objects.get().sha256)
        self.send("post", self.path)
        rehearse_picture.func(str(PictureRehearsal.objects.get().pk))
        return self.send("get", self.path).json()

    def test_it_waits_for_the_reading(self) -> None:
        answer = self.send("post", self.path)
        self.assertEqual(answer.status_code, 400)
        self.assertIn("has not been read yet", answer.json()["message"])
        self.assertEqual(self.send("get", self.path).json()["state"], "none")

    def test_every_candidate_is_told_best_first_and_shown_beside_the_truth(self) -> None:
        told = self.rehearsed()
        self.assertEqual((told["state"], told["found"]["factor"]), ("done", 2))
        candidates = told["found"]["candidates"]
        self.assertGreater(candidates[0]["gain"], 0.1, "repair and an engine do more than plain enlarging")
        self.assertIn("repair", candidates[0]["called"])
        self.assertIn(
            {"called": "plain", "gain": 0.0}, [{"called": c["called"], "gain": c["gain"]} for c in candidates]
        )
        answer = self.client.get(f"/api{self.path}/sheet.png")
        width, height = Image.open(io.BytesIO(answer.content)).size
        self.assertLessEqual(height, CELL)
        self.assertEqual(width, height * (1 + len(candidates)))

    def test_the_suggestion_is_what_won_and_any_other_can_be_a_take(self) -> None:
        found = self.rehearsed()["found"]
        suggestion = self.send("get", f"/pictures/{self.picture['id']}/reading").json()["suggestion"]
        kinds = [step["kind"] for step in suggestion["steps"] if step["kind"] != "frame"]
        self.assertEqual(kinds, [step["kind"] for step in found["candidates"][0]["steps"]])
        self.assertIn("rehearsed", suggestion["choices"][-1]["reason"])
        made = self.send("post", f"{self.path}/1/take").json()
        self.assertEqual(made["name"], "Rehearsed")
        self.assertEqual(made["steps"][-1]["target"], self.take.core.steps[-1].model_dump(mode="json")["target"])
        self.assertEqual(self.send("post", f"{self.path}/99/take").status_code, 404)

    def test_it_is_made_once_and_again_when_the_way_changes(self) -> None:
        self.rehearsed()
        with mock.patch.object(tasks, "rehearse") as rehearse:
            self.send("post", self.path)
            rehearse_picture.func(str(PictureRehearsal.objects.get().pk))
            rehearse.assert_not_called()
        PictureRehearsal.objects.update(revision=0)
        self.assertEqual(self.send("get", self.path).json()["state"], "none")
        self.assertEqual(self.send("post", self.path).json()["state"], "queued")

    def test_one_that_is_taken_away_is_called_off(self) -> None:
        read.func(Original.objects.get().sha256)
        self.send("post", self.path)
        row = PictureRehearsal.objects.get()
        self.assertEqual(self.send("delete", self.path).status_code, 204)
        with mock.patch.object(tasks, "_LOOK_EVERY_SECONDS", -1):
            row.perform(lambda progress: tasks._rehearsed(row, progress), called="rehearsal")
        self.assertFalse(PictureRehearsal.objects.exists())

    def test_pictures_too_small_are_told_so_and_still_have_a_suggestion(self) -> None:
        picture, _ = self.picture_and_take(png_bytes(60, 40))
        read.func(picture["sha256"])
        path = f"/pictures/{picture['id']}/rehearsal"
        self.send("post", path)
        rehearse_picture.func(str(PictureRehearsal.objects.get().pk))
        self.assertIn("too small", self.send("get", path).json()["message"])
        self.assertTrue(self.send("get", f"/pictures/{picture['id']}/reading").json()["suggestion"]["steps"])

    def test_a_batch_rehearses_on_each_picture(self) -> None:
        read.func(Original.objects.get().sha256)
        treatment, picture = Treatment("suggestion"), Picture.objects.get()
        treatment.prepare(picture)
        row = PictureRehearsal.objects.get()
        self.assertEqual(
            [step["kind"] for step in treatment.steps(picture) if step["kind"] != "frame"],
            [step.kind for step in row.rehearsal.best.steps] if row.rehearsal else None,
        )
        self.assertEqual(Take.objects.count(), 1)

    def test_strangers_see_nothing(self) -> None:
        self.rehearsed()
        for method, path in (("get", ""), ("post", ""), ("delete", ""), ("get", "/sheet.png"), ("post", "/0/take")):
            self.assertEqual(self.send(method, self.path + path, client=self.as_stranger()).status_code, 404)
