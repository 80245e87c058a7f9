"""What is found on pictures of the demo, against where their renderer knows it to be."""

from __future__ import annotations

import unittest
from pathlib import Path

import cv2
import numpy as np
import pyvips

from kitecore.masks.found import plane_of
from kitecore.masks.parts import Found
from kitecore.masks.strokes import Stroke
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.takes.finding import Look

DEMO = Path(__file__).parents[3] / "demo"


def look_at(name: str) -> Look:
    picture = pyvips.Image.new_from_file(str(DEMO / "clean" / name)).numpy()
    stage = SampleStage(np.ascontiguousarray(picture[..., :3]))
    return Look(stage, None, [], stage.size)


def agreement(look: Look, part: Found, truth: str) -> float:
    """Intersection ÷ union of what is found and what is there, at the size at which it is looked for."""
    found = plane_of(look.find(part, Run()).plane)
    there = pyvips.Image.new_from_file(str(DEMO / "masks" / f"{truth}.png")).numpy()
    small = cv2.resize(there, (found.shape[1], found.shape[0]), interpolation=cv2.INTER_AREA) > 127
    return float(((found > 0.5) & small).sum() / ((found > 0.5) | small).sum())


def stroke(*points: tuple[float, float], erase: bool = False) -> Stroke:
    return Stroke(points=list(points), size=9, softness=0, erase=erase)


class DemoMasksTest(unittest.TestCase):
    def test_the_sky_is_found_between_kites_and_their_tails(self) -> None:
        for name, truth in (("harbour-wall.png", "harbour-wall-sky"), ("festival.jpg", "festival-sky")):
            with self.subTest(name):
                self.assertGreater(agreement(look_at(name), Found(what="sky"), truth), 0.95)

    def test_a_few_strokes_tell_a_kite_from_the_wall_behind_it(self) -> None:
        look = look_at("harbour-wall.png")
        over = [stroke((373, 296), (312, 538)), stroke((277, 403), (443, 417))]
        beside = [
            stroke(*points, erase=True)
            for points in (
                ((181, 349), (181, 444)), ((479, 376), (489, 457)), ((50, 538), (200, 605)), ((50, 200), (300, 200)),
                ((212, 336), (292, 336)),
            )
        ]  # fmt: skip
        alone = agreement(look, Found(), "harbour-wall-kite")
        told = agreement(look, Found(hints=over + beside), "harbour-wall-kite")
        self.assertGreater(told, 0.93)
        self.assertGreater(told, alone)
        # All but it is found by the same strokes.
        rest = plane_of(look.find(Found(what="background", hints=over + beside), Run()).plane)
        subject = plane_of(look.find(Found(hints=over + beside), Run()).plane)
        np.testing.assert_allclose(rest + subject, 1, atol=0.01)

    def test_the_later_of_two_strokes_counts_and_cards_carry_none(self) -> None:
        look = look_at("harbour-wall.png")
        over = stroke((373, 296), (312, 538))
        taken_back = Found(hints=[over, over.model_copy(update={"erase": True, "size": 30})])
        found = plane_of(look.find(taken_back, Run()).plane)
        spot = found[round(400 / 672 * found.shape[0]), round(347 / 504 * found.shape[1])]
        self.assertLess(float(spot), 0.1)
        self.assertEqual(taken_back.portable().hints, [])
