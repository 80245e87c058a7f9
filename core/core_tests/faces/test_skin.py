"""What is skin in a face square: drawn faces of which every pixel is known, and a real one."""

from __future__ import annotations

import unittest

import cv2
import numpy as np
import skimage.data

from kitecore.faces import find_faces
from kitecore.faces.skin import skin_share
from kitecore.faces.square import cut_square
from kitecore.pipeline.run import Run

SIDE = 160
Colour = tuple[float, float, float]


def drawn(
    skin: Colour, hair: Colour, behind: Colour, falls_off: float = 0.0
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A head of plain colours with grain, S×S×3, lit from one side; where it is skin, where hair or what is behind."""
    picture = np.tile(np.array(behind, np.float32), (SIDE, SIDE, 1))
    face, cap = np.zeros((2, SIDE, SIDE), np.uint8)
    cv2.ellipse(cap, (80, 78), (56, 66), 0, 0, 360, 1, -1)
    cv2.ellipse(face, (80, 88), (44, 56), 0, 0, 360, 1, -1)
    picture[cap > 0], picture[face > 0] = hair, skin
    light = 1 + falls_off * np.linspace(-1, 1, SIDE, dtype=np.float32)[None, :, None]
    grain = np.random.default_rng(1).normal(0, 0.015, picture.shape).astype(np.float32)
    inner, outer = cv2.erode(face, np.ones((9, 9))), cv2.dilate(face, np.ones((9, 9)))
    return np.clip(cv2.GaussianBlur(picture * light, (0, 0), 1.2) + grain, 0, 1), inner > 0, outer == 0


class SkinTest(unittest.TestCase):
    def test_skin_of_every_tone_is_told_from_hair_and_what_is_behind(self) -> None:
        for skin, hair in (
            ((0.86, 0.70, 0.62), (0.22, 0.16, 0.12)),
            ((0.62, 0.45, 0.35), (0.10, 0.08, 0.08)),
            ((0.36, 0.24, 0.19), (0.06, 0.05, 0.06)),
            ((0.80, 0.66, 0.58), (0.55, 0.25, 0.12)),
        ):
            picture, inside, outside = drawn(skin, hair, (0.25, 0.4, 0.55), falls_off=0.08)
            share = skin_share(picture)
            self.assertEqual(share.dtype, np.float32)
            self.assertGreater(float(share[inside].mean()), 0.95, skin)
            self.assertLess(float(share[outside].mean()), 0.05, skin)

    def test_a_grey_picture_tells_it_by_tone(self) -> None:
        grey: Colour = (0.7, 0.7, 0.7)
        picture, inside, outside = drawn(grey, (0.2, 0.2, 0.2), (0.1, 0.1, 0.1))
        share = skin_share(np.repeat(picture.mean(axis=2, keepdims=True), 3, axis=2))
        self.assertGreater(float(share[inside].mean()), 0.95)
        self.assertLess(float(share[outside].mean()), 0.05)

    def test_of_a_photograph_cheeks_are_skin_and_hair_is_none(self) -> None:
        picture = skimage.data.astronaut()[0:300, 80:380].astype(np.float32) / 255
        square = find_faces(picture, Run())[0].square
        share = skin_share(cut_square(picture, square, SIDE))
        self.assertGreater(float(share[75:100, 55:105].mean()), 0.8)
        self.assertLess(float(share[60:100, 0:20].mean()), 0.2)
