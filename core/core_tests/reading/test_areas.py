"""Sky, subject, skin and focus against scenes that were drawn with them."""

from __future__ import annotations

import unittest
from contextlib import suppress

import cv2
import numpy as np

from kitecore.errors import TakeError
from kitecore.faces import FaceFound
from kitecore.masks.found import plane_of
from kitecore.masks.mask import Mask
from kitecore.masks.parts import Found, Linear
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.reading.sharp_area import sharp_area
from kitecore.reading.skin import find_skin
from kitecore.reading.sky import find_sky
from kitecore.reading.subject import find_subject
from kitecore.steps import Tone
from kitecore.takes.finding import Look, all_found, to_be_found

HEIGHT, WIDTH = 300, 420


def overlap(found: np.ndarray | None, truth: np.ndarray) -> float:
    """Intersection over union."""
    assert found is not None
    chosen = found > 0.5
    return float((chosen & truth).sum() / max(1, (chosen | truth).sum()))


def rough(seed: int, strength: float = 18, grain: float = 1.5) -> np.ndarray:
    noise = np.random.default_rng(seed).normal(0, 1, (HEIGHT, WIDTH, 1)).repeat(3, 2).astype(np.float32)
    smooth = cv2.GaussianBlur(noise, (0, 0), grain)
    return smooth / smooth.std() * strength


def hills(seed: int) -> np.ndarray:
    """Where the land is."""
    random = np.random.default_rng(seed)
    x = np.arange(WIDTH)
    line = 190 + 26 * np.sin(x / 47 + random.uniform(0, 6)) + 9 * np.sin(x / 13 + random.uniform(0, 6))
    return np.arange(HEIGHT)[:, None] > line


