from unittest import TestCase

import cv2
import numpy as np

from kitecore.errors import Cancelled
from kitecore.pipeline.run import Run
from kitecore.reading.matting import matted

SIDE = 240


def head_with_hair() -> tuple[np.ndarray, np.ndarray]:
    """How much of each pixel is a dark head with thin hairs, and it before a bright, uneven wall."""
    random, finer = np.random.default_rng(3), 4
    large = np.zeros((SIDE * finer, SIDE * finer), np.uint8)
    cv2.ellipse(large, (120 * finer, 150 * finer), (48 * finer, 62 * finer), 0, 0, 360, 255, -1)
    for _ in range(90):
        angle = random.uniform(-np.pi, 0)
        x, y, way = 120 + 47 * np.cos(angle), 150 + 61 * np.sin(angle), angle + random.normal(0, 0.3)
        points = [(x, y)]
        for _ in range(9):
            way += random.normal(0, 0.18)
            x, y = x + 3 * np.cos(way), y + 3 * np.sin(way)
            points.append((x, y))
        cv2.polylines(large, [np.int32(np.array(points) * finer)], False, 255, int(random.integers(2, 6)))
    share = cv2.resize(large, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32)[..., None] / 255
    wall = cv2.GaussianBlur(random.random((SIDE, SIDE, 3)), (0, 0), 9)
    wall = 0.4 + 0.5 * (wall - wall.min()) / np.ptp(wall)
    head = np.array([0.12, 0.16, 0.25]) + random.normal(0, 0.03, (SIDE, SIDE, 1))
    seen = head * share + wall * (1 - share) + random.normal(0, 0.01, (SIDE, SIDE, 3))
    return share[..., 0], seen.clip(0, 1).astype(np.float32)


class MattingTest(TestCase):
    def setUp(self) -> None:
        self.truth, self.seen = head_with_hair()
        plain = cv2.morphologyEx((self.truth > 0.5).astype(np.uint8), cv2.MORPH_OPEN, np.ones((7, 7)))
        self.rough = cv2.GaussianBlur(plain.astype(np.float32), (0, 0), 2)

    def test_hairs_are_found_that_the_outline_left_out(self) -> None:
        fine = matted(self.rough, self.seen, 34, Run())
        before, after = (float(np.abs(one - self.truth).mean()) for one in (self.rough, fine))
        self.assertLess(after, before / 3)
        self.assertTrue((fine >= 0).all() and (fine <= 1).all())

    def test_far_from_the_outline_nothing_changes(self) -> None:
        fine = matted(self.rough, self.seen, 10, Run())
        self.assertEqual((fine[150, 120], fine[5, 5]), (1, 0))
        far = cv2.dilate((self.rough > 0.5).astype(np.uint8), np.ones((23, 23))) == 0
        self.assertEqual(float(fine[far].max()), float(self.rough[far].max()))

    def test_what_has_no_inside_stays_as_it_is(self) -> None:
        for plane in (np.zeros((40, 50), np.float32), np.ones((40, 50), np.float32)):
            np.testing.assert_array_equal(matted(plane, self.seen[:40, :50], 5, Run()), plane)

    def test_it_is_called_off(self) -> None:
        with self.assertRaises(Cancelled):
            matted(self.rough, self.seen, 20, Run(lambda: True))
