"""Suggested crops: of the wanted shape, inside the picture, around what matters, different from each other."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from kitecore.pipeline.geometry import Region, Size
from kitecore.reading.crops import suggest_crops


def blob(width: int, height: int, x: float, y: float, size: float) -> np.ndarray:
    rows, columns = np.mgrid[0:height, 0:width]
    return np.exp(-(((columns - x * width) / size) ** 2) - ((rows - y * height) / size) ** 2)


def share_inside(matters: np.ndarray, region: Region) -> float:
    return float(matters[region.slices(Region(0, 0, matters.shape[1], matters.shape[0]))].sum() / matters.sum())


class CropsTest(unittest.TestCase):
    @settings(max_examples=15, deadline=None)
    @given(st.integers(30, 120), st.integers(30, 120), st.floats(0.4, 2.5), st.floats(0.1, 0.9), st.floats(0.1, 0.9))
    def test_they_have_the_shape_lie_inside_and_differ(
        self, width: int, height: int, ratio: float, x: float, y: float
    ) -> None:
        found = suggest_crops(blob(width, height, x, y, 8), ratio)
        self.assertTrue(1 <= len(found) <= 3)
        for one in found:
            self.assertTrue(one.region.inside(Size(width, height)))
            self.assertLess(abs(one.region.width - one.region.height * ratio), 1.5 * max(1, ratio) + 0.5)
        self.assertEqual(len({one.region for one in found}), len(found))

    def test_each_does_what_it_says(self) -> None:
        matters = blob(120, 80, 0.7, 0.4, 7)
        everything, closer, third = suggest_crops(matters, 1.0)
        self.assertGreater(share_inside(matters, everything.region), 0.99)
        self.assertGreater(everything.region.size.pixels, 1.5 * closer.region.size.pixels)
        self.assertGreater(share_inside(matters, closer.region), 0.95)
        place = (0.7 * 120 - third.region.x) / third.region.width
        self.assertLess(min(abs(place - 1 / 3), abs(place - 2 / 3)), 0.06)

    def test_faces_are_not_cut(self) -> None:
        matters = blob(120, 80, 0.5, 0.5, 20)
        faces = [Region(12, 20, 14, 18), Region(88, 30, 14, 18)]
        for one in suggest_crops(matters, 4 / 5, faces):
            for face in faces:
                common = one.region.intersection(face)
                self.assertTrue(common is None or common == face)


if __name__ == "__main__":
    unittest.main()
