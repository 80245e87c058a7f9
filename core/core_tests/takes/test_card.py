"""Cards: what belongs to a picture stays with it, the file comes back as it went, and says why when it does not."""

from __future__ import annotations

import json
import unittest

from kitecore.errors import TakeError
from kitecore.steps import Deblur, Denoise, Enlarge, Frame, Repair
from kitecore.steps.deblur import MotionBlur
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.card import Card, card_of, card_schema, parse_card
from kitecore.takes.take import parse_take

STEPS = [
    Frame(crop=Crop(x=3, y=4, width=50, height=60)),
    Repair(strength=80, quality=35),
    Denoise(luminance=60, colour=90),
    Deblur(blur=MotionBlur(length=7, angle=30), strength=50),
    Enlarge(engine="crisp", target=ByFactor(factor=3)),
]


class CardTest(unittest.TestCase):
    def test_a_frame_that_somebody_wrote_into_a_file_is_left_out(self) -> None:
        written = {"kite_glass_card": 1, "name": "k", "steps": [{"kind": "frame", "turns": 1}, {"kind": "sharpen"}]}
        self.assertEqual([step.kind for step in parse_card(json.dumps(written)).steps], ["sharpen"])
        with self.assertRaisesRegex(TakeError, "nothing to keep"):
            parse_card(json.dumps(written | {"steps": written["steps"][:1]}))  # type: ignore[index]

    def test_what_belongs_to_the_picture_is_left_with_it(self) -> None:
        card = card_of("Festival web", STEPS)
        self.assertEqual([step.kind for step in card.steps], ["repair", "denoise", "deblur", "enlarge"])
        self.assertEqual(card.steps[0], Repair(strength=80, quality=None))
        self.assertEqual(card.steps_for(quality=60)[0], Repair(strength=80, quality=60))
        self.assertEqual(card.steps_for()[1:], STEPS[2:])

    def test_strength_is_a_share_of_what_the_steps_do(self) -> None:
        half = card_of("Half", STEPS).steps_for(strength=50)
        self.assertEqual(half[0], Repair(strength=40))
        self.assertEqual(half[1], Denoise(luminance=30, colour=45))
        self.assertEqual(half[2], Deblur(blur=MotionBlur(length=7, angle=30), strength=25))
        self.assertEqual(half[3], STEPS[4])

    def test_nothing_but_a_frame_is_no_card(self) -> None:
        with self.assertRaisesRegex(TakeError, "nothing to keep"):
            card_of("Empty", STEPS[:1])

    def test_the_file_comes_back_and_serves_as_a_take(self) -> None:
        card = card_of("Festival web", STEPS, "for the small web pictures")
        text = card.model_dump_json()
        self.assertEqual(parse_card(text), card)
        self.assertEqual(parse_take(text).steps, card.steps)

    def test_what_is_no_card_says_why(self) -> None:
        good = json.loads(card_of("Good", STEPS).model_dump_json())
        for broken, sentence in (
            ("not json", "not a card"),
            ("[1, 2]", "not a card"),
            (json.dumps({"steps": []}), "not a card"),
            (json.dumps(good | {"kite_glass_card": 9}), "not a card"),
            (json.dumps(good | {"steps": []}), "steps"),
            (json.dumps(good | {"steps": [{"kind": "denoise", "luminance": 400}]}), "luminance"),
            (json.dumps(good | {"steps": [{"kind": "dance"}]}), "dance"),
        ):
            with self.assertRaisesRegex(TakeError, sentence):
                parse_card(broken)

    def test_the_schema_names_what_a_card_has(self) -> None:
        published = card_schema()
        self.assertEqual(set(published["required"]), {"kite_glass_card", "name", "steps"})
        self.assertEqual(set(published["properties"]), set(Card.model_fields))
