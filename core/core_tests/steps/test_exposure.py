"""Exposure: what it promises, against the formula in double precision."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from core_tests.colour.test_transfer import by_formula
from core_tests.pictures import random_samples
from kitecore.colour.spaces import profile_of
from kitecore.colour.transfer import transfer_of
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Exposure
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage


class ExposureTest(unittest.TestCase):
    def test_at_rest_nothing_changes(self) -> None:
        samples = random_samples(20, 30, 3, bits=16)
        np.testing.assert_array_equal(render_array(samples, [Exposure()]), render_array(samples, []))

    @given(st.floats(-6, 6), st.floats(-1, 0.5))
    def test_light_is_multiplied(self, ev: float, black: float) -> None:
        samples = np.linspace(-0.5, 3, 60, dtype=np.float32).reshape(4, 5, 3)
        moved = (samples.astype(np.float64) - black) / (1 - black)
        light = by_formula(render_array(samples, [Exposure(ev=ev, black=black)]))
        np.testing.assert_allclose(light, by_formula(moved) * 2**ev, rtol=1e-4, atol=1e-5)

    def test_the_curve_is_that_of_the_picture(self) -> None:
        samples = np.full((4, 4, 3), 0.5, np.float32)
        profile = profile_of("prophoto-rgb")
        resolved = plan_of_steps([Exposure(ev=1)], SampleStage(samples).size)
        made = result_stage(resolved, SampleStage(samples, profile)).render(resolved.size.region, Run())
        curve = transfer_of(profile)
        np.testing.assert_allclose(curve.light(made), 2 * curve.light(samples), rtol=1e-5)
        self.assertGreater(abs(float((made - render_array(samples, [Exposure(ev=1)])).max())), 0.01)

    def test_alpha_stays_and_grey_stays_grey(self) -> None:
        samples = random_samples(12, 9, 4)
        np.testing.assert_array_equal(
            render_array(samples, [Exposure(ev=2)])[..., 3], render_array(samples, [])[..., 3]
        )
        grey = np.repeat(random_samples(12, 9, 1), 3, axis=2)
        made = render_array(grey, [Exposure(ev=-1.3, black=0.1)])
        np.testing.assert_array_equal(made[..., 0], made[..., 2])

    def test_it_is_said(self) -> None:
        self.assertEqual(Exposure().did(), "")
        self.assertEqual(Exposure(ev=-1.5, black=-0.1).did(), "exposed by -1.5 EV, black set at the value -0.1")


if __name__ == "__main__":
    unittest.main()
