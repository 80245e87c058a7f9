"""The step faces: what it leaves alone, what it is held to, and that it is the same from any tile, frame and size."""

from __future__ import annotations

import unittest
from dataclasses import replace

import cv2
import numpy as np
import skimage.data

from kitecore.faces import FaceFound, find_faces
from kitecore.faces.reference import square_text
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Enlarge, Faces, Frame
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.expression_stage import Expression, Moved, moves
from kitecore.steps.faces import OneFace, Reference
from kitecore.steps.frame import Crop
from kitecore.takes.card import card_of
from kitecore.takes.departures import departures
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import render_array, result_stage


def small() -> np.ndarray:
    """A face about 29 px wide."""
    whole = skimage.data.astronaut()[0:300, 80:380]
    return cv2.resize(whole, (100, 100), interpolation=cv2.INTER_AREA)


FOUND = find_faces(small().astype(np.float32) / 255, Run())[0]
FACE = OneFace(
    eyes=((FOUND.eyes[0].x, FOUND.eyes[0].y), (FOUND.eyes[1].x, FOUND.eyes[1].y)), mouth=(FOUND.mouth.x, FOUND.mouth.y)
)
TWICE = Enlarge(engine="plain", target=ByFactor(factor=4))


def faces(**told: object) -> Faces:
    return Faces.model_validate({"faces": [FACE.model_dump()], "strength": 100, "grain": 0, **told})


