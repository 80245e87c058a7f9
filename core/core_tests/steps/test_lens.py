"""Lens: vignetting by its formula, fringes that were made and are undone, centred on the source whatever was cropped."""

import unittest

import numpy as np

from core_tests.colour.test_transfer import by_formula
from core_tests.pictures import random_samples, smooth
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Frame, Lens
from kitecore.steps.frame import Crop
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage


def rings(shift: float) -> np.ndarray:
    """Waves about the middle, red ones larger so that they lie ``shift`` px farther out at the corner."""
    y, x = np.mgrid[0:120, 0:160] + 0.5
    corner = np.hypot(80, 60)
    away = np.hypot(x - 80, y - 60)
    planes = [0.5 + 0.3 * np.sin(away * scale / 3.2) for scale in (1 - shift / corner, 1, 1)]
    return np.asarray(np.stack(planes, -1), np.float32)


class LensTest(unittest.TestCase):
    def test_at_rest_nothing_changes(self) -> None:
        samples = random_samples(20, 30, 3, bits=16)
        np.testing.assert_array_equal(render_array(samples, [Lens()]), render_array(samples, []))

    def test_vignetting_is_its_formula_and_neutral_stays_so(self) -> None:
        flat = np.full((60, 80, 3), 0.4, np.float32)
        y, x = np.mgrid[0:60, 0:80] + 0.5
        away = np.clip((np.hypot(x - 40, y - 30) / 50 - 0.3) / 0.7, 0, None)
        made = render_array(flat, [Lens(vignetting=60, begins=30)])
        expected = by_formula(flat)[..., 0] * 2 ** (1.2 * away**2)
        np.testing.assert_allclose(by_formula(made)[..., 0], expected, rtol=1e-4)
        np.testing.assert_array_equal(made[..., 0], made[..., 2])

    def test_fringes_that_were_made_are_undone(self) -> None:
        fringed = rings(2.0)
        before = np.abs(fringed[..., 0] - fringed[..., 1])[8:-8, 8:-8].max()
        made = render_array(fringed, [Lens(red=-2)])
        after = np.abs(made[..., 0] - made[..., 1])[8:-8, 8:-8].max()
        self.assertGreater(before, 0.1)
        self.assertLess(after, 0.02)
        np.testing.assert_array_equal(made[..., 1:], fringed[..., 1:])

    def test_a_crop_moves_nothing(self) -> None:
        samples = rings(1.5)
        crop = Region(70, 15, 80, 90)
        step = Lens(vignetting=50, red=-1.5, blue=0.7)
        whole = render_array(samples, [step])
        cut = render_array(samples, [Frame(crop=Crop(x=70, y=15, width=80, height=90)), step])
        inner = np.s_[6:-6, 6:-6]
        np.testing.assert_allclose(cut[inner], whole[crop.slices(Region(0, 0, 160, 120))][inner], atol=2e-5)

    def test_tiles_fit(self) -> None:
        source = SampleStage(smooth(60, 80))
        stage = result_stage(plan_of_steps([Lens(vignetting=-40, red=3, blue=-5)], source.size), source)
        whole = stage.render(source.size.region, Run())
        for part in (Region(0, 0, 17, 60), Region(33, 21, 40, 13)):
            np.testing.assert_allclose(stage.render(part, Run()), whole[part.slices(source.size.region)], atol=1e-6)

    def test_it_is_told(self) -> None:
        self.assertEqual(Lens().did(), "")
        self.assertEqual(Lens(vignetting=30).did(), "corners lightened at 30 %")


if __name__ == "__main__":
    unittest.main()
