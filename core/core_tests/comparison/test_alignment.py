"""A file made elsewhere is laid on its source: known scales, shifts and turns are found, other pictures are refused."""

from __future__ import annotations

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
import pyvips
import skimage.data

from core_tests.pictures import DEMO, psnr, write
from kitecore.comparison.alignment import Alignment, align
from kitecore.errors import PictureError
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Place, Region, Size, grid
from kitecore.pipeline.run import Run
from kitecore.steps.outside import Outside
from kitecore.takes.plan import Plan, plan_of_outside
from kitecore.takes.render import result_stage

COFFEE = skimage.data.coffee()[:300, :400]


class OutsideTestCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def opened(self, name: str, samples: np.ndarray) -> Source:
        source = Source(write(self.folder / name, samples))
        self.addCleanup(source.close)
        return source

    def laid(self, file: Source, source: Source) -> tuple[Alignment, Plan]:
        found = align(file, source, Run())
        step = Outside.of(file, "made elsewhere", self.folder / file.name, found, source.header.profile)
        return found, plan_of_outside(step, found.covered, source.size)


def treated(picture: np.ndarray) -> np.ndarray:
    """As another program might have left it: sharpened, a little lighter."""
    soft = cv2.GaussianBlur(picture.astype(np.float32), (0, 0), 1.2)
    return np.clip(1.03 * (picture + 0.5 * (picture - soft)) + 4, 0, 255).astype(np.uint8)


class AlignmentTest(OutsideTestCase):
    def test_a_plain_enlargement_lies_edge_on_edge_and_its_pixels_are_shown_as_they_are(self) -> None:
        for factor in (1, 2, 3.3):
            size = (round(400 * factor), round(300 * factor))
            large = treated(cv2.resize(COFFEE, size, interpolation=cv2.INTER_CUBIC))
            source, file = self.opened("source.png", COFFEE), self.opened(f"large-{factor}.png", large)
            found, resolved = self.laid(file, source)
            self.assertEqual(found.covered, Region(0, 0, 400, 300))
            self.assertEqual((resolved.size.width, resolved.size.height), size)
            shown = result_stage(resolved, source.stage()).render(resolved.size.region, Run())
            np.testing.assert_array_equal(np.rint(shown * 255).astype(np.uint8), large)

    def test_scale_shift_and_turn_are_found(self) -> None:
        source = self.opened("source.png", COFFEE)
        for scale, angle, x, y in ((2.0, 1.5, 30, 14), (1.3, -3.0, 55, 40), (2.7, 0.4, 5, 60)):
            cos, sin = scale * np.cos(np.radians(angle)), scale * np.sin(np.radians(angle))
            matrix = np.array([[cos, -sin, 0], [sin, cos, 0.0]])
            matrix[:, 2] = -matrix[:, :2] @ [x, y]
            centred = matrix.copy()
            centred[:, 2] += matrix[:, :2] @ [0.5, 0.5] - 0.5
            turned = cv2.warpAffine(
                COFFEE,
                centred,
                (int(250 * scale), int(190 * scale)),
                flags=cv2.INTER_CUBIC,
                borderMode=cv2.BORDER_REFLECT,
            )
            file = self.opened(f"turned{scale}.png", treated(turned))
            found, resolved = self.laid(file, source)
            self.assertLess(abs(found.scale / scale - 1), 0.003)
            self.assertLess(abs(found.angle - angle), 0.1)
            for place in ((120, 90), (200, 160), (150, 130)):
                true = matrix @ [*place, 1]
                seen = np.array(found.matrix).reshape(2, 3) @ [*place, 1]
                self.assertLess(np.abs(true - seen).max(), 0.35 * scale, f"{scale} {place}")
            # What is shown lies on the source: brought back to its size they agree.
            shown = result_stage(resolved, source.stage()).render(resolved.size.region, Run())
            back = cv2.resize(shown, (found.covered.width, found.covered.height), interpolation=cv2.INTER_AREA)
            part = found.covered
            beneath = treated(COFFEE)[part.y : part.bottom, part.x : part.right].astype(np.float32) / 255
            self.assertGreater(psnr(back[8:-8, 8:-8], beneath[8:-8, 8:-8]), 22)

    def test_regions_do_not_depend_on_the_grid(self) -> None:
        source = self.opened("source.png", COFFEE)
        middle = (200.0, 150.0)
        turned = cv2.warpAffine(
            COFFEE, cv2.getRotationMatrix2D(middle, 2, 1.0), (400, 300), borderMode=cv2.BORDER_REFLECT
        )
        _, resolved = self.laid(self.opened("turned.png", turned), source)
        for level in (0, 1):
            stage = result_stage(resolved, source.stage(resolved.source_reduction(level)), level)
            whole = stage.render(stage.size.region, Run())
            for part in grid(stage.size, Size(97, 61)):
                cut = whole[part.y : part.bottom, part.x : part.right]
                self.assertLess(np.abs(stage.render(part, Run()) - cut).max(), 2 / 255)

    def test_spots_lie_where_they_lay(self) -> None:
        source = self.opened("source.png", COFFEE)
        part = cv2.resize(COFFEE[40:280, 60:380], None, fx=2, fy=2, interpolation=cv2.INTER_CUBIC)
        found, resolved = self.laid(self.opened("part.png", part), source)
        for edge, wanted in (
            (found.covered.x, 60),
            (found.covered.y, 40),
            (found.covered.right, 380),
            (found.covered.bottom, 280),
        ):
            self.assertLessEqual(abs(edge - wanted), 1)
        place = resolved.place_in_result(Place(160, 140))
        self.assertLess(abs(place.x - 200) + abs(place.y - 200), 3)

    def test_another_picture_is_refused_with_a_sentence(self) -> None:
        source = self.opened("source.png", COFFEE)
        others = {"cat.png": skimage.data.chelsea(), "grass.png": np.repeat(skimage.data.grass()[..., None], 3, 2)}
        others["even.png"] = np.full((300, 400, 3), 120, np.uint8)
        for name, other in others.items():
            with self.assertRaises(PictureError) as caught:
                align(self.opened(name, other), source, Run())
            self.assertIn(name, str(caught.exception))
            self.assertIn("does not show the same picture", str(caught.exception))

    def test_a_turned_or_mirrored_one_is_refused(self) -> None:
        source = self.opened("source.png", COFFEE)
        for name, other in (("quarter.png", np.rot90(COFFEE)), ("mirror.png", COFFEE[:, ::-1])):
            with self.assertRaises(PictureError):
                align(self.opened(name, np.ascontiguousarray(other)), source, Run())

    def test_colours_come_into_the_sources_own_space(self) -> None:
        loft = Source(DEMO / "pictures/Loft bench, catalogue.tif")
        self.addCleanup(loft.close)
        path = self.folder / "srgb.png"
        pyvips.Image.new_from_file(str(DEMO / "pictures/Loft bench, catalogue.tif")).icc_transform(
            "srgb", depth=16
        ).write_to_file(str(path))
        file = Source(path)
        self.addCleanup(file.close)
        _, resolved = self.laid(file, loft)
        region = Region(200, 200, 128, 96)
        shown = result_stage(resolved, loft.stage()).render(region, Run())
        # What sRGB cannot hold is lost in the file; everything else comes back.
        self.assertLess(float(np.median(np.abs(shown - loft.stage().render(region, Run())))), 0.01)
