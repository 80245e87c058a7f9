import json
from unittest import TestCase

import numpy as np

from core_tests.pictures import smooth
from kitecore.errors import TakeError
from kitecore.pipeline.geometry import Size, divisor
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Enlarge, Frame
from kitecore.steps.enlarge import ByFactor, ByWidth
from kitecore.steps.frame import Crop
from kitecore.takes.plan import plan
from kitecore.takes.render import result_stage
from kitecore.takes.take import Take, parse_take


def _averaged(picture: np.ndarray, step: int) -> np.ndarray:
    """The picture with one pixel for ``step``×``step``; what is left at right and bottom is left out."""
    rows, columns = picture.shape[0] // step, picture.shape[1] // step
    return picture[: rows * step, : columns * step].reshape(rows, step, columns, step, 3).mean(axis=(1, 3))


class TakeTest(TestCase):
    def test_json_goes_both_ways(self) -> None:
        take = Take(
            steps=[Frame(angle=1.5, crop=Crop(x=1, y=2, width=3, height=4)), Enlarge(target=ByWidth(pixels=900))]
        )
        self.assertEqual(parse_take(take.model_dump_json()), take)
        answer = {"id": "…", "name": "A", "plan": None, **take.model_dump(mode="json")}
        self.assertEqual(parse_take(json.dumps(answer)), take, "a take as the API answers it")

    def test_faults_are_sentences_that_name_the_place(self) -> None:
        for text, said in (
            ("", "not usable"),
            ("[]", "not usable"),
            ('{"steps": [{"kind": "dance"}]}', "step 1"),
            (
                '{"steps": [{"kind": "frame"}, {"kind": "enlarge", "target": {"by": "factor", "factor": 1000}}]}',
                "“.*factor” of step 2.*1000",
            ),
            ('{"steps": [{"kind": "frame", "turns": 5}]}', "turns"),
            ('{"steps": [{"kind": "frame", "colour": "red"}]}', "colour"),
        ):
            with self.subTest(text=text), self.assertRaisesRegex(TakeError, said):
                parse_take(text)

    def test_steps_that_are_off_do_nothing(self) -> None:
        size = Size(100, 80)
        steps = [Frame(turns=1, on=False), Enlarge(target=ByFactor(factor=3), on=False)]
        resolved = plan(Take(steps=steps), size)
        self.assertEqual(resolved.size, size)
        picture = smooth(80, 100)
        np.testing.assert_array_equal(result_stage(resolved, SampleStage(picture)).render(size.region, Run()), picture)

    def test_the_chain_names_the_pixels(self) -> None:
        size = Size(100, 80)
        chains = [
            plan(Take(steps=steps), size).chain
            for steps in (
                [], [Frame()], [Frame(turns=1)], [Enlarge(engine="plain")], [Enlarge(engine="faithful")],
                [Enlarge(engine="plain", target=ByFactor(factor=3))],
            )
        ]  # fmt: skip
        self.assertEqual(len(set(chains)), len(chains))
        off = plan(Take(steps=[Frame(turns=1, on=False), Enlarge(engine="plain")]), size).chain
        self.assertEqual(off, chains[3])

    def test_views_from_afar_have_the_reduced_size_and_look_alike(self) -> None:
        picture = smooth(150, 210)
        take = Take(
            steps=[
                Frame(crop=Crop(x=11, y=7, width=180, height=120)),
                Enlarge(engine="plain", target=ByFactor(factor=3)),
            ]
        )
        resolved = plan(take, Size(210, 150))
        exact = result_stage(resolved, SampleStage(picture)).render(resolved.size.region, Run())
        for level in range(1, 8):
            size = Size(210, 150).reduced(resolved.source_reduction(level))
            step = divisor(resolved.source_reduction(level))
            whole = np.pad(picture, ((0, size.height * step - 150), (0, size.width * step - 210), (0, 0)), mode="edge")
            source = SampleStage(_averaged(whole, step))
            view = result_stage(resolved, source, level)
            self.assertEqual(view.size, resolved.size.reduced(level))
            seen = view.render(view.size.region, Run())
            mean = _averaged(exact, divisor(level))
            difference = np.abs(seen[: mean.shape[0], : mean.shape[1]] - mean)[2:-2, 2:-2].mean()
            self.assertLess(difference, 0.04, level)

    def test_zoomed_out_views_read_a_reduced_source(self) -> None:
        resolved = plan(Take(steps=[Enlarge(engine="plain", target=ByFactor(factor=4))]), Size(4000, 3000))
        self.assertEqual([divisor(resolved.source_reduction(level)) for level in range(9)], [1, 1, 1, 1, 1, 2, 3, 4, 6])
