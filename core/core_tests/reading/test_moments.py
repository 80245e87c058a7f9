"""Glances and moments: a photograph whose eyes are shut, turned aside or left without their light."""

from __future__ import annotations

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

import cv2
import numpy as np
import skimage.data

from core_tests.clips import write_clip
from kitecore.errors import Cancelled
from kitecore.faces import find_faces
from kitecore.faces.glance import Glance, glance_of
from kitecore.faces.mesh import LEFT_CORNERS, LEFT_EYE, RIGHT_CORNERS, RIGHT_EYE, irises_of, mesh_of
from kitecore.files.clip.clip import Clip
from kitecore.files.clip.curve import sharpness_curve
from kitecore.pipeline.run import Run
from kitecore.reading.moments import Moment, best_moments, moment_in, moments_of

DEMO = Path(__file__).parents[3] / "demo"
SEEN = np.ascontiguousarray(skimage.data.astronaut()[:300, 80:380].astype(np.float32) / 255)


class GlanceTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.face = find_faces(SEEN, Run())[0]
        cls.mesh = mesh_of(SEEN, cls.face.square)
        cls.irises = irises_of(SEEN, cls.mesh)

    def shut(self) -> np.ndarray:
        """Lids painted over both eyes."""
        shut = np.rint(255 * SEEN).astype(np.uint8)
        for outline in (LEFT_EYE, RIGHT_EYE):
            points = self.mesh.places[list(outline)]
            larger = points.mean(axis=0) + 1.5 * (points - points.mean(axis=0))
            where = np.zeros(SEEN.shape[:2], np.uint8)
            cv2.fillPoly(where, [np.int32(larger)], 255)
            shut = cv2.inpaint(shut, where, 9, cv2.INPAINT_TELEA)
            cv2.line(shut, *(tuple(int(value) for value in points[end]) for end in (0, 8)), (40, 25, 20), 1)
        return shut.astype(np.float32) / 255

    def aside(self, share: float) -> np.ndarray:
        """Both irises moved by a share of the eye's width."""
        rows, columns = np.mgrid[: SEEN.shape[0], : SEEN.shape[1]].astype(np.float32)
        moved = columns.copy()
        for corners, iris in zip((LEFT_CORNERS, RIGHT_CORNERS), self.irises, strict=True):
            width = np.hypot(*(self.mesh.places[corners[1]] - self.mesh.places[corners[0]]))
            away = np.hypot(columns - iris.middle.x, rows - iris.middle.y)
            moved -= np.float32(share * width) * np.clip((2.4 - away / iris.radius) / 1.2, 0, 1)
        return cv2.remap(SEEN, moved.astype(np.float32), rows, cv2.INTER_LINEAR)

    def dull(self) -> np.ndarray:
        """Irises without their light."""
        dull = SEEN.copy()
        for iris in self.irises:
            rows, columns = np.ogrid[: SEEN.shape[0], : SEEN.shape[1]]
            inside = np.hypot(columns + 0.5 - iris.middle.x, rows + 0.5 - iris.middle.y) < iris.radius
            dull[inside] = np.minimum(dull[inside], np.median(dull[inside], axis=0))
        return dull

    def glance(self, seen: np.ndarray) -> Glance:
        found = glance_of(seen, find_faces(seen, Run())[0].square)
        assert found is not None
        return found

    def test_open_eyes_that_look_at_the_camera_are_good(self) -> None:
        found = self.glance(SEEN)
        self.assertEqual((found.open, found.towards), (1, 1))
        self.assertGreater(found.good, 0.95)
        small = cv2.resize(SEEN, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
        self.assertGreater(self.glance(small).good, 0.8)
        self.assertGreater(self.glance(np.ascontiguousarray(SEEN[:, ::-1])).good, 0.95)

    def test_shut_eyes_and_looks_aside_are_not_and_a_light_tells(self) -> None:
        self.assertLess(self.glance(self.shut()).good, 0.4)
        for share in (-0.25, 0.25):
            found = self.glance(self.aside(share))
            self.assertLess(found.towards, 0.6, share)
            self.assertGreater(found.open, 0.6, share)
        self.assertLess(self.glance(self.dull()).light, self.glance(SEEN).light - 0.4)

    def test_where_no_face_is_nothing_is_said(self) -> None:
        wall = np.full((200, 200, 3), 0.5, np.float32)
        self.assertIsNone(glance_of(wall, self.face.square))
        self.assertEqual(moment_in(wall, 3, Run()), Moment(frame=3, faces=0, open=0, towards=0, light=0, good=0))

    def test_of_several_people_the_one_who_blinks_decides(self) -> None:
        both = np.hstack([SEEN, self.shut()])
        found = moment_in(both, 0, Run())
        self.assertEqual(found.faces, 2)
        self.assertLess(found.good, 0.4)

    def test_the_best_moments_of_a_clip_are_found(self) -> None:
        soft = cv2.GaussianBlur(SEEN, (0, 0), 1.6)
        frames = [self.shut(), self.aside(0.25), soft, SEEN, soft, self.shut(), self.shut(), self.aside(-0.25)]
        told: list[float] = []
        with TemporaryDirectory() as folder:
            path = write_clip(Path(folder) / "a.mp4", [255 * frame.astype(np.float64) for frame in frames])
            with Clip(path) as clip:
                found = moments_of(clip, Run(progress=told.append))
                with self.assertRaises(Cancelled):
                    moments_of(clip, Run(lambda: True))
        self.assertEqual([moment.frame for moment in found], list(range(len(frames))))
        best = best_moments(found, [3, 3, 1, 3, 1, 3, 3, 3], 10)
        self.assertEqual(best[0], 3)
        self.assertEqual((told, told[-1]), (sorted(told), 1))

    def test_a_clip_without_faces_has_no_moments_and_is_not_looked_through(self) -> None:
        wall = np.full((120, 160, 3), 130.0)
        with (
            TemporaryDirectory() as folder,
            Clip(write_clip(Path(folder) / "a.mp4", [wall] * 40)) as clip,
            mock.patch.object(clip, "look", side_effect=clip.look) as look,
        ):
            self.assertEqual(moments_of(clip, Run()), [])
        self.assertEqual(look.call_count, 16)
        self.assertEqual(best_moments([], [], 25), [])

    def test_of_the_demos_sitter_it_is_told_what_her_renderer_was(self) -> None:
        with Clip(DEMO / "clips" / "Wren in the workshop.mp4") as clip:
            found = moments_of(clip, Run())
            best = best_moments(found, sharpness_curve(clip, Run()), clip.facts.rate)
        # As demo/make_portrait_clip.py has it.
        shut, aside, good = (7, 8, 9, 32), range(16, 21), (11, 12, 24, 25, 26, 27, 28, 29, 30)
        self.assertLess(max(found[frame].open for frame in shut), 0.1)
        self.assertLess(max(found[frame].towards for frame in aside), 0.2)
        self.assertGreater(min(found[frame].good for frame in good), 0.75)
        self.assertGreater(min(found[frame].good for frame in best[:2]), 0.75)
