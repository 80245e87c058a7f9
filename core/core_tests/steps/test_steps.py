"""What every step says of itself, whatever kinds there are."""

from __future__ import annotations

import json
import unittest

from core_tests.pictures import smooth
from kitecore.cli.commands import main
from kitecore.engines import engines
from kitecore.masks.mask import Mask
from kitecore.masks.strokes import Stroke
from kitecore.steps import Deblur, Denoise, Enlarge, Frame, GiveBack, Grain, Repair, Sharpen, history, step_classes
from kitecore.steps.deblur import MotionBlur
from kitecore.steps.enlarge import Blend, ByPrint
from kitecore.steps.frame import Crop
from kitecore.takes.render import render_array

PAINTED = Mask(strokes=[Stroke(points=[(5, 5)])])


class WhatStepsSayTest(unittest.TestCase):
    def test_kinds_titles_and_places_are_said(self) -> None:
        kinds = [cls.model_fields["kind"].default for cls in step_classes()]
        self.assertEqual(len(set(kinds)), len(kinds))
        for cls in step_classes():
            self.assertTrue(cls.title and cls.purpose, cls)
            self.assertIn(cls.belongs, ("raw", "frame", "source", "size", "finish"))

    def test_sentences_are_plain_words(self) -> None:
        for step, said in (
            (
                Frame(turns=1, crop=Crop(x=1, y=2, width=3, height=4)),
                "turned by 90° clockwise, cropped to 3 × 4 px from 1, 2",
            ),
            (
                Denoise(luminance=40, colour=90, mask=PAINTED),
                "noise taken away by Denoise: 40 % of the luminance noise and 90 % of the colour noise, in 1 painted stroke",
            ),
            (
                Repair(strength=80, quality=60, banding=50),
                "compression damage taken away by Repair at 80 %, told a JPEG quality of 60, bands of up to 4 of 255 made even",
            ),
            (Repair(strength=0, banding=50), "bands of up to 4 of 255 made even"),
            (
                Deblur(blur=MotionBlur(length=8, angle=20), strength=70),
                "a movement of 8 px at 20° undone by Deblur at 70 %",
            ),
            (
                Enlarge(
                    engine="crisp", blend=Blend(engine="plain", weight=25), hold=80, target=ByPrint(width=60, ppi=240)
                ),
                "brought to a print 60 cm wide at 240 ppi by Crisp (75%) and Plain (25%), "
                "tone and colour held to the source's by 80 %",
            ),
            (
                Sharpen(mask=Mask(inverted=True, parts=PAINTED.parts)),
                "edges sharpened by 80 % at a radius of 0.8 px, everywhere but in 1 painted stroke",
            ),
            (Grain(amount=4), "grain of σ 4 of 255 and 1.5 px added"),
            (GiveBack(mask=PAINTED), "the original given back, in 1 painted stroke"),
            (
                GiveBack(of="B", steps=[Grain()], mask=PAINTED),
                "take B given back (grain of σ 4 of 255 and 1.5 px added), in 1 painted stroke",
            ),
        ):
            with self.subTest(kind=step.kind):
                self.assertEqual(step.sentence(), said)

    def test_what_does_nothing_says_nothing(self) -> None:
        idle = [
            Frame(),
            Denoise(luminance=0, colour=0),
            Repair(strength=0),
            Sharpen(amount=0),
            Grain(amount=0),
            GiveBack(),
        ]
        self.assertEqual(history([*idle, Grain(on=False)]), [])

    def test_engines_are_told_with_those_inside_a_give_back(self) -> None:
        inside = GiveBack(steps=[Denoise(), Enlarge(blend=Blend(engine="crisp")), Repair(on=False)], mask=PAINTED)
        self.assertEqual([tuple(use) for use in inside.engines_used()],
                         [("denoise", "denoise"), ("enlarge", "faithful"), ("enlarge", "crisp")])  # fmt: skip
        self.assertEqual(Enlarge(engine="gone").engines_used()[0].called(), "gone")

    def test_every_engine_is_shown_by_a_step(self) -> None:
        for name, engine in engines().items():
            step = next(cls for cls in step_classes() if cls.engine_kind == engine.manifest.kind).showing(name)
            # The lively one for faces is shown upon the steady one.
            self.assertIn(name, [use.name for use in step.engines_used()])
            self.assertEqual(render_array(smooth(24, 20), [step]).shape[2], 3)

    def test_what_belongs_to_a_picture_stays_with_it(self) -> None:
        self.assertIsNone(Frame(turns=1).portable())
        told = Repair().suited_to(55)
        self.assertEqual((told.quality, told.suited_to(80).quality, told.portable().quality), (55, 55, None))
        self.assertEqual(Sharpen().suited_to(55), Sharpen())


class SchemaCommandTest(unittest.TestCase):
    def test_the_form_of_a_card_is_printed(self) -> None:
        import contextlib
        import io

        with contextlib.redirect_stdout(io.StringIO()) as said:
            main(["schema", "card"])
        self.assertIn("kite_glass_card", json.loads(said.getvalue())["properties"])