def outdoors(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """A sky that pales towards the hills, with kites in it; the picture and where its sky is."""
    random = np.random.default_rng(seed)
    share = np.linspace(0, 1, HEIGHT)[:, None, None]
    sky = (1 - share) * random.uniform([40, 80, 140], [100, 140, 210]) + share * random.uniform(170, 225, 3)
    land = random.uniform([50, 60, 30], [110, 120, 70]) + rough(seed)
    ground = hills(seed)
    picture = np.where(ground[..., None], land, sky + random.normal(0, 2, (HEIGHT, WIDTH, 3)))
    kites = np.zeros((HEIGHT, WIDTH), np.uint8)
    for _ in range(4):
        x, y, size = random.integers(40, WIDTH - 40), random.integers(30, 120), random.integers(12, 26)
        corners = np.array([[x, y - size], [x + size * 0.7, y], [x, y + size * 1.4], [x - size * 0.7, y]], np.int32)
        cv2.fillPoly(kites, [corners], 1)
        painted = picture.copy()
        cv2.fillPoly(painted, [corners], random.permutation([200.0, 30.0, 50.0]))
        picture = painted
    return np.clip(picture, 0, 255).astype(np.uint8), ~ground & (kites == 0)


def still_life(seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Something sharp before a soft background."""
    random = np.random.default_rng(seed)
    behind = cv2.GaussianBlur(rough(seed, 30, 4), (0, 0), 6) + random.uniform(60, 120, 3)
    thing = np.zeros((HEIGHT, WIDTH), np.uint8)
    middle = (int(random.integers(170, 250)), int(random.integers(120, 180)))
    cv2.ellipse(thing, middle, (int(random.integers(50, 90)), int(random.integers(40, 70))), 20, 0, 360, 1, -1)
    colour = random.uniform([150, 30, 20], [230, 90, 60])
    picture = np.where(thing[..., None] > 0, colour + rough(seed + 1, 14, 0.8), behind)
    return np.clip(picture, 0, 255).astype(np.uint8), thing > 0


class SkyTest(unittest.TestCase):
    def test_it_is_found_around_what_flies_in_it(self) -> None:
        for seed in range(6):
            picture, truth = outdoors(seed)
            self.assertGreater(overlap(find_sky(picture, Run()), truth), 0.95, seed)

    def test_it_is_found_in_grey_pictures(self) -> None:
        picture, truth = outdoors(3)
        grey = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)[..., None].repeat(3, 2)
        self.assertGreater(overlap(find_sky(grey, Run()), truth), 0.9)

    def test_where_everything_is_rough_there_is_none(self) -> None:
        picture = np.clip(120 + rough(5, 30, 1), 0, 255).astype(np.uint8)
        self.assertIsNone(find_sky(picture, Run()))


class SubjectTest(unittest.TestCase):
    def test_it_stands_out(self) -> None:
        for seed in range(5):
            picture, truth = still_life(seed)
            self.assertGreater(overlap(find_subject(picture, Run()), truth), 0.93, seed)

    def test_a_box_tells_which(self) -> None:
        """Of two alike, the one in the box."""
        picture, truth = still_life(2)
        both = np.concatenate([picture, picture[:, ::-1]], axis=1)
        y, x = np.nonzero(truth)
        box = Region.between(int(x.min()) - 8, int(y.min()) - 8, int(x.max()) + 8, int(y.max()) + 8)
        found = find_subject(both, Run(), box)
        wanted = np.concatenate([truth, np.zeros_like(truth)], axis=1)
        self.assertGreater(overlap(found, wanted), 0.93)

    def test_in_a_field_of_one_thing_there_is_none(self) -> None:
        self.assertIsNone(find_subject(np.full((HEIGHT, WIDTH, 3), 90, np.uint8), Run()))


class OthersTest(unittest.TestCase):
    def test_what_is_sharp_is_found(self) -> None:
        sharp = np.clip(120 + rough(7, 40, 0.8), 0, 255)
        soft = cv2.GaussianBlur(sharp, (0, 0), 4) * 1.0
        left = np.arange(WIDTH) < 200
        picture = np.where(left[None, :, None], sharp, 120 + (soft - 120) * 6).clip(0, 255).astype(np.uint8)
        found = sharp_area(picture, Run())
        self.assertGreater(overlap(found, np.tile(left, (HEIGHT, 1))), 0.9)

    def test_skin_is_that_of_the_face(self) -> None:
        picture = np.full((HEIGHT, WIDTH, 3), (70, 90, 120), np.uint8)
        truth = np.zeros((HEIGHT, WIDTH), np.uint8)
        cv2.ellipse(truth, (120, 110), (34, 46), 0, 0, 360, 1, -1)
        cv2.rectangle(truth, (230, 170), (330, 200), 1, -1)
        picture[truth > 0] = (196, 142, 112)
        noisy = np.clip(picture + rough(4, 3, 0.8), 0, 255).astype(np.uint8)
        # In a source twice as large.
        face = FaceFound(((212.0, 200.0), (268.0, 200.0)), (240.0, 260.0), True)
        found = find_skin(noisy, [face], 0.5, Run())
        self.assertGreater(overlap(found, truth > 0), 0.9)

    def test_without_skin_there_is_none(self) -> None:
        self.assertIsNone(find_skin(np.full((50, 50, 3), (30, 60, 200), np.uint8), [], 1, Run()))


class FindingTest(unittest.TestCase):
    def look(self, picture: np.ndarray) -> Look:
        stage = SampleStage(np.ascontiguousarray(picture))
        return Look(stage, None, [], stage.size)

    def test_parts_of_masks_are_found_once(self) -> None:
        picture, truth = outdoors(1)
        sky = Found(what="sky")
        steps = [
            Tone(ev=-1, mask=Mask(parts=[sky, Linear(how="meet")])),
            Tone(ev=1, mask=Mask(parts=[sky], inverted=True)),
        ]
        self.assertTrue(to_be_found(steps))
        done, missing = all_found(steps, self.look(picture), Run())
        self.assertEqual((missing, to_be_found(done)), ([], False))
        parts = [step.mask.parts[0] for step in done if step.mask]
        self.assertEqual(parts[0], parts[1])
        assert isinstance(parts[0], Found)
        plane = plane_of(parts[0].plane)
        self.assertGreater(overlap(cv2.resize(plane, (WIDTH, HEIGHT)), truth), 0.94)

    def test_what_is_not_there_is_said_and_stays_empty(self) -> None:
        rough_one = np.clip(120 + rough(5, 30, 1), 0, 255).astype(np.uint8)
        done, missing = all_found([Tone(ev=1, mask=Mask(parts=[Found(what="sky")]))], self.look(rough_one), Run())
        self.assertTrue(to_be_found(done))
        self.assertIn("Draw a gradient", missing[0])
        with self.assertRaises(TakeError):
            self.look(rough_one).find(Found(what="sky"), Run())

    def test_how_far_a_search_is_never_falls_and_ends_at_the_whole(self) -> None:
        picture, _ = still_life(1)
        for part in (Found(), Found(hair=3), Found(what="sky"), Found(what="focus")):
            with self.subTest(part.what, hair=part.hair):
                told: list[float] = []
                with suppress(TakeError):
                    self.look(picture).find(part, Run(progress=told.append))
                    self.assertEqual(told[-1], 1)
                self.assertEqual(told, sorted(told))
                self.assertLessEqual(max(told), 1)
                if part.hair:
                    self.assertGreater(len(told), 12)

    def test_the_background_is_what_the_subject_is_not(self) -> None:
        picture, truth = still_life(1)
        found = self.look(picture).find(Found(what="background"), Run())
        self.assertGreater(overlap(cv2.resize(plane_of(found.plane), (WIDTH, HEIGHT)), ~truth), 0.95)


if __name__ == "__main__":
    unittest.main()
