"""What is around a picture on its paper: the face stays exact, wraps join it, marks and panels lie where they say."""

from __future__ import annotations

import unittest
from itertools import product
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import tifffile

from core_tests.pictures import random_samples, smooth, write
from kitecore.delivery.layout import Edge, Layout
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.errors import TakeError
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.takes.plan import plan
from kitecore.takes.take import Take

PPI = 254.0
#: At 254 ppi a millimetre is ten pixels.
MM = 10
EDGES: tuple[Edge, ...] = ("mirror", "stretch", "blur", "plain")


def laid(samples: np.ndarray, layout: Layout) -> np.ndarray:
    stage = layout.stage(SampleStage(samples), PPI)
    assert stage.size == layout.size(Size(samples.shape[1], samples.shape[0]), PPI)
    return stage.render(stage.size.region, Run())


class LayoutTest(unittest.TestCase):
    def setUp(self) -> None:
        self.face = smooth(90, 120)

    def test_the_face_is_exact_whatever_is_around_it(self) -> None:
        for edge in EDGES:
            result = laid(self.face, Layout(wrap_mm=3, wrap=edge, bleed_mm=1))
            self.assertEqual(result.shape, (90 + 80, 120 + 80, 3))
            np.testing.assert_array_equal(result[40:-40, 40:-40], self.face)

    def test_a_mirrored_wrap_is_the_mirrored_picture(self) -> None:
        result = laid(self.face, Layout(wrap_mm=2))
        np.testing.assert_array_equal(result[:20, 20:-20], self.face[1:21][::-1])
        np.testing.assert_array_equal(result[20:-20, -20:], self.face[:, -21:-1][:, ::-1])

    def test_wraps_join_the_face_without_a_step(self) -> None:
        usual = np.abs(np.diff(self.face, axis=0)).max()
        for edge in ("mirror", "stretch"):
            result = laid(self.face, Layout(wrap_mm=3, wrap=edge))
            self.assertLess(np.abs(result[29, 30:-30] - result[30, 30:-30]).max(), 1.5 * usual, edge)
        blurred, mirrored = (laid(self.face, Layout(wrap_mm=6, wrap=edge)) for edge in ("blur", "mirror"))
        self.assertLess(np.diff(blurred[:60], axis=1).std(), 0.7 * np.diff(mirrored[:60], axis=1).std())

    def test_a_stretched_wrap_shows_the_edge_only(self) -> None:
        result = laid(self.face, Layout(wrap_mm=3, wrap="stretch"))
        depth = int(np.ceil(30 * 0.08)) + 1
        edge = self.face[:depth]
        self.assertGreaterEqual(result[:30, 30:-30].min(), edge.min() - 1e-6)
        self.assertLessEqual(result[:30, 30:-30].max(), edge.max() + 1e-6)

    def test_border_and_plain_wrap_have_their_colour_also_in_grey_and_with_alpha(self) -> None:
        for layout in (Layout(border_mm=2, colour="#804020"), Layout(wrap_mm=2, wrap="plain", colour="#804020")):
            result = laid(self.face, layout)
            np.testing.assert_allclose(result[5, 5], np.array([0x80, 0x40, 0x20]) / 255, atol=1e-6)
            grey = laid(self.face[..., :1], layout)
            self.assertEqual(grey.shape[2], 1)
            clear = laid(np.dstack([self.face, 0 * self.face[..., :1]]), layout)
            self.assertEqual((clear[5, 5, 3], clear[60, 60, 3]), (1, 0))

    def test_marks_lie_outside_at_the_cut_and_at_the_fold(self) -> None:
        layout = Layout(wrap_mm=3, bleed_mm=1, marks=True)
        result = laid(self.face, layout)
        margin = 7 * MM
        rim = result[:margin].min(axis=(0, 2))
        places = np.flatnonzero(rim < 0.5) - margin
        whole = 120 + 80
        np.testing.assert_array_equal(places, [10, 40, whole - 40, whole - 10])
        np.testing.assert_array_equal(
            result[margin + 40 : margin + 40 + 90, margin + 40 : margin + 40 + 120], self.face
        )
        self.assertEqual(result[0, 0].min(), 1)

    def test_panels_cover_everything_and_share_the_overlap(self) -> None:
        whole = laid(self.face, Layout(bleed_mm=1))
        layout = Layout(bleed_mm=1, panels_across=3, panels_down=2, overlap_mm=1)
        cover = np.zeros(whole.shape[:2], int)
        for panel in range(1, 7):
            one = layout.model_copy(update={"panel": panel})
            part = one._part(Size(120, 90), PPI)
            np.testing.assert_array_equal(laid(self.face, one), whole[part.y : part.bottom, part.x : part.right])
            cover[part.y : part.bottom, part.x : part.right] += 1
        self.assertEqual(cover.min(), 1)
        self.assertEqual((cover[10] == 2).sum(), 2 * MM, "ten pixels at each of two seams")
        with self.assertRaisesRegex(TakeError, "no panel 7"):
            layout.model_copy(update={"panel": 7}).size(Size(120, 90), PPI)

    def test_any_part_rendered_alone_is_that_part_of_the_whole(self) -> None:
        random = np.random.default_rng(4)
        for edge, marks, panel in product(EDGES, (False, True), (1, 4)):
            layout = Layout(
                wrap_mm=2, wrap=edge, bleed_mm=1, marks=marks, panels_across=2, panels_down=2, overlap_mm=1, panel=panel
            )
            stage = layout.stage(SampleStage(self.face), PPI)
            whole = stage.render(stage.size.region, Run())
            for _ in range(4):
                x, y = int(random.integers(stage.size.width - 20)), int(random.integers(stage.size.height - 20))
                part = stage.render(Region(x, y, 20, 17), Run())
                np.testing.assert_allclose(part, whole[y : y + 17, x : x + 20], atol=1 / 65535)


class WorkTest(unittest.TestCase):
    def test_the_face_is_computed_once(self) -> None:
        class Counted(SampleStage):
            pixels = 0

            def render(self, region: Region, run: Run) -> np.ndarray:
                self.pixels += region.width * region.height
                return super().render(region, run)

        face = Counted(smooth(300, 400))
        stage = Layout(wrap_mm=2).stage(face, PPI)
        for y in range(0, stage.size.height, 50):
            stage.render(Region(0, y, stage.size.width, min(50, stage.size.height - y)), Run())
        around = stage.size.pixels - face.size.pixels
        self.assertLess(face.pixels, face.size.pixels + 1.3 * around)


class DeliveredLayoutTest(unittest.TestCase):
    def test_a_file_with_a_wrap_holds_the_exact_face(self) -> None:
        with TemporaryDirectory() as name:
            folder = Path(name)
            samples = random_samples(80, 60, bits=16)
            source, path = write(folder / "in.png", samples), folder / "out.tif"
            spec = OutputSpec(ppi=PPI, layout=Layout(wrap_mm=2, marks=True))
            with Source(source) as opened:
                resolved = plan(Take(), opened.size)
                write_result(resolved, opened, spec, path)
                self.assertEqual(spec.final_size(resolved.size, None), Size(60 + 40 + 140, 80 + 40 + 140))
            written = tifffile.imread(path)
            np.testing.assert_array_equal(written[90:170, 90:150], samples)
