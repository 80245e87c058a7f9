"""Eyes that look different ways, made so on purpose, look the same way again; lids and everything else stay."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.faces import find_faces
from kitecore.faces.mesh import irises_of, mesh_of
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Faces
from kitecore.steps.faces import OneFace
from kitecore.steps.gaze_stage import Aligned, GazeStage, shifts
from kitecore.takes.render import render_array

SIDE = 720


def straight() -> np.ndarray:
    whole = skimage.data.astronaut()[0:300, 80:380]
    return cv2.resize(whole, (SIDE, SIDE), interpolation=cv2.INTER_CUBIC).astype(np.float32) / 255


SQUARE = find_faces(straight(), Run())[0].square


def gazes(pixels: np.ndarray) -> tuple[float, float]:
    """How far the eyes are from looking the same way, in pixels, and the mean radius of the irises."""
    mesh = mesh_of(pixels, SQUARE)
    irises = irises_of(pixels, mesh)
    moves = shifts(mesh, irises)
    return float(np.mean([np.hypot(*move) for _, _, move in moves])), float(np.mean([one.radius for one in irises]))


def squinting() -> np.ndarray:
    """The eye farther left looks aside: a disc of it is pasted by a half of its radius to the left."""
    pixels = straight()
    iris = irises_of(pixels, mesh_of(pixels, SQUARE))[0]
    x, y = np.meshgrid(np.arange(SIDE) + 0.5 - iris.middle.x, np.arange(SIDE) + 0.5 - iris.middle.y)
    far = 0.55 * iris.radius
    weight = np.clip(2 - np.hypot(x + far, y) / iris.radius, 0, 1) * (np.abs(y) < iris.radius)
    across = np.arange(SIDE, dtype=np.float32)[None] + (far * weight).astype(np.float32)
    down = np.repeat(np.arange(SIDE, dtype=np.float32)[:, None], SIDE, axis=1)
    return np.asarray(cv2.remap(pixels, across, down, cv2.INTER_CUBIC), np.float32)


class GazeTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.pixels = squinting()
        cls.whole = Region(0, 0, SIDE, SIDE)
        cls.made = GazeStage(SampleStage(cls.pixels), [Aligned(SQUARE, 1.0)]).render(cls.whole, Run())

    def test_eyes_that_look_apart_look_the_same_way(self) -> None:
        before, radius = gazes(self.pixels)
        after, _ = gazes(self.made)
        self.assertGreater(before, 0.2 * radius)
        self.assertLess(after, 0.4 * before)

    def test_nothing_but_the_eyes_moves(self) -> None:
        changed = np.abs(self.made - self.pixels).max(axis=2) > 0
        self.assertTrue(changed.any())
        rows, columns = np.nonzero(changed)
        eyes = find_faces(self.pixels, Run())[0].eyes
        far = np.minimum(*(np.hypot(columns - eye.x, rows - eye.y) for eye in eyes))
        self.assertLess(float(far.max()), 0.16 * SQUARE.face_width)

    def test_lights_in_the_eyes_stay(self) -> None:
        iris = irises_of(self.made, mesh_of(self.made, SQUARE))[0]
        before = irises_of(self.pixels, mesh_of(self.pixels, SQUARE))[0]

        def brightest(pixels: np.ndarray, place: object) -> float:
            x, y, reach = int(place.middle.x), int(place.middle.y), int(place.radius * 0.6)  # type: ignore[attr-defined]
            return float(pixels[y - reach : y + reach, x - reach : x + reach].mean(axis=2).max())

        self.assertAlmostEqual(brightest(self.made, iris), brightest(self.pixels, before), delta=0.08)

    def test_strength_is_a_share_of_the_way_and_at_nothing_nothing_moves(self) -> None:
        half = GazeStage(SampleStage(self.pixels), [Aligned(SQUARE, 0.5)]).render(self.whole, Run())
        before, after, between = gazes(self.pixels)[0], gazes(self.made)[0], gazes(half)[0]
        self.assertLess(after, between)
        self.assertLess(between, before)
        none = GazeStage(SampleStage(self.pixels), [Aligned(SQUARE, 0.0)]).render(self.whole, Run())
        np.testing.assert_array_equal(none, self.pixels)

    def test_a_tile_is_a_part_of_the_whole(self) -> None:
        eye = find_faces(self.pixels, Run())[0].eyes[0]
        tile = Region(int(eye.x) - 9, int(eye.y) - 30, 40, 37)
        alone = GazeStage(SampleStage(self.pixels), [Aligned(SQUARE, 1.0)]).render(tile, Run())
        np.testing.assert_array_equal(alone, self.made[tile.slices(self.whole)])

    def test_the_step_does_it_for_all_or_for_one_and_says_so(self) -> None:
        found = find_faces(self.pixels, Run())[0]
        first, second = found.eyes
        face = OneFace(eyes=((first.x, first.y), (second.x, second.y)), mouth=(found.mouth.x, found.mouth.y))
        for step in (
            Faces(strength=0, gaze=100, faces=[face]),
            Faces(strength=0, faces=[face.model_copy(update={"gaze": 100.0})]),
        ):
            self.assertLess(gazes(render_array(self.pixels, [step]))[0], 0.4 * gazes(self.pixels)[0])
            self.assertEqual(step.did(), "the eyes of 1 face turned to look the same way")
        away = Faces(strength=0, gaze=100, faces=[face.model_copy(update={"gaze": 0.0})])
        np.testing.assert_array_equal(render_array(self.pixels, [away]), render_array(self.pixels, []))


if __name__ == "__main__":
    unittest.main()
