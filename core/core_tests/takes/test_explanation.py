from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np

from core_tests.pictures import smooth, write
from kitecore.errors import TooLarge
from kitecore.files.source import Source
from kitecore.steps import Denoise, Enlarge, Frame, Sharpen
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.explanation import explain
from kitecore.takes.plan import plan
from kitecore.takes.take import Take


class ExplanationTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = write(Path(folder.name) / "in.png", (smooth(40, 60) * 255).astype(np.uint8))
        self.source = Source(path)
        self.addCleanup(self.source.close)
        self.take = Take(
            steps=[
                Frame(crop=Crop(x=10, y=5, width=40, height=30)),
                Denoise(on=False),
                Enlarge(engine="plain", target=ByFactor(factor=3)),
                Sharpen(),
            ]
        )

    def test_every_step_that_is_on_is_told_with_its_sizes(self) -> None:
        told = explain(self.take, self.source)
        self.assertEqual([row["step"] for row in told["steps"]], ["frame", "enlarge", "sharpen"])
        self.assertEqual((told["source"], told["result"]), ("60 × 40", "120 × 90"))
        sizes = [(row["from"], row["to"]) for row in told["steps"]]
        self.assertEqual(sizes, [("60 × 40", "40 × 30"), ("40 × 30", "120 × 90"), ("120 × 90", "120 × 90")])

    def test_it_is_the_plan_that_is_rendered(self) -> None:
        resolved = plan(self.take, self.source.size)
        told = explain(self.take, self.source)
        self.assertEqual(told["chain"], resolved.chain)
        for row, step, size in zip(told["steps"], resolved.steps, resolved.sizes, strict=False):
            self.assertEqual(row["operations"], step.work(size))
            self.assertGreaterEqual(row["seconds"], 0)
            self.assertTrue(row["did"])

    def test_a_take_that_cannot_be_done_says_why(self) -> None:
        take = Take(steps=[Enlarge(engine="plain", target=ByFactor(factor=8))] * 5)
        with self.assertRaisesRegex(TooLarge, r"\.$"):
            explain(take, self.source)