class FacesTest(unittest.TestCase):
    def test_without_faces_or_strength_nothing_changes(self) -> None:
        plain = render_array(small(), [])
        off = FACE.model_copy(update={"on": False})
        for step in (Faces(), faces(strength=0), Faces(faces=[off])):
            np.testing.assert_array_equal(render_array(small(), [step]), plain)
            self.assertEqual(step.did(), "")

    def test_a_face_changes_and_what_is_around_it_does_not(self) -> None:
        plain = render_array(small(), [TWICE])
        changed = np.abs(render_array(small(), [TWICE, faces()]) - plain).max(axis=2)
        square = FACE.square.scaled(4)
        self.assertGreater(changed[int(square.middle.y), int(square.middle.x)] + changed.max(), 0.01)
        y, x = np.mgrid[0:400, 0:400] + 0.5
        outside = np.hypot(x - square.middle.x, y - square.middle.y) > 0.75 * square.side
        self.assertEqual(float(changed[outside].max()), 0.0)

    def test_of_the_skin_alone_a_fringe_stays_as_it_is(self) -> None:
        square, fringed = FACE.square, small()
        top, bottom = (round(square.middle.y + share * square.side) for share in (-0.31, -0.24))
        left, right = (round(square.middle.x + share * square.side) for share in (-0.2, 0.2))
        fringed[top:bottom, left:right] = (40, 26, 20)
        plain = render_array(fringed, [TWICE])
        alone, with_hair = (
            np.abs(render_array(fringed, [TWICE, faces(freedom=100, part=part)]) - plain).mean(axis=2)
            for part in ("skin", "hair")
        )
        fringe = np.s_[4 * top + 6 : 4 * bottom - 6, 4 * left + 6 : 4 * right - 6]
        self.assertGreater(float(with_hair[fringe].mean()), 1 / 255)
        self.assertLess(float(alone[fringe].mean()), 0.1 * float(with_hair[fringe].mean()))
        # Eyes and mouth are no skin, and belong to it.
        for x, y in (*FACE.eyes, FACE.mouth):
            around = np.s_[int(4 * y) - 4 : int(4 * y) + 4, int(4 * x) - 4 : int(4 * x) + 4]
            self.assertGreater(float(alone[around].mean()), 0.95 * float(with_hair[around].mean()))

    def test_strength_is_a_share_of_what_changes(self) -> None:
        plain, whole = (render_array(small(), [TWICE, faces(strength=strength)]) for strength in (0, 100))
        half = render_array(small(), [TWICE, faces(strength=50)])
        np.testing.assert_allclose(half, (plain + whole) / 2, atol=1e-5)
        own = Faces(strength=10, grain=0, faces=[FACE.model_copy(update={"strength": 50.0})])
        np.testing.assert_array_equal(render_array(small(), [TWICE, own]), half)

    def test_without_freedom_it_equals_the_source_once_it_is_small_again(self) -> None:
        plain = render_array(small(), [TWICE])
        worst = []
        for freedom in (0, 100):
            made = render_array(small(), [TWICE, faces(freedom=freedom)])
            self.assertGreater(float(np.abs(made - plain).max()), 0.005)
            again, before = (cv2.resize(one, (100, 100), interpolation=cv2.INTER_AREA) for one in (made, plain))
            worst.append(255 * float(np.abs(again - before).mean(axis=2)[20:60, 25:65].mean()))
        self.assertLess(worst[0], 0.5)
        self.assertLess(worst[0], worst[1])

    def test_how_far_each_face_departs_is_measured_at_the_size_of_the_source(self) -> None:
        plain = render_array(small(), [TWICE])
        told = []
        for freedom in (0, 50, 100):
            step = faces(freedom=freedom, faces=[FACE.model_copy(update={"on": False}), FACE])
            resolved = plan_of_steps([TWICE, step], Size(100, 100))
            left, departed = departures(resolved, 1, SampleStage(small()), Run())
            self.assertIsNone(left)
            assert departed is not None
            made = render_array(small(), [TWICE, step])
            again, before = (cv2.resize(one, (100, 100), interpolation=cv2.INTER_AREA) for one in (made, plain))
            # Of the middle of the face, by another grid.
            seen = float(np.abs(again - before).mean(axis=2)[20:60, 25:65].mean())
            self.assertAlmostEqual(255 * departed, 255 * seen, delta=0.2 + 0.4 * 255 * seen)
            told.append(departed)
        self.assertLess(255 * told[0], 0.5)
        self.assertLess(told[0], told[1])
        self.assertLess(told[1], told[2])
        half = faces(freedom=100, strength=50)
        weaker = departures(plan_of_steps([TWICE, half], Size(100, 100)), 1, SampleStage(small()), Run())[0]
        assert weaker is not None
        self.assertAlmostEqual(weaker, told[2] / 2, places=5)

    def test_it_is_the_same_face_in_another_frame(self) -> None:
        whole = render_array(small(), [faces(freedom=100)])
        crop = Frame(crop=Crop(x=10, y=5, width=80, height=80))
        np.testing.assert_allclose(
            render_array(small(), [crop, faces(freedom=100)])[20:50, 20:50], whole[25:55, 30:60], atol=2e-3
        )
        turned = render_array(small(), [Frame(turns=1), faces(freedom=100)])
        np.testing.assert_allclose(
            np.rot90(turned, -1 if np.abs(np.rot90(turned, -1) - whole).mean() < 0.01 else 1), whole, atol=0.02
        )

    def test_a_tile_is_a_part_of_the_whole(self) -> None:
        resolved = plan_of_steps([TWICE, faces()], SampleStage(small()).size)
        whole = result_stage(resolved, SampleStage(small())).render(resolved.size.region, Run())
        middle = FACE.square.scaled(4).middle
        tile = Region(int(middle.x) - 20, int(middle.y) - 30, 37, 41)
        alone = result_stage(resolved, SampleStage(small())).render(tile, Run())
        np.testing.assert_array_equal(alone, whole[tile.slices(resolved.size.region)])

    def test_grey_stays_grey_and_alpha_stays(self) -> None:
        grey = small().mean(axis=2, keepdims=True).astype(np.uint8)
        made = render_array(grey, [TWICE, faces(freedom=100)])
        self.assertEqual(made.shape[2], 1)
        three = render_array(np.repeat(grey, 3, axis=2), [TWICE, faces(freedom=100)])
        np.testing.assert_array_equal(three[..., 0], three[..., 2])
        np.testing.assert_allclose(three[..., :1], made, atol=1e-5)
        with_alpha = np.dstack([small(), np.full((100, 100), 180, np.uint8)])
        np.testing.assert_array_equal(
            render_array(with_alpha, [TWICE, faces()])[..., 3], render_array(with_alpha, [TWICE])[..., 3]
        )

    def test_cards_carry_the_settings_and_each_picture_its_own_faces(self) -> None:
        card = card_of("people", [faces(strength=40)])
        self.assertTrue(card.asks_reading)
        step = card.steps_for(faces=[FaceFound(FACE.eyes, FACE.mouth, True), FaceFound(FACE.eyes, FACE.mouth, False)])[
            0
        ]
        assert isinstance(step, Faces)
        self.assertEqual((step.strength, [face.on for face in step.faces]), (40, [True, False]))
        self.assertEqual(card.steps[0].model_dump()["faces"], [])

    def test_a_reference_lends_detail_that_the_source_does_not_have(self) -> None:
        sharp = skimage.data.astronaut()[0:300, 80:380].astype(np.float32) / 255
        square = find_faces(sharp, Run())[0].square
        reference = Reference(square=square_text(sharp, square), name="Wren, sharp.tif", strength=100)
        lent = FACE.model_copy(update={"reference": reference})
        nothing = FACE.model_copy(update={"reference": reference.model_copy(update={"strength": 0.0})})
        truth = cv2.resize(sharp, (400, 400), interpolation=cv2.INTER_CUBIC)
        middle = FACE.square.scaled(4).middle
        window = np.s_[int(middle.y) - 40 : int(middle.y) + 50, int(middle.x) - 40 : int(middle.x) + 40]

        def off(step: Faces) -> float:
            return float(((render_array(small(), [TWICE, step]) - truth)[window] ** 2).mean())

        without, of_it = (Faces(strength=35, freedom=100, grain=0, faces=[face]) for face in (nothing, lent))
        self.assertGreater(10 * np.log10(off(without) / off(of_it)), 1.5)
        alone = Faces(strength=0, freedom=100, faces=[lent])
        self.assertEqual(alone.did(), "detail of 1 face taken from “Wren, sharp.tif”")
        self.assertEqual(Faces(strength=0, faces=[nothing]).did(), "")
        held = Faces(strength=0, freedom=0, grain=0, faces=[lent])
        small_again, before = (
            cv2.resize(render_array(small(), steps), (100, 100), interpolation=cv2.INTER_AREA)
            for steps in ([TWICE, held], [TWICE])
        )
        self.assertLess(255 * float(np.abs(small_again - before).mean(axis=2)[20:60, 25:65].mean()), 0.5)
        np.testing.assert_array_equal(
            render_array(small(), [TWICE, of_it.at(0.0)]),
            render_array(small(), [TWICE, Faces(strength=0, faces=[FACE])]),
        )

    def test_both_methods_are_mixed_by_their_weight(self) -> None:
        """Its share of what the lively one changes; what is set for a face alone counts before what is set for all."""
        steady, lively, mixed_picture = (
            render_array(small(), [TWICE, faces(freedom=100, lively="faces", liveliness=share)])
            for share in (0, 100, 40)
        )
        self.assertGreater(float(np.abs(lively - steady).max()), 1e-3)
        np.testing.assert_allclose(mixed_picture, steady + 0.4 * (lively - steady), atol=1e-5)
        np.testing.assert_array_equal(steady, render_array(small(), [TWICE, faces(freedom=100)]))
        mixed = faces(freedom=100, lively="faces", liveliness=40)
        self.assertEqual([use.name for use in mixed.engines_used()], ["faces", "faces"])
        own = mixed.model_copy(update={"faces": [FACE.model_copy(update={"liveliness": 0.0, "size": 96})]})
        self.assertEqual(len(own.engines_used()), 1)
        coarse = faces(freedom=100, size=96)
        np.testing.assert_array_equal(render_array(small(), [TWICE, own]), render_array(small(), [TWICE, coarse]))

    def test_the_shelf_shows_the_lively_one_upon_the_steady_one(self) -> None:
        shown = Faces.showing("lively")
        self.assertEqual([use.name for use in shown.engines_used()], ["faces", "lively"])
        with_detail, without = (
            render_array(small(), [TWICE, faces(freedom=100, strength=100, liveliness=share)]).mean(axis=2)
            for share in (100, 0)
        )
        middle = FACE.square.scaled(4).middle
        window = np.s_[int(middle.y) - 50 : int(middle.y) + 50, int(middle.x) - 40 : int(middle.x) + 40]
        finer = [float(np.abs(np.diff(one[window], axis=0)).mean()) for one in (with_detail, without)]
        self.assertGreater(finer[0], 1.1 * finer[1])
        # It tells no other colours, and no other light over more than a few pixels.
        coarse = [cv2.blur(one[window], (15, 15)) for one in (with_detail, without)]
        self.assertLess(float(np.abs(coarse[0] - coarse[1]).mean()), 4 / 255)

    def test_an_expression_moves_the_mouth_and_nothing_outside_the_face(self) -> None:
        samples = np.full((100, 100, 3), 200, np.uint8)
        mouth, across = np.array(FACE.mouth), 0.4 * (FACE.eyes[1][0] - FACE.eyes[0][0])
        corner = np.round(mouth + np.array([across, 0])).astype(int)
        samples[corner[1] - 1 : corner[1] + 2, corner[0] - 1 : corner[0] + 2] = 20
        samples[4:8, 4:8] = 20

        def middle(smile: float) -> tuple[float, float]:
            face = FACE.model_copy(update={"smile": smile})
            dark = 1 - render_array(samples, [TWICE, Faces(strength=0, faces=[face])])[..., 1] / (200 / 255)
            y, x = np.mgrid[0:400, 0:400]
            here = np.clip(dark, 0, 1) * (np.hypot(x - 4 * corner[0], y - 4 * corner[1]) < 30)
            return float((here * x).sum() / here.sum()), float((here * y).sum() / here.sum())

        calm, happy, sad = middle(0), middle(80), middle(-80)
        self.assertGreater(calm[1] - happy[1], 2)
        self.assertGreater(happy[0] - calm[0], 0.5)
        self.assertGreater(sad[1] - calm[1], 2)
        plain = render_array(samples, [TWICE])
        face = FACE.model_copy(update={"smile": 100.0, "brows": -50.0, "lids": 60.0})
        moved = render_array(samples, [TWICE, Faces(strength=0, faces=[face])])
        np.testing.assert_array_equal(moved[:40, :40], plain[:40, :40])
        self.assertIn("the expression of 1 face changed", Faces(strength=0, faces=[face]).did())
        np.testing.assert_array_equal(render_array(samples, [TWICE, Faces(strength=0, faces=[FACE])]), plain)

    def test_lids_part_and_brows_rise(self) -> None:
        still = Moved((Place(50, 60), Place(90, 60)), Place(70, 108), Expression())
        region = Region(0, 0, 160, 180)
        for told, place, upward in (
            (Expression(brows=1), (50, 45), True), (Expression(brows=-1), (90, 45), False),
            (Expression(eyes=1), (50, 57), True), (Expression(eyes=1), (90, 63), False),
        ):  # fmt: skip
            _, down = moves(replace(still, expression=told), region)
            self.assertEqual(bool(down[place[1], place[0]] < -0.3), upward)
            self.assertEqual(bool(down[place[1], place[0]] > 0.3), not upward)
        across, down = moves(still, region)
        self.assertEqual(float(np.abs(across).max() + np.abs(down).max()), 0.0)

    def test_it_says_what_it_did(self) -> None:
        other = FACE.model_copy(update={"on": False})
        told = Faces(faces=[FACE, FACE.model_copy(update={"strength": 60.0}), other]).did()
        self.assertIn("2 faces restored by", told)
        self.assertIn("at 35 to 60 %", told)
        self.assertIn("1 left as it was", told)


if __name__ == "__main__":
    unittest.main()
