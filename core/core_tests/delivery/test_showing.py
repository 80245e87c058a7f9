"""What a client is shown: exact where nothing is made smaller, no larger than wanted, marked where that is wanted."""

from __future__ import annotations

import io
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
import pyvips
from PIL import Image, ImageFont

from kitecore.delivery.showing import SPOT, Mark, marked, spot_view, whole_view, write_shown
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.run import Run
from kitecore.steps import Enlarge, Frame
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan_of_steps
from kitecore.takes.render import render_array


class ShowingTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.pixels = np.random.default_rng(4).integers(0, 256, (450, 600, 3), np.uint8)
        path = self.folder / "source.png"
        pyvips.Image.new_from_array(self.pixels, interpretation="srgb").pngsave(str(path))
        self.source = self.enterContext(Source(path, self.folder))

    def plan(self, *steps: object) -> Plan:
        return plan_of_steps([Frame(), *steps], self.source.size)  # type: ignore[list-item]

    def test_nothing_is_changed_where_it_is_not_made_smaller(self) -> None:
        shown = whole_view(self.plan(), self.source, 600, Run())
        np.testing.assert_array_equal(shown, self.pixels)

    def test_the_long_side_is_what_was_allowed_and_the_picture_is_the_same(self) -> None:
        enlarged = self.plan(Enlarge(engine="plain", target=ByFactor(factor=3)))
        shown = whole_view(enlarged, self.source, 500, Run())
        self.assertEqual(shown.shape, (375, 500, 3))
        small = pyvips.Image.new_from_array(self.pixels, interpretation="srgb").resize(500 / 600).numpy()
        self.assertLess(np.abs(shown.astype(float) - small).mean(), 4)

    def test_a_check_spot_is_what_the_file_will_hold(self) -> None:
        steps = [Frame(), Enlarge(engine="plain", target=ByFactor(factor=2))]
        whole = render_array(self.pixels, steps)
        spot = spot_view(self.plan(steps[1]), self.source, Place(300, 225), Run())
        self.assertEqual(spot.shape, (SPOT.height, SPOT.width, 3))
        wanted = np.rint(np.clip(whole[240:660, 320:880], 0, 1) * 255)
        self.assertLessEqual(np.abs(spot - wanted).max(), 1)

    def test_a_check_spot_in_a_corner_stays_inside(self) -> None:
        spot = spot_view(self.plan(), self.source, Place(599, 1), Run())
        np.testing.assert_array_equal(spot, self.pixels[:420, 40:600])

    def test_a_mark_lies_all_over_and_changes_nothing_it_does_not_cover(self) -> None:
        font = self.folder / "letters.ttf"
        font.write_bytes(_letters())
        flat = np.full((300, 400, 3), 90, np.uint8)
        seen = marked(flat, Mark("not for print", font))
        changed = (seen != flat).any(axis=2)
        self.assertTrue(0.05 < changed.mean() < 0.5, changed.mean())
        for part in (changed[:150, :200], changed[:150, 200:], changed[150:, :200], changed[150:, 200:]):
            self.assertTrue(part.any())
        self.assertGreater(int(seen[changed].min()), 90 - 1)
        np.testing.assert_array_equal(flat, 90)
        np.testing.assert_array_equal(marked(flat, Mark("  ", font)), flat)

    def test_what_is_written_says_nothing_of_anybody(self) -> None:
        path = self.folder / "shown.jpg"
        write_shown(self.pixels, path)
        with Image.open(path) as image:
            self.assertEqual(image.size, (600, 450))
            self.assertFalse(image.getexif())
            self.assertNotIn("icc_profile", image.info)


def _letters() -> bytes:
    """The font that the library for pictures brings along."""
    font = ImageFont.load_default(20)
    content = font.font_bytes if hasattr(font, "font_bytes") else font.path
    return content if isinstance(content, bytes) else io.BytesIO(content.getvalue()).read()
