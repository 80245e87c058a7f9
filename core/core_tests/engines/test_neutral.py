"""Neutral stays neutral: what has equal channels comes out of every engine with equal channels, to the bit."""

import unittest

import numpy as np
import skimage.data

from kitecore.engines import engines
from kitecore.engines.engine import neutral_kept
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Enlarge, Faces, step_classes
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage

GREY = np.repeat(skimage.data.camera()[100:180, 170:270][..., None], 3, axis=2)


class NeutralTest(unittest.TestCase):
    def test_a_grey_picture_stays_grey_through_every_engine(self) -> None:
        for name, engine in engines().items():
            step = next(cls for cls in step_classes() if cls.engine_kind == engine.manifest.kind).showing(name)
            with self.subTest(engine=name):
                made = render_array(GREY, [step])
                np.testing.assert_array_equal(made[..., 0], made[..., 1])
                np.testing.assert_array_equal(made[..., 0], made[..., 2])

    def test_what_is_grey_in_a_coloured_picture_stays_so_in_every_tile(self) -> None:
        samples = np.concatenate([GREY, skimage.data.astronaut()[:80, 150:250]], axis=1)
        resolved = plan_of_steps([Enlarge.showing("crisp")], SampleStage(samples).size)
        stage = result_stage(resolved, SampleStage(samples))
        whole = stage.render(resolved.size.region, Run())
        factor = resolved.size.width // 200
        inside = whole[:, : factor * (100 - engines()["crisp"].reach)]
        np.testing.assert_array_equal(inside, np.repeat(inside[..., :1], 3, axis=2))
        self.assertGreater(float(np.abs(np.diff(whole[:, factor * 100 :], axis=2)).max()), 0.1)
        tile = Region(factor * 60, 13, factor * 70, 90)
        np.testing.assert_allclose(
            result_stage(resolved, SampleStage(samples)).render(tile, Run()),
            whole[tile.slices(resolved.size.region)], atol=1 / 255,
        )  # fmt: skip

    def test_colour_is_left_alone(self) -> None:
        given = np.random.default_rng(1).random((20, 20, 3), np.float32)
        result = np.random.default_rng(2).random((40, 40, 3), np.float32)
        np.testing.assert_array_equal(neutral_kept(given, result.copy(), 2), result)

    def test_faces_of_a_grey_picture_stay_grey(self) -> None:
        made = render_array(GREY, [Faces.showing("faces")])
        np.testing.assert_array_equal(made[..., 0], made[..., 2])


if __name__ == "__main__":
    unittest.main()
