"""Check spots are proposed where the picture has what they are for, and not where it has not."""

from __future__ import annotations

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
import skimage.data
from PIL import Image, ImageDraw, ImageFont

from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.reading.spots import Proposal, propose_spots


def proposals(picture: np.ndarray) -> dict[str, Proposal]:
    with TemporaryDirectory() as folder:
        path = Path(folder) / "picture.png"
        Image.fromarray(picture).save(path)
        with Source(path) as source:
            return {one.name: one for one in propose_spots(source, Run())}


def quarters(
    upper_left: np.ndarray, upper_right: np.ndarray, lower_left: np.ndarray, lower_right: np.ndarray
) -> np.ndarray:
    rows = [np.concatenate(pair, axis=1) for pair in ((upper_left, upper_right), (lower_left, lower_right))]
    return np.repeat(np.clip(np.concatenate(rows), 0, 255).astype(np.uint8)[..., None], 3, axis=2)


class SpotsTest(unittest.TestCase):
    def setUp(self) -> None:
        random = np.random.default_rng(1)
        y, x = np.mgrid[0:240, 0:240]
        weave = 130 + 28 * np.sin(x * 1.1) * np.sin(y * 1.3) + random.normal(0, 9, (240, 240))
        even = 170 + 0.02 * x + random.normal(0, 0.6, (240, 240))
        shadow = 22 + random.normal(0, 7, (240, 240))
        page = Image.new("L", (240, 240), 250)
        pen = ImageDraw.Draw(page)
        for line in range(6):
            pen.text((10, 8 + line * 38), "Tern Sands", 30, ImageFont.load_default(28))
        self.picture = quarters(weave, even, shadow, np.asarray(page, np.float32))

    def test_each_kind_of_place_is_found_where_it_is(self) -> None:
        found = proposals(self.picture)
        for name, left, top in (
            ("fine texture", 0, 0), ("even tone", 240, 0), ("shadow", 0, 240), ("lettering", 240, 240),
        ):  # fmt: skip
            place = found[name].place
            self.assertTrue(left <= place.x < left + 240 and top <= place.y < top + 240, f"{name} at {place}")
        self.assertEqual(sum("corner" in one.reason for one in found.values()), 4)
        self.assertTrue(all(one.reason for one in found.values()))

    def test_places_are_told_in_source_pixels_of_large_pictures(self) -> None:
        large = cv2.resize(self.picture, (3840, 3840), interpolation=cv2.INTER_NEAREST)
        place = proposals(large)["lettering"].place
        self.assertGreater(min(place.x, place.y), 1920)

    def test_a_face_is_found_and_none_where_there_is_none(self) -> None:
        place = proposals(skimage.data.astronaut())["eyes"].place
        self.assertLess(np.hypot(place.x - 222, place.y - 115), 30)
        self.assertNotIn("eyes", proposals(self.picture))

    def test_an_even_picture_gets_no_texture_no_edge_and_no_lettering(self) -> None:
        found = proposals(np.full((200, 300, 3), 140, np.uint8))
        self.assertEqual(set(found) & {"fine texture", "hard edge", "lettering", "shadow", "eyes"}, set())

    def test_tiny_pictures_are_taken_as_well(self) -> None:
        self.assertTrue(proposals(np.zeros((9, 7, 3), np.uint8)))
