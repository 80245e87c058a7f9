from unittest import TestCase

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core_tests.pictures import smooth
from kitecore.pipeline.area_means import along_rows, brought_back
from kitecore.pipeline.geometry import Region


class AreaMeansTest(TestCase):
    def test_of_whole_cells_are_plain_means(self) -> None:
        pixels = smooth(12, 18)
        back = brought_back(pixels, Region(0, 0, 18, 12), Region(0, 0, 6, 4), 3, 3)
        np.testing.assert_allclose(back, pixels.reshape(4, 3, 6, 3, 3).mean(axis=(1, 3)), atol=1e-6)

    @given(st.floats(1, 6), st.integers(1, 12))
    def test_keep_a_flat_tone_whatever_the_factor(self, scale: float, cells: int) -> None:
        flat = np.full((int(np.ceil(cells * scale)) + 1, 2, 1), 0.375, np.float32)
        np.testing.assert_allclose(along_rows(flat, 0, cells, 0, scale), 0.375, atol=1e-6)

    @given(st.floats(1, 6), st.integers(2, 12))
    def test_together_hold_the_whole_light(self, scale: float, cells: int) -> None:
        length = int(np.floor(cells * scale))
        rows = np.random.default_rng(cells).random((length, 1, 1), np.float32)
        means = along_rows(rows, 0, cells, 0, scale)
        self.assertAlmostEqual(float(means.sum() * scale), float(rows.sum()), places=3)

    @given(st.floats(1.1, 5), st.integers(0, 5), st.integers(1, 5))
    def test_of_a_part_are_those_of_the_whole(self, scale: float, first: int, count: int) -> None:
        rows = np.random.default_rng(count).random((60, 3, 2), np.float32)
        whole = along_rows(rows, 0, 11, 0, scale)
        start = int(np.floor(first * scale))
        part = along_rows(rows[start:], first, first + count, start, scale)
        np.testing.assert_allclose(part, whole[first : first + count], atol=1e-5)
