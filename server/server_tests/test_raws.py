"""Camera raws through the server: taken in at once, developed first, delivered as linear DNG."""

from __future__ import annotations

import os
import shutil
from typing import Any
from unittest.mock import patch

import numpy as np
import pyvips

from core_tests.raws import LENS, PROFILE, coded, lit, mosaic_of, seen, write_raw
from deliveries.models import Delivery
from deliveries.tasks import deliver
from jobs.models import Job
from kitecore.files.source import read_facts
from pictures.models import Original, Picture
from readings.models import PictureReading
from readings.tasks import read
from server_tests.base import CommittedTestCase, png_bytes
from takes.models import Take

SCENE = np.kron(np.random.default_rng(4).uniform(0.1, 0.8, (6, 8, 3)), np.ones((12, 12, 1)))


class RawsTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        (self.home / "lenses").mkdir()
        (self.home / "lenses" / "tern.xml").write_text(PROFILE)
        told = {"KITE_LENSES": str(self.home / "lenses"), "KITE_DECODED": str(self.home / "decoded")}
        patched = patch.dict(os.environ, told)
        patched.start()
        self.addCleanup(patched.stop)

    def content(self, preview: bool = False) -> bytes:
        shown = np.rint(255 * coded(lit(SCENE))).astype(np.uint8) if preview else None
        made = write_raw(self.home / "made.dng", mosaic_of(seen(lit(SCENE))), iso=400, preview=shown)
        return made.read_bytes()

    def test_it_is_taken_in_undeveloped_and_its_takes_begin_with_developing(self) -> None:
        with patch("kitecore.files.raw.picture.develop", side_effect=AssertionError):
            picture, take = self.picture_and_take(self.content(preview=True))
        self.assertEqual(picture["facts"]["raw"]["lens_profile"], LENS)
        self.assertEqual([step["kind"] for step in take.state.steps], ["develop", "frame", "enlarge"])
        shown = Original.objects.get(pictures=picture["id"]).preview_path
        first = shown.read_bytes()
        read.func(Picture.objects.get(id=picture["id"]).original_id)
        found = PictureReading.objects.get(original__pictures=picture["id"]).reading
        assert found is not None
        self.assertTrue(found.raw)
        self.assertNotEqual(shown.read_bytes(), first, "the exact preview follows")

    def test_steps_that_do_not_suit_it_are_said_or_left_out(self) -> None:
        raw, take = self.picture_and_take(self.content())
        plain, other = self.picture_and_take(png_bytes())
        card = self.send("post", "/cards", {"name": "as developed", "take_id": str(take.id)}).json()
        made = self.send(
            "post", f"/cards/{card['id']}/apply", {"pictures": [plain["id"], raw["id"]], "strength": 100}
        ).json()
        kinds = [[step["kind"] for step in Take.objects.get(id=one["take_id"]).state.steps] for one in made]
        self.assertCountEqual(kinds, [["frame", "enlarge"], ["develop", "frame", "enlarge"]])
        for changed, steps, said in (
            (other, [{"kind": "develop"}], "no camera raw"),
            (take, [{"kind": "frame"}, {"kind": "develop"}], "before any other step"),
        ):
            answer = self.send("put", f"/takes/{changed.id}", {"steps": steps})
            self.assertEqual(answer.status_code, 422, answer.content)
            self.assertIn(said, answer.json()["message"])

    def test_a_place_that_should_be_grey_sets_the_white_balance(self) -> None:
        _, take = self.picture_and_take(self.content())
        answer = self.send("post", f"/takes/{take.id}/steps/0/start", {"place": {"x": 30, "y": 30}})
        self.assertEqual(answer.json()["step"]["white"], "grey")

    def test_lenses_are_looked_for(self) -> None:
        raw, _ = self.picture_and_take(self.content())
        plain, _ = self.picture_and_take(png_bytes())
        found = self.client.get(f"/api/pictures/{raw['id']}/lenses?text=24mm").json()
        self.assertEqual(found, {"found": LENS, "names": [LENS]})
        self.assertEqual(self.client.get(f"/api/pictures/{plain['id']}/lenses").status_code, 400)
        self.assertEqual(self.as_stranger().get(f"/api/pictures/{raw['id']}/lenses").status_code, 404)

    def test_it_is_delivered_as_linear_dng_and_other_files_are_not(self) -> None:
        _, take = self.picture_and_take(self.content())
        ordered = self.send("post", f"/takes/{take.id}/deliveries", {"spec": {"format": "dng"}, "name": ""})
        self.assertEqual(ordered.status_code, 201, ordered.content)
        row = Delivery.objects.get(id=ordered.json()["id"])
        deliver.func(str(row.id))
        row.refresh_from_db()
        self.assertEqual(row.state, "done")
        facts = read_facts(row.path)
        assert facts.raw is not None
        self.assertEqual((facts.iso, facts.width), (400, row.width))
        _, plain = self.picture_and_take(png_bytes())
        refused = self.send("post", f"/takes/{plain.id}/deliveries", {"spec": {"format": "dng"}, "name": ""})
        self.assertIn("no camera raw", refused.json()["message"])

    def test_its_wide_space_is_chosen_once_for_a_job(self) -> None:
        path = f"/jobs/{self.job.id}"
        told = {"title": "Harbour", "space": "rec2020-rgb"}
        self.assertEqual(self.send("put", path, told).json()["space"], "rec2020-rgb")
        raw, take = self.picture_and_take(self.content())
        self.assertIn("Rec. 2020", raw["facts"]["profile"])
        plain, _ = self.picture_and_take(png_bytes())
        picture = Picture.objects.get(id=raw["id"])
        self.assertNotEqual(picture.samples_key, picture.original_id)
        untouched = Picture.objects.get(id=plain["id"])
        self.assertEqual(untouched.samples_key, untouched.original_id)
        answer = self.send("put", path, {**told, "space": "prophoto-rgb"})
        self.assertEqual(answer.status_code, 400)
        self.assertIn("Rec. 2020 already", answer.json()["message"])
        self.assertEqual(self.send("put", path, {**told, "title": "Wall"}).json()["title"], "Wall")
        # The same raw in two jobs: each file has the space of its own, and the same colours.
        other = self.send("post", "/jobs", {"title": "Beach"}).json()
        again = self.upload(self.content(), job=Job.objects.get(id=other["id"])).json()
        spec = {"spec": {"format": "tiff", "depth": 16}, "name": ""}
        files = []
        for one in (take, Take.objects.get(picture_id=again["id"])):
            one.save_steps([{"kind": "develop", "ev": -1}, {"kind": "frame"}])
            row = Delivery.objects.get(id=self.send("post", f"/takes/{one.id}/deliveries", spec).json()["id"])
            deliver.func(str(row.id))
            row.refresh_from_db()
            files.append(pyvips.Image.new_from_file(str(row.path)))
        self.assertNotEqual(*(file.get("icc-profile-data") for file in files))
        lab = [file.icc_import(embedded=True, intent="relative").numpy() for file in files]
        self.assertLess(float(np.abs(lab[0] - lab[1]).max()), 0.2)

    def test_how_far_developing_is_is_told(self) -> None:
        raw, take = self.picture_and_take(self.content())
        path, told = f"/takes/{take.id}/developing", []

        def half_way(*given: Any) -> None:
            given[-1](0.5)
            told.append(self.send("get", path).json()["share"])

        self.assertIsNone(self.send("get", path).json()["share"])
        shutil.rmtree(self.home / "decoded", ignore_errors=True)
        with patch("kitecore.files.raw.picture.develop", half_way):
            read.func(Picture.objects.get(id=raw["id"]).original_id)
        self.assertEqual(told, [0.5])
        self.assertIsNone(self.send("get", path).json()["share"])
        self.assertEqual(self.send("get", path, None, self.as_stranger()).status_code, 404)

    def test_a_broken_one_says_so_and_leaves_nothing(self) -> None:
        content: Any = self.content()
        answer = self.upload(content[: len(content) // 2], "half.dng")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("half.dng", answer.json()["message"])
        self.assertEqual(self.files("originals") + self.files("incoming"), [])

    def test_the_cameras_jpeg_is_laid_on_it_to_be_compared(self) -> None:
        raw, _ = self.picture_and_take(self.content(preview=True))
        inside = self.send("post", f"/pictures/{raw['id']}/camera-jpeg")
        self.assertEqual(inside.status_code, 201, inside.content)
        self.assertEqual(inside.json()["outside"], "camera.jpg")
        beside = pyvips.Image.new_from_array(np.rint(255 * SCENE).astype(np.uint8)).jpegsave_buffer(Q=95)
        self.upload(beside, "Wall.JPG")
        self.assertEqual(self.send("post", f"/pictures/{raw['id']}/camera-jpeg").json()["outside"], "Wall.JPG")
        bare = self.upload(self.content(), "bare.dng").json()
        self.assertIn("holds no JPEG", self.send("post", f"/pictures/{bare['id']}/camera-jpeg").json()["message"])
