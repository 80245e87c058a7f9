"""People are found with hair and clothes where they have faces, and nowhere else."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.errors import TakeError
from kitecore.faces import FaceFound, find_faces
from kitecore.masks.found import plane_of
from kitecore.masks.parts import Found
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.reading.people import find_people
from kitecore.takes.finding import Look


def portrait() -> np.ndarray:
    return cv2.resize(skimage.data.astronaut(), (400, 400), interpolation=cv2.INTER_AREA)


def faces_in(pixels: np.ndarray) -> list[FaceFound]:
    found = find_faces(pixels.astype(np.float32) / 255, Run())
    return [
        FaceFound(
            ((one.eyes[0].x, one.eyes[0].y), (one.eyes[1].x, one.eyes[1].y)), (one.mouth.x, one.mouth.y), one.sure
        )
        for one in found
    ]


class PeopleTest(unittest.TestCase):
    def test_somebody_is_found_from_hair_to_sleeves_and_what_is_beside_is_not(self) -> None:
        found = find_people(portrait(), faces_in(portrait()), 1.0, Run())
        assert found is not None
        for x, y in ((178, 80), (170, 25), (140, 200), (60, 260), (120, 330)):
            self.assertGreater(found[y, x], 0.8, (x, y))
        for x, y in ((20, 60), (320, 60), (350, 180), (270, 30)):
            self.assertLess(found[y, x], 0.2, (x, y))

    def test_far_people_are_found_around_their_faces(self) -> None:
        """Somebody who fills a fifth of the width of a picture, on a plain field, against what was laid there."""
        person = portrait()
        whole = find_people(person, faces_in(person), 1.0, Run())
        assert whole is not None
        field = np.full((420, 640, 3), (120, 150, 180), np.float32)
        small, cut = (
            cv2.resize(np.asarray(one, np.float32), (130, 130), interpolation=cv2.INTER_AREA) for one in (person, whole)
        )
        field[290:420, 300:430] += (cut > 0.5)[..., None] * (small - field[290:420, 300:430])
        seen = field.astype(np.uint8)
        found = find_people(seen, faces_in(seen), 1.0, Run())
        assert found is not None
        truth = np.zeros((420, 640), bool)
        truth[290:420, 300:430] = cut > 0.5
        overlap = (truth & (found > 0.5)).sum() / (truth | (found > 0.5)).sum()
        self.assertGreater(overlap, 0.9)

    def test_where_no_face_is_there_is_nobody(self) -> None:
        self.assertIsNone(find_people(portrait(), [], 1.0, Run()))

    def test_a_mask_finds_them_and_they_are_the_subject_of_a_portrait(self) -> None:
        stage = SampleStage(portrait())
        look = Look(stage, None, faces_in(portrait()), stage.size)
        people, subject = (plane_of(look.find(Found(what=what), Run()).plane) for what in ("people", "subject"))
        np.testing.assert_array_equal(people, subject)
        background = plane_of(look.find(Found(what="background"), Run()).plane)
        np.testing.assert_allclose(background, 1 - subject, atol=0.005)
        with self.assertRaisesRegex(TakeError, "No face was found"):
            Look(stage, None, [], stage.size).find(Found(what="people"), Run())


if __name__ == "__main__":
    unittest.main()
