import unittest

import numpy as np

from kitecore.comparison.difference import clipping_marked, clipping_striped, histogram, signed_difference
from kitecore.pipeline.geometry import Region


class ComparisonTest(unittest.TestCase):
    def test_equal_pictures_differ_by_half_grey_and_others_by_their_sign(self) -> None:
        picture = np.random.default_rng(1).random((8, 9, 3), np.float32)
        self.assertTrue(np.all(signed_difference(picture, picture, 8) == 0.5))
        lighter = picture + np.float32(0.01)
        np.testing.assert_allclose(signed_difference(lighter, picture, 8), 0.58, atol=1e-5)
        np.testing.assert_allclose(signed_difference(picture, lighter, 8), 0.42, atol=1e-5)

    def test_clipped_pixels_are_marked_and_no_others(self) -> None:
        picture = np.full((4, 4, 3), 0.5, np.float32)
        picture[0, 0], picture[1, 1, 0], picture[2, 2], picture[3, 3] = 1, 1, 0, 1 - 1 / 65535
        marked = clipping_marked(picture)
        coloured = np.ptp(marked, axis=2) > 0.01
        self.assertEqual({tuple(place) for place in np.argwhere(coloured).tolist()}, {(0, 0), (1, 1), (2, 2)})
        self.assertGreater(marked[0, 0, 0], marked[1, 1, 0])
        self.assertGreater(marked[2, 2, 2], marked[2, 2, 0])

    def test_stripes_lie_over_what_is_clipped_and_stay_where_they_are(self) -> None:
        picture = np.full((30, 40, 3), 0.5, np.float32)
        picture[5:15, 5:15, 1], picture[20:28, 20:30] = 1, 0
        whole = clipping_striped(picture, picture, Region(0, 0, 40, 30))
        changed = (whole != picture).any(axis=2)
        self.assertFalse(changed[:5].any() or changed[16:20].any())
        self.assertTrue(40 <= changed[5:15, 5:15].sum() <= 60)
        np.testing.assert_array_equal(whole[5:15, 5:15][changed[5:15, 5:15]][0], [0, 1, 0])
        np.testing.assert_array_equal(whole[20:28, 20:30][changed[20:28, 20:30]][0], [0.75, 0.75, 0.75])
        part = clipping_striped(picture[3:, 7:], picture[3:, 7:], Region(7, 3, 33, 27))
        np.testing.assert_array_equal(part, whole[3:, 7:])

    def test_histogram_counts_every_pixel_of_every_channel(self) -> None:
        picture = np.random.default_rng(2).random((40, 50, 4), np.float32)
        picture[:10, :, 1], picture[:4, :, 2] = 1.2, -0.1
        found = histogram(picture)
        self.assertEqual([sum(counts) for counts in found.counts], [2000, 2000, 2000])
        self.assertEqual(found.highlights[1], 0.25)
        self.assertEqual(found.shadows[2], 0.1)
        self.assertGreaterEqual(found.counts[1][255], 500)
        self.assertEqual(len(histogram(picture[..., :1]).counts), 1)
