"""Soft proof against the made-up printer, whose ink model is known; and what is refused as a printer's profile."""

from __future__ import annotations

import io
from unittest import TestCase

import numpy as np
import pyvips
from PIL import Image, ImageCms

from core_tests.pictures import smooth
from kitecore.colour.conversion import to_lab
from kitecore.colour.icc import srgb_profile
from kitecore.colour.soft_proof import MADE_UP, ProfileError, Proof, outside_gamut, printer_of, proof_image
from kitecore.colour.spaces import profile_of


def patch(*rgb: float) -> np.ndarray:
    return np.full((4, 4, 3), rgb, np.float32)


class ProofTest(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.printer = printer_of(MADE_UP.read_bytes())

    def shown(self, pixels: np.ndarray, profile: bytes | None = None, **proof: object) -> np.ndarray:
        return proof_image(pixels, profile, self.printer, Proof(**proof)).numpy()

    def test_the_profile_that_ships_says_what_it_is(self) -> None:
        self.assertEqual((self.printer.name, self.printer.channels), ("Matte cotton, a made-up printer", 4))

    def test_colours_the_printer_has_are_shown_as_they_are(self) -> None:
        dull = 0.45 + 0.25 * smooth(40, 60)
        self.assertFalse(outside_gamut(dull, None, self.printer).any())
        difference = np.abs(self.shown(dull, black_point=False).astype(float) - dull * 255)
        self.assertLess(difference.max(), 4)

    def test_colours_it_lacks_are_told_and_painted(self) -> None:
        for vivid in ((0, 1, 0), (0, 0, 1), (0.1, 1, 1)):
            with self.subTest(vivid=vivid):
                self.assertTrue(outside_gamut(patch(*vivid), None, self.printer).all())
                np.testing.assert_array_equal(self.shown(patch(*vivid), warn=True), 128)
        halves = np.concatenate([patch(0.5, 0.5, 0.5), patch(0, 1, 0)], axis=1)
        self.assertEqual(outside_gamut(halves, None, self.printer).mean(), 0.5)

    def test_another_program_agrees_what_the_print_looks_like(self) -> None:
        picture = 0.3 + 0.4 * smooth(30, 40)
        eight = Image.fromarray((picture * 255).round().astype(np.uint8))
        screen = ImageCms.ImageCmsProfile(io.BytesIO(srgb_profile()))
        printer = ImageCms.ImageCmsProfile(io.BytesIO(self.printer.content))
        transform = ImageCms.buildProofTransform(
            screen, screen, printer, "RGB", "RGB", ImageCms.Intent.RELATIVE_COLORIMETRIC,
            ImageCms.Intent.RELATIVE_COLORIMETRIC, ImageCms.Flags.SOFTPROOFING,
        )  # fmt: skip
        theirs = np.asarray(ImageCms.applyTransform(eight, transform)).astype(float)
        ours = self.shown(np.asarray(eight, np.float32) / 255, black_point=False).astype(float)
        self.assertLess(np.abs(ours - theirs).max(), 8)
        self.assertLess(np.abs(ours - theirs).mean(), 1)

    def test_black_is_as_deep_as_the_paper_holds(self) -> None:
        black = self.shown(patch(0, 0, 0))[0, 0]
        lightness = to_lab(black.reshape(1, 1, 3).astype(np.float32) / 255, None).numpy()[0, 0, 0]
        self.assertTrue(18 < lightness < 32, lightness)
        # Compensated, black and what is nearly black stay apart; without, both are the deepest there is.
        near = patch(0.07, 0.07, 0.07)
        compensated = self.shown(near).astype(int) - self.shown(patch(0, 0, 0))
        clipped = self.shown(near, black_point=False).astype(int) - self.shown(patch(0, 0, 0), black_point=False)
        self.assertGreater(compensated.mean(), clipped.mean() + 2)

    def test_paper_is_shown_in_its_own_white_when_it_is_asked_for(self) -> None:
        self.assertGreaterEqual(self.shown(patch(1, 1, 1)).min(), 254)
        paper = self.shown(patch(1, 1, 1), paper=True)[0, 0]
        lightness = to_lab(paper.reshape(1, 1, 3).astype(np.float32) / 255, None).numpy()[0, 0, 0]
        self.assertAlmostEqual(lightness, 95.5, delta=1)

    def test_the_perceptual_intent_brings_all_colours_nearer_to_grey(self) -> None:
        def chroma(intent: str) -> float:
            seen = self.shown(patch(0.72, 0.4, 0.35), intent=intent, black_point=False).astype(np.float32) / 255
            return float(np.hypot(*to_lab(seen, None).numpy()[0, 0, 1:]))

        self.assertAlmostEqual(chroma("perceptual") / chroma("relative"), 0.86, delta=0.04)

    def test_wide_gamut_pictures_are_judged_by_their_own_colours(self) -> None:
        pixels = patch(0.2, 0.75, 0.3)
        wide = outside_gamut(pixels, profile_of("prophoto-rgb"), self.printer)
        self.assertTrue(wide.all())
        self.assertFalse(outside_gamut(patch(0.4, 0.6, 0.45), None, self.printer).any())

    def test_grey_and_transparent_pictures_are_shown_too(self) -> None:
        self.assertEqual(self.shown(np.full((3, 5, 1), 0.5, np.float32)).shape, (3, 5, 3))
        self.assertEqual(self.shown(np.full((3, 5, 4), 0.5, np.float32)).shape, (3, 5, 3))

    def test_what_is_no_printers_profile_is_refused_with_the_reason(self) -> None:
        whole = MADE_UP.read_bytes()
        for content, reason in (
            (b"not a profile" * 20, "no ICC profile"),
            (srgb_profile(), "of a screen"),
            (whole[:4000], "not whole"),
            (whole[:16] + b"6CLR" + whole[20:], "other inks"),
            (whole.replace(b"B2A1", b"XXXX").replace(b"B2A0", b"XXX0").replace(b"B2A2", b"XXX2"), "both ways"),
        ):
            with self.subTest(reason), self.assertRaisesRegex(ProfileError, reason):
                printer_of(content)
        self.assertTrue(issubclass(ProfileError, Exception) and not issubclass(ProfileError, pyvips.Error))
