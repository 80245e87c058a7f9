"""Blemishes: traced as they lie, and found on photographs that nobody trained on."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.errors import Cancelled
from kitecore.pipeline.run import Run
from kitecore.reading.blemishes import Blemish, blemishes_in, find_blemishes, finder


def covered(blemish: Blemish, shape: tuple[int, int]) -> np.ndarray:
    """What a stroke along it covers, H×W."""
    canvas = np.zeros(shape, np.uint8)
    points = np.rint(np.asarray(blemish.points) - 0.5).astype(np.int32).reshape(-1, 1, 2)
    cv2.polylines(canvas, [points], False, 1, max(1, round(blemish.size)))
    if len(points) == 1:
        cv2.circle(canvas, tuple(int(one) for one in points[0, 0]), round(blemish.size / 2), 1, -1)
    return canvas.astype(bool)


class TracedTest(unittest.TestCase):
    def test_a_speck_is_one_place_and_covered(self) -> None:
        chance = np.zeros((60, 80), np.float32)
        cv2.ellipse(chance, (40, 25), (5, 3), 30, 0, 360, 0.9, -1)
        (found,) = blemishes_in(chance, Run())
        self.assertEqual((found.kind, len(found.points)), ("speck", 1))
        self.assertAlmostEqual(found.sure, 0.9, places=5)
        np.testing.assert_allclose(found.points[0], (40.5, 25.5), atol=0.3)
        self.assertTrue(covered(found, chance.shape)[chance > 0].all())

    def test_a_bent_line_is_followed_from_end_to_end(self) -> None:
        chance = np.zeros((120, 160), np.float32)
        angle = np.linspace(0, 1.5 * np.pi, 60)
        points = np.stack([80 + 40 * np.cos(angle), 60 + 40 * np.sin(angle)], axis=1)
        cv2.polylines(chance, [np.int32(points)], False, 0.8, 2)
        (found,) = blemishes_in(chance, Run())
        self.assertEqual(found.kind, "line")
        self.assertLess(found.size, 12)
        self.assertTrue(covered(found, chance.shape)[chance > 0].mean() > 0.97)
        # No more than a narrow band about it is taken.
        self.assertLess(covered(found, chance.shape).sum(), 6 * (chance > 0).sum())
        ends = {tuple(np.round(end)) for end in (found.points[0], found.points[-1])}
        for end in (points[0], points[-1]):
            self.assertLess(min(np.hypot(*(np.array(one) - end)) for one in ends), 4)

    def test_what_crosses_and_branches_is_covered_by_narrow_strokes(self) -> None:
        chance = np.zeros((160, 200), np.float32)
        for ends in (((10, 20), (190, 60)), ((40, 150), (150, 10)), ((120, 45), (170, 150))):
            cv2.line(chance, *ends, 0.9, 3)
        cv2.circle(chance, (40, 150), 8, 0.9, -1)
        found = blemishes_in(chance, Run())
        self.assertTrue(3 <= len(found) <= 6, found)
        self.assertLess(max(one.size for one in found if one.kind == "line"), 14)
        covers = np.any([covered(one, chance.shape) for one in found], axis=0)
        self.assertGreater(covers[chance > 0].mean(), 0.98)
        self.assertLess(covers.sum(), 3 * (chance > 0).sum())

    def test_a_sure_line_through_an_unsure_blot_is_told_apart(self) -> None:
        chance = np.zeros((120, 200), np.float32)
        cv2.circle(chance, (100, 60), 18, 0.6, -1)
        cv2.line(chance, (5, 58), (195, 62), 0.98, 3)
        self.assertEqual([one.kind for one in blemishes_in(chance, Run(), 0.9)], ["line"])

    def test_the_surest_comes_first_and_what_is_unsure_or_tiny_not_at_all(self) -> None:
        chance = np.zeros((60, 60), np.float32)
        chance[10:14, 10:14], chance[30:34, 30:34], chance[50:54, 50:54], chance[5, 50] = 0.7, 0.95, 0.4, 1
        self.assertEqual([round(one.sure, 2) for one in blemishes_in(chance, Run())], [0.95, 0.7])


class FoundTest(unittest.TestCase):
    def test_most_of_what_lies_on_photographs_is_found_and_little_else(self) -> None:
        things = found = told = true = 0
        for seed, name in enumerate(2 * ("astronaut", "coffee", "chelsea")):
            truth = np.ascontiguousarray(getattr(skimage.data, name)()[..., :3], np.float32) / 255
            random = np.random.default_rng(seed)
            picture, drawn = truth.copy(), []
            for _ in range(10):
                mask = np.zeros((truth.shape[0] * 4, truth.shape[1] * 4), np.uint8)
                x, y = random.integers(30, mask.shape[1] - 30), random.integers(30, mask.shape[0] - 30)
                if random.random() < 0.5:
                    cv2.ellipse(
                        mask,
                        (int(x), int(y)),
                        (int(random.integers(6, 18)), int(random.integers(5, 12))),
                        40,
                        0,
                        360,
                        255,
                        -1,
                    )
                else:
                    length, angle = random.integers(120, 500), random.uniform(0, 3.14)
                    end = (int(x + length * np.cos(angle)), int(y + length * np.sin(angle)))
                    cv2.line(mask, (int(x), int(y)), end, 255, int(random.integers(4, 9)))
                share = cv2.resize(mask, truth.shape[1::-1], interpolation=cv2.INTER_AREA).astype(np.float32) / 255
                where = share > 0.4
                if where.sum() < 4 or abs(truth[where].mean() - 0.95) < 0.25:
                    continue
                picture = picture * (1 - share[..., None]) + 0.95 * share[..., None]
                drawn.append(where)
            listed = find_blemishes(picture, Run(), least=0.9)
            covers = [covered(one, truth.shape[:2]) for one in listed]
            all_drawn, all_found = np.any(drawn, axis=0), np.any(covers, axis=0)
            things, told = things + len(drawn), told + len(listed)
            found += sum(bool((all_found & where).sum() > where.sum() / 2) for where in drawn)
            true += sum(bool((all_drawn & cover).any()) for cover in covers)
        self.assertGreater(found / things, 0.6)
        self.assertGreater(true / told, 0.5)

    def test_a_mirrored_picture_has_the_same_blemishes(self) -> None:
        random = np.random.default_rng(1)
        picture = cv2.GaussianBlur(random.random((120, 96, 3), np.float32), (0, 0), 6)
        picture[30:34, 20:60], picture[70:75, 50:54] = 1, 0
        chances = finder.chances(picture, Run())
        self.assertGreater(chances[31, 40], 0.5)
        for turned in (np.fliplr, np.flipud):
            again = turned(finder.chances(np.ascontiguousarray(turned(picture)), Run()))
            np.testing.assert_allclose(again, chances, atol=2e-3)

    def test_any_size_is_looked_at_and_grey_as_well(self) -> None:
        for shape in ((7, 9, 1), (33, 70, 3), (530, 40, 1)):
            self.assertEqual(find_blemishes(np.full(shape, 0.4, np.float32), Run()), [])

    def test_it_is_called_off(self) -> None:
        with self.assertRaises(Cancelled):
            find_blemishes(np.zeros((40, 40, 3), np.float32), Run(lambda: True))
