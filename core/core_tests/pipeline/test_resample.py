from unittest import TestCase

import numpy as np
from PIL import Image

from core_tests.pictures import smooth
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.resample import resample_region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import ResampledStage, SampleStage


def resampled(pixels: np.ndarray, size: Size) -> np.ndarray:
    return ResampledStage(SampleStage(pixels), size).render(size.region, Run())


class LanczosTest(TestCase):
    def test_equals_an_independent_implementation(self) -> None:
        random = np.random.default_rng(3).random((50, 70, 1), dtype=np.float32)
        for width, height in ((140, 100), (183, 131), (40, 30), (71, 49), (560, 400)):
            with self.subTest(width=width, height=height):
                reference = np.asarray(
                    Image.fromarray(random[..., 0]).resize((width, height), Image.Resampling.LANCZOS)
                )
                ours = resampled(random, Size(width, height))[..., 0]
                self.assertLess(np.abs(ours - reference).max(), 2e-6)

    def test_keeps_a_flat_tone(self) -> None:
        flat = np.full((31, 17, 3), 0.3125, np.float32)
        for size in (Size(100, 200), Size(9, 15)):
            np.testing.assert_allclose(resampled(flat, size), 0.3125, atol=1e-6)

    def test_same_size_is_the_same_picture(self) -> None:
        picture = smooth(40, 30)
        np.testing.assert_allclose(resampled(picture, Size(30, 40)), picture, atol=1e-6)

    def test_what_cannot_be_seen_does_not_bleed(self) -> None:
        """Colour under full transparency must not tint the edge of what is opaque."""
        picture = np.zeros((20, 20, 4), np.float32)
        picture[..., 1] = 1  # hidden green everywhere
        picture[:, 10:] = (1, 0, 0, 1)
        result = resampled(picture, Size(60, 60))
        seen = result[..., 3] > 0.05
        self.assertLess(result[..., 1][seen].max(), 1e-3)

    def test_reads_only_what_the_region_needs(self) -> None:
        asked: list[Region] = []

        def read(region: Region) -> np.ndarray:
            asked.append(region)
            return np.zeros((region.height, region.width, 1), np.float32)

        resample_region(read, Size(1000, 1000), Size(4000, 4000), Region(2000, 2000, 40, 40))
        self.assertLessEqual(asked[0].width, 10 + 2 * 4)
