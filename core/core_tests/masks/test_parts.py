"""Parts of masks against drawn truths, and how they are put together."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from core_tests.drawn import Drawing
from core_tests.pictures import smooth
from kitecore.colour.oklab import cones_of, to_oklab
from kitecore.colour.primaries import primaries_of
from kitecore.colour.spaces import profile_of
from kitecore.colour.transfer import SRGB, transfer_of
from kitecore.faces import FaceFound
from kitecore.faces.square import FACE_SHARE, FaceSquare
from kitecore.masks.found import MOST_SIDE, plane_of, text_of
from kitecore.masks.mask import Mask
from kitecore.masks.original import Original
from kitecore.masks.parts import Brush, ColourRange, FaceArea, FacePlace, Found, Linear, Part, Radial, ToneRange
from kitecore.masks.strokes import Stroke
from kitecore.pipeline.geometry import Place, Region, Size
from kitecore.pipeline.mapping import Affine, Mapping
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Enlarge, Frame, Grain, Tone
from kitecore.steps.enlarge import ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.card import card_of
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import weights_of

SIZE = Size(80, 60)


def on(samples: np.ndarray, scale: float = 1, profile: bytes | None = None) -> Original:
    """The original itself, looked at ``scale`` times as large."""
    stage = SampleStage(samples, profile)
    source = stage.size.scaled(1 / scale)
    return Original(stage, Mapping((Affine(a=1 / scale, e=1 / scale),)), source, profile)


def values(part: Part, original: Original | None = None) -> np.ndarray:
    original = original or on(smooth(SIZE.height, SIZE.width))
    return part.values(original.stage.size.region, original, Run())


class DrawnTest(unittest.TestCase):
    def test_a_linear_gradient_is_even_across_its_line(self) -> None:
        found = values(Linear(start=(0.25, 0.5), end=(0.75, 0.5)))
        x = (np.arange(80) + 0.5 - 20) / 40
        share = np.clip(1 - x, 0, 1)
        np.testing.assert_allclose(found, np.tile(share**2 * (3 - 2 * share), (60, 1)), atol=1e-6)

    def test_a_radial_one_is_an_ellipse_of_the_size_it_says(self) -> None:
        found = values(Radial(middle=(0.5, 0.5), across=0.25, down=0.125, softness=0))
        y, x = np.mgrid[0:60, 0:80] + 0.5
        truth = np.hypot((x - 40) / 20, (y - 30) / 10) < 1
        np.testing.assert_array_equal(found[truth] > 0.5, True)
        np.testing.assert_array_equal(found[~truth], 0)
        upright = values(Radial(across=0.25, down=0.125, softness=0, angle=90))
        self.assertTrue(upright[48, 40] > 0.5 and upright[30, 57] == 0)

    def test_they_hold_under_frames_and_factors(self) -> None:
        source = SampleStage(smooth(60, 80))
        mask = Mask(parts=[Radial(middle=(0.4, 0.6), across=0.1, down=0.1, softness=0)])
        for frame in (Frame(turns=1), Frame(flip=True, angle=9), Frame(crop=Crop(x=10, y=20, width=50, height=36))):
            resolved = plan_of_steps(
                [frame, Enlarge(engine="plain", target=ByFactor(factor=2)), Grain(mask=mask)], source.size
            )
            found = weights_of(resolved, 2, source).render(resolved.size.region, Run())[..., 0]
            middle = resolved.place_in_result(Place(32, 36))
            y, x = np.nonzero(found > 0.5)
            self.assertLess(abs(x.mean() + 0.5 - middle.x) + abs(y.mean() + 0.5 - middle.y), 1)
            self.assertLess(abs((found > 0.5).sum() / (np.pi * 16**2) - 1), 0.1)

    def test_faces_lie_where_their_eyes_and_mouths_say(self) -> None:
        face = FacePlace(eyes=((30.0, 25.0), (42.0, 25.0)), mouth=(36.0, 38.0))
        found = values(FaceArea(faces=[face]))
        _, x = np.nonzero(found > 0.5)
        square = FaceSquare.around(Place(30, 25), Place(42, 25), Place(36, 38))
        self.assertAlmostEqual(x.mean() + 0.5, square.middle.x, delta=0.5)
        self.assertAlmostEqual(np.ptp(x) + 1, square.side * FACE_SHARE, delta=2)
        for spot in ((25, 30), (25, 42), (38, 36)):
            self.assertGreater(found[spot], 0.9)


class ToldByThePictureTest(unittest.TestCase):
    def test_tones_between_two_values_and_half_way_beyond(self) -> None:
        ramp = np.linspace(0, 1, 101, dtype=np.float32)[None, :, None].repeat(3, 2)
        found = values(ToneRange(low=0.4, high=0.6, below=0.2, above=0.1), on(ramp))[0]
        np.testing.assert_allclose(found[40:61], 1, atol=1e-4)
        np.testing.assert_allclose([found[30], found[65]], 0.5, atol=1e-3)
        np.testing.assert_allclose(found[[10, 20, 71, 90]], 0, atol=1e-4)

    def test_picked_colours_in_every_space(self) -> None:
        """A red and a blue field, and red in shadow: the picked red takes its own shadow before it takes blue."""
        fields = np.array([[0.7, 0.2, 0.2], [0.55, 0.14, 0.14], [0.2, 0.3, 0.7]], np.float32)
        for profile in (None, profile_of("prophoto-rgb")):
            samples = fields.repeat(20, 0)[None].repeat(20, 0)
            light = transfer_of(profile).light(samples[:1, :1])
            red = tuple(float(value) for value in to_oklab(light, cones_of(primaries_of(profile))).ravel())
            found = values(ColourRange(colours=[red], tolerance=30), on(samples, profile=profile))
            self.assertGreater(found[10, 10], 0.99)
            self.assertGreater(found[10, 30], 0.5)
            self.assertLess(found[10, 50], 0.01)

    def test_without_a_colour_it_is_nowhere(self) -> None:
        self.assertFalse(values(ColourRange()).any())

    def test_a_rim_that_is_refined_follows_the_picture(self) -> None:
        """A plane drawn four pixels beside an edge of the picture."""
        samples = np.full((60, 80, 3), 0.25, np.float32)
        samples[:, 44:] = 0.75
        drawn = np.zeros((60, 80), np.float32)
        drawn[:, 40:] = 1
        truth = np.zeros_like(drawn)
        truth[:, 44:] = 1
        rough, fine = (values(Found(plane=text_of(drawn), refine=px), on(samples)) for px in (0, 16))
        self.assertLess(np.abs(fine - truth).mean(), 0.5 * np.abs(rough - truth).mean())


class FoundTest(unittest.TestCase):
    @given(st.integers(1, 40), st.integers(1, 40))
    def test_a_plane_comes_back(self, width: int, height: int) -> None:
        plane = np.random.default_rng(width).random((height, width)).astype(np.float32)
        np.testing.assert_allclose(plane_of(text_of(plane)), plane, atol=0.5 / 255 + 1e-6)

    def test_it_is_spread_over_the_source_whatever_its_size(self) -> None:
        plane = cv2.resize(np.tile(np.linspace(0, 1, 40, dtype=np.float32), (30, 1)), (40, 30))
        found = values(Found(plane=text_of(plane)), on(smooth(120, 160), scale=2))
        self.assertEqual(found.shape, (120, 160))
        np.testing.assert_allclose(
            found[:, 8:-8], np.tile((np.arange(160) + 0.5)[8:-8] / 4 / 39 - 0.5 / 39, (120, 1)), atol=6e-3
        )

    def test_nothing_found_yet_is_nowhere(self) -> None:
        self.assertFalse(values(Found(what="sky")).any())

    def test_what_is_no_plane_is_refused(self) -> None:
        large = np.zeros((4, MOST_SIDE + 1), np.float32)
        for wrong in ("AAAA", "not base64!", text_of(np.zeros((3, 3), np.float32))[:40], text_of(large)):
            with self.assertRaises(ValidationError):
                Found(plane=wrong)


class TogetherTest(unittest.TestCase):
    left, upper = Linear(start=(0.4, 0.5), end=(0.41, 0.5)), Linear(start=(0.5, 0.5), end=(0.5, 0.51))

    def mask(self, *parts: Part, inverted: bool = False) -> np.ndarray:
        original = on(smooth(60, 80))
        return Mask(parts=list(parts), inverted=inverted).values(Region(0, 0, 80, 60), original, Run())

    def with_how(self, how: str, **settings: object) -> np.ndarray:
        return self.mask(self.left, self.upper.model_copy(update={"how": how, **settings})) > 0.5

    def test_parts_are_added_taken_and_met(self) -> None:
        left, upper = self.mask(self.left) > 0.5, self.mask(self.upper) > 0.5
        np.testing.assert_array_equal(self.with_how("add"), left | upper)
        np.testing.assert_array_equal(self.with_how("take"), left & ~upper)
        np.testing.assert_array_equal(self.with_how("meet"), left & upper)
        np.testing.assert_array_equal(self.with_how("meet", inverted=True), left & ~upper)
        np.testing.assert_array_equal(self.with_how("take", on=False), left)
        np.testing.assert_array_equal(self.mask(self.left, inverted=True) > 0.5, ~left)

    def test_half_the_strength_is_half_of_it(self) -> None:
        for how, expected in (("take", 0.5), ("meet", 0.5), ("add", 1)):
            found = self.mask(
                self.left, Linear(start=(0.9, 0.5), end=(0.95, 0.5), how=how, strength=50, inverted=how == "meet")
            )
            self.assertAlmostEqual(float(found[30, 10]), expected, places=5)

    def test_a_feather_softens_and_keeps_the_middle(self) -> None:
        sharp, soft = values(self.left), values(self.left.model_copy(update={"feather": 4.0}))
        truth = cv2.GaussianBlur(np.pad(sharp, 20, mode="edge"), (25, 25), 4)[20:-20, 20:-20]
        np.testing.assert_allclose(soft[:, 14:-14], truth[:, 14:-14], atol=1e-5)

    @given(st.data())
    def test_any_part_holds_between_nothing_and_all(self, data: st.DataObject) -> None:
        kind = data.draw(st.sampled_from([Brush, Linear, Radial, ToneRange, ColourRange, FaceArea, Found]))
        found = values(data.draw(Drawing.model(Drawing(), kind)))
        self.assertTrue(found.min() >= -1e-6 and found.max() <= 1 + 1e-6)

    def test_a_mask_of_strokes_alone_is_still_read(self) -> None:
        stroke = {"points": [[10, 10]], "size": 20}
        mask = Mask.model_validate({"strokes": [stroke], "inverted": True})
        self.assertEqual(mask.parts, [Brush(strokes=[Stroke.model_validate(stroke)])])
        self.assertEqual(Mask.model_validate({"strokes": [], "inverted": False}), Mask())

    def test_it_is_said_where(self) -> None:
        sky = Found(what="sky", plane=text_of(np.ones((2, 2), np.float32)))
        bright = ToneRange(how="meet", name="the lamps")
        self.assertEqual(Mask(parts=[sky, bright]).where(), "in the sky within the lamps")
        self.assertEqual(Mask(parts=[sky.model_copy(update={"on": False})]).where(), "nowhere")
        self.assertEqual(
            Tone(ev=1, mask=Mask(parts=[Linear(inverted=True)], inverted=True)).sentence(),
            "tones changed: light +1 EV, everywhere but in all but linear gradient",
        )

    def test_a_card_forgets_what_was_found_in_its_picture(self) -> None:
        plane = text_of(np.ones((2, 2), np.float32))
        face = FaceFound(((30.0, 25.0), (42.0, 25.0)), (36.0, 38.0), True)
        there = FacePlace(eyes=face.eyes, mouth=face.mouth)
        parts = [Found(what="sky", plane=plane), FaceArea(faces=[there]), Linear()]
        card = card_of("one", [Tone(ev=1, mask=Mask(parts=parts))])
        mask = card.steps[0].mask
        assert mask is not None
        self.assertEqual([part.model_dump() for part in mask.parts], [
            Found(what="sky").model_dump(), FaceArea().model_dump(), Linear().model_dump()])  # fmt: skip
        unsure = face._replace(sure=False)
        again = card.steps_for(faces=[face, unsure])[0].mask
        assert again is not None and isinstance(again.parts[1], FaceArea)
        self.assertEqual(again.parts[1].faces, [there])


class LookedAtTest(unittest.TestCase):
    def test_what_other_steps_do_to_tones_does_not_move_it(self) -> None:
        source = SampleStage(np.linspace(0, 1, 80, dtype=np.float32)[None, :, None].repeat(60, 0).repeat(3, 2))
        mask = Mask(parts=[ToneRange(low=0.5)])
        alone = plan_of_steps([Grain(mask=mask)], source.size)
        after = plan_of_steps([Tone(ev=2), Grain(mask=mask)], source.size)
        np.testing.assert_array_equal(
            weights_of(alone, 0, source).render(source.size.region, Run()),
            weights_of(after, 1, source).render(source.size.region, Run()),
        )
        self.assertEqual(float(SRGB.light(np.ones(1, np.float32))[0]), 1)


if __name__ == "__main__":
    unittest.main()
