"""Clips through the server: taken in, looked through, stills taken from them."""

from __future__ import annotations

import io
from typing import Any

import cv2
import numpy as np
import tifffile
from PIL import Image

from clips.decoders import decoders
from clips.models import ClipCurve
from clips.tasks import find_moments, measure_curve
from core_tests.clips import handheld, write_clip
from pictures.models import Picture
from server_tests.base import CommittedTestCase

SHARP = 5


class ClipsTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(decoders.close)
        random = np.random.default_rng(4)
        picture = cv2.GaussianBlur(random.uniform(0, 255, (164, 224, 3)), (0, 0), 2)
        picture = 127 + 4 * (picture - 127)
        truths = handheld(np.clip(picture, 0, 255), 9)
        self.frames = [
            cv2.GaussianBlur(frame, (0, 0), 0.01 if index == SHARP else 1.5) for index, frame in enumerate(truths)
        ]
        self.content = write_clip(self.home / "kites.mp4", self.frames).read_bytes()

    def bring(self, content: bytes, name: str = "kites.mp4") -> Any:
        return self.client.generic(
            "POST", f"/api/jobs/{self.job.id}/clips?name={name}", content, content_type="application/octet-stream"
        )

    def test_it_is_brought_looked_through_and_taken_out(self) -> None:
        made = self.bring(self.content)
        self.assertEqual(made.status_code, 201, made.content)
        clip = made.json()
        self.assertEqual((clip["facts"]["frames"], clip["facts"]["width"]), (9, 160))
        times = self.client.get(f"/api/clips/{clip['id']}/times").json()
        self.assertEqual((times["times"][3], times["codes"][3]), (0.12, "00:00:00:03"))
        for side, width in ((80, 80), (2000, 160)):
            answer = self.client.get(f"/api/clips/{clip['id']}/frames/2?side={side}")
            self.assertEqual(Image.open(io.BytesIO(answer.content)).width, width)
        strip = Image.open(io.BytesIO(self.client.get(f"/api/clips/{clip['id']}/strip").content))
        self.assertEqual(strip.height, 54)
        self.assertEqual(self.client.get(f"/api/clips/{clip['id']}/frames/9?side=80").status_code, 400)
        for path in ("", "/times", "/curve", "/frames/0", "/strip"):
            self.assertEqual(self.as_stranger().get(f"/api/clips/{clip['id']}{path}").status_code, 404)
        self.send("delete", f"/clips/{clip['id']}")
        self.assertEqual(self.client.get(f"/api/jobs/{self.job.id}/clips").json(), [])
        self.send("post", f"/clips/{clip['id']}/restore")
        self.assertEqual(len(self.client.get(f"/api/jobs/{self.job.id}/clips").json()), 1)

    def test_the_sharpest_frame_is_found_and_pulled(self) -> None:
        clip = self.bring(self.content).json()
        row = ClipCurve.objects.get(original__clips=clip["id"])
        measure_curve.func(row.pk)
        curve = self.client.get(f"/api/clips/{clip['id']}/curve").json()
        self.assertEqual((curve["state"], curve["curve"]["peaks"][0]), ("done", SHARP))
        (made,) = self.send("post", f"/clips/{clip['id']}/pull", {"frames": [SHARP]}).json()
        self.assertEqual(made["name"], "kites 00-00-00-05.tif")
        self.assertEqual(made["facts"]["bits"], 16)
        self.assertEqual(made["facts"]["notes"][0], "Frame 6 (00:00:00:05) of kites.mp4.")
        picture = Picture.objects.get(id=made["id"])
        samples = tifffile.imread(picture.original.path).astype(float) / 257
        self.assertLess(float(np.abs((samples - self.frames[SHARP]).mean(axis=2)).mean()), 4)
        with tifffile.TiffFile(picture.original.path) as file:
            self.assertIn("00:00:00:05", file.pages.first.description)
        self.assertEqual(picture.takes.count(), 1)

    def test_small_pictures_are_there_at_once_and_moments_follow_the_curve(self) -> None:
        clip = self.bring(self.content).json()
        moments, look = f"/api/clips/{clip['id']}/moments", f"/api/clips/{clip['id']}/looks/2"
        row = ClipCurve.objects.get(original__clips=clip["id"])
        self.assertEqual(self.client.get(moments).json()["state"], "waiting")
        self.assertEqual(self.client.get(look).status_code, 404)
        measure_curve.func(row.pk)
        self.assertEqual(Image.open(io.BytesIO(self.client.get(look).content)).size, (160, 100))
        self.assertEqual(self.client.get(moments).json()["state"], "queued")
        find_moments.func(row.pk)
        told = self.client.get(moments).json()
        self.assertEqual((told["state"], told["moments"]), ("done", {"moments": [], "best": []}))
        for path in (moments, look):
            self.assertEqual(self.as_stranger().get(path).status_code, 404)

    def test_neighbours_are_fused(self) -> None:
        clip = self.bring(self.content).json()
        made = self.send("post", f"/clips/{clip['id']}/fuse", {"first": 3, "last": 7, "best": SHARP, "factor": 2})
        self.assertEqual(made.status_code, 201, made.content)
        told = made.json()
        self.assertEqual((told["facts"]["width"], told["name"]), (320, "kites 00-00-00-05 fused.tif"))
        self.assertIn("Frames 4 to 8 of kites.mp4 fused", told["facts"]["notes"][0])
        for wanted, said in (
            ({"first": 3, "last": 3, "best": 3}, "two frames or more"), ({"first": 0, "last": 40, "best": 3}, "beyond them"),
            ({"first": 3, "last": 5, "best": 8}, "one of them"),
        ):  # fmt: skip
            refused = self.send("post", f"/clips/{clip['id']}/fuse", wanted)
            self.assertIn(said, refused.json()["message"])

    def test_what_is_no_clip_says_so_and_leaves_nothing(self) -> None:
        answer = self.bring(b"wind and string" * 50, "letter.mp4")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("letter.mp4 is a clip that cannot be used", answer.json()["message"])
        self.assertEqual(self.files("originals") + self.files("incoming"), [])
