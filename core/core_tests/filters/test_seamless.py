"""Textures whose truth is known: cloth, brick and gravel under light that falls off, laid edge to edge."""

from __future__ import annotations

import unittest

import cv2
import numpy as np

from kitecore.errors import Cancelled, TakeError
from kitecore.filters.seamless import best_cut, evened, seamless
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.reading.period import repeats_of
from kitecore.steps import Frame, Seamless
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage

HEIGHT, WIDTH = 300, 380
Texture = np.ndarray


def coloured(grey: Texture, colour: tuple[float, float, float], random: np.random.Generator) -> Texture:
    made = grey[..., None] * np.array(colour) + random.normal(0, 0.012, (*grey.shape, 1))
    return made.clip(0, 1).astype(np.float32)


def cloth(across: float, down: float, seed: int = 1) -> Texture:
    """A weave whose threads come again after so many pixels, each a little unlike the other."""
    random = np.random.default_rng(seed)
    rows, columns = np.mgrid[:HEIGHT, :WIDTH].astype(np.float64)
    over = np.sin(2 * np.pi * columns / across) * np.sin(2 * np.pi * rows / down)
    threads = (
        0.5 + 0.14 * over + 0.06 * np.sin(4 * np.pi * columns / across + 0.7) + 0.05 * np.cos(4 * np.pi * rows / down)
    )
    uneven = cv2.GaussianBlur(random.normal(0, 1, (HEIGHT, WIDTH)), (0, 0), 3)
    return coloured(threads + 0.08 * uneven / uneven.std() * 0.3, (0.95, 0.6, 0.45), random)


def brick(seed: int = 2) -> Texture:
    """Bricks of 61×24 px, every other row moved by half of one, each of its own tone."""
    random = np.random.default_rng(seed)
    wall = np.full((HEIGHT, WIDTH), 0.68)
    for row in range(-1, HEIGHT // 24 + 1):
        for place in range(-1, WIDTH // 61 + 2):
            left, top = round(61 * (place + 0.5 * (row % 2))), 24 * row
            wall[max(0, top + 2) : top + 22, max(0, left + 2) : left + 59] = random.normal(0.4, 0.05)
    return coloured(cv2.GaussianBlur(wall, (0, 0), 0.8), (0.95, 0.62, 0.5), random)


def gravel(seed: int = 3) -> Texture:
    """Stones anywhere: it never repeats."""
    random = np.random.default_rng(seed)
    ground = np.full((HEIGHT, WIDTH), 0.3, np.float32)
    for _ in range(2600):
        middle = (int(random.integers(WIDTH)), int(random.integers(HEIGHT)))
        axes = (int(random.integers(4, 9)), int(random.integers(3, 7)))
        cv2.ellipse(ground, middle, axes, float(random.uniform(0, 180)), 0, 360, float(random.normal(0.55, 0.1)), -1)
    return coloured(cv2.GaussianBlur(ground, (0, 0), 0.7), (0.8, 0.8, 0.84), random)


def lit(texture: Texture) -> Texture:
    """As a lamp in the upper left corner lights it, a third of the light in the lower right one."""
    rows, columns = np.mgrid[0 : 1 : HEIGHT * 1j, 0 : 1 : WIDTH * 1j]
    return (texture * (1 - 0.35 * columns - 0.3 * rows)[..., None]).astype(np.float32)


TEXTURES = {"cloth": cloth(23.4, 17.7), "brick": brick(), "gravel": gravel()}


def steps_between(made: Texture) -> tuple[float, float]:
    """Mean difference of neighbouring columns inside, and of the last one and the first."""
    inside = np.abs(np.diff(made, axis=1)).mean(axis=(0, 2))
    return float(np.sort(inside)[round(0.9 * len(inside))]), float(np.abs(made[:, 0] - made[:, -1]).mean())


def tones(made: Texture, axis: int) -> tuple[float, float]:
    """Of strips a tenth wide the darkest and the lightest, and the first and the last, as shares of the mean."""
    strips = np.array([one.mean() for one in np.array_split(made, 10, axis=1 - axis)])
    return float(np.ptp(strips) / strips.mean()), float(abs(strips[0] - strips[-1]) / strips.mean())


class SeamlessTest(unittest.TestCase):
    def test_what_meets_differs_no_more_than_neighbours_inside(self) -> None:
        for name, texture in TEXTURES.items():
            with self.subTest(name):
                given = lit(texture)
                across, down = (one.overlap for one in repeats_of(given, Run()))
                made = seamless(given, across, down, 0.9, 1, Run())
                self.assertEqual(made.shape, (HEIGHT - down, WIDTH - across, 3))
                for turned in (made, made.transpose(1, 0, 2)):
                    inside, seam = steps_between(turned)
                    self.assertLessEqual(seam, inside)

    def test_light_is_as_even_at_the_ends_as_inside(self) -> None:
        for name, texture in TEXTURES.items():
            with self.subTest(name):
                made = seamless(lit(texture), 50, 40, 1, 1, Run())
                for axis in (0, 1):
                    spread, ends = tones(made, axis)
                    # Beside what it has of its own hardly anything is left.
                    self.assertGreater(tones(lit(texture), axis)[0], 0.3)
                    self.assertLess(spread, tones(texture, axis)[0] + 0.05)
                    self.assertLess(ends, 0.06)

    def test_no_cut_is_seen_inside(self) -> None:
        # Along the cut columns are no more unlike their neighbours than anywhere else.
        for name, texture in TEXTURES.items():
            with self.subTest(name):
                across, down = (one.overlap for one in repeats_of(texture, Run()))
                made = seamless(texture, across, down, 0, 1, Run())
                steps = np.abs(np.diff(made, axis=1)).mean(axis=(0, 2))
                self.assertLess(float(steps[:across].mean()), 1.1 * float(steps[across:].mean()))
                self.assertLess(float(steps[:across].max()), 1.25 * float(steps[across:].max()))

    def test_nothing_is_mirrored_and_what_is_not_laid_over_stays(self) -> None:
        made = seamless(TEXTURES["gravel"], 50, 40, 0, 1, Run())
        np.testing.assert_array_equal(made[40:, 50:], TEXTURES["gravel"][40:-40, 50:-50])
        np.testing.assert_array_equal(made[45:, 0], TEXTURES["gravel"][45:-40, -50])
        still = seamless(TEXTURES["gravel"], 0, 0, 0, 1, Run())
        np.testing.assert_array_equal(still, TEXTURES["gravel"])

    def test_evening_keeps_means_and_alpha_and_does_nothing_at_rest(self) -> None:
        given = np.dstack([lit(TEXTURES["brick"]), np.linspace(0, 1, WIDTH * HEIGHT).reshape(HEIGHT, WIDTH)]).astype(
            np.float32
        )
        made = evened(given, 1)
        np.testing.assert_array_equal(made[..., 3], given[..., 3])
        np.testing.assert_allclose(made[..., :3].mean(axis=(0, 1)), given[..., :3].mean(axis=(0, 1)), atol=1e-5)
        self.assertIs(evened(given, 0), given)

    def test_the_cut_is_the_cheapest_there_is(self) -> None:
        random = np.random.default_rng(5)
        for _ in range(20):
            costs = random.random((6, 4)).astype(np.float32)
            ways = [[column] for column in range(4)]
            for _ in range(5):
                ways = [[*way, step] for way in ways for step in range(max(0, way[-1] - 1), min(4, way[-1] + 2))]
            cheapest = min(sum(costs[row, column] for row, column in enumerate(way)) for way in ways)
            found = best_cut(costs)
            self.assertAlmostEqual(float(costs[np.arange(6), found].sum()), float(cheapest), places=5)
            self.assertLessEqual(int(np.abs(np.diff(found)).max()), 1)
        closed = best_cut(random.random((90, 30)).astype(np.float32), closed=True)
        self.assertLessEqual(abs(int(closed[0] - closed[-1])), 1)

    def test_it_is_called_off(self) -> None:
        with self.assertRaises(Cancelled):
            seamless(TEXTURES["cloth"], 20, 20, 1, 1, Run(lambda: True))


class PeriodTest(unittest.TestCase):
    def test_periods_are_found_to_a_pixel_under_uneven_light(self) -> None:
        for across, down in ((23.4, 17.7), (41.0, 33.3), (12.25, 58.6)):
            with self.subTest(across=across, down=down):
                found = repeats_of(lit(cloth(across, down)), Run())
                for one, truth in zip(found, (across, down), strict=True):
                    assert one.period is not None
                    self.assertLess(abs(one.period - truth), 0.1)
        (along, up) = repeats_of(lit(brick()), Run())
        assert along.period is not None and up.period is not None
        self.assertLess(abs(along.period - 61), 1)
        # Every other row is moved: it comes again after two.
        self.assertLess(abs(up.period - 48), 1)

    def test_whole_periods_end_on_whole_pixels(self) -> None:
        across, down = repeats_of(cloth(23.4, 17.7), Run())
        for one, period, length in ((across, 23.4, WIDTH), (down, 17.7, HEIGHT)):
            count = one.whole / period
            self.assertLess(abs(count - round(count)) * period, 0.35)
            self.assertGreater(one.whole, length / 2)
        made = cloth(23.4, 17.7)[:, : across.whole]
        inside, seam = steps_between(made)
        self.assertLess(seam, 1.4 * inside)

    def test_what_does_not_repeat_has_no_period(self) -> None:
        for one, length in zip(repeats_of(gravel(), Run()), (WIDTH, HEIGHT), strict=True):
            self.assertIsNone(one.period)
            self.assertEqual(one.whole, length)
            self.assertTrue(0.05 * length < one.overlap < 0.4 * length)

    def test_very_small_pictures_are_no_trouble(self) -> None:
        for shape in ((3, 4, 3), (9, 20, 3), (16, 16, 1)):
            for one in repeats_of(np.random.default_rng(1).random(shape).astype(np.float32), Run()):
                self.assertGreater(one.whole, 0)


class SeamlessStepTest(unittest.TestCase):
    def test_sizes_places_and_sentences(self) -> None:
        step = Seamless(across=10, down=20)
        self.assertEqual(step.result_size(Size(200, 100)), Size(180, 80))
        plan = plan_of_steps([Frame(), step], Size(WIDTH, HEIGHT))
        stage = result_stage(plan, SampleStage(TEXTURES["gravel"]))
        self.assertEqual((stage.size, plan.size), (Size(342, 240), Size(342, 240)))
        self.assertIn("10 % across and 20 % down", step.did())
        with self.assertRaisesRegex(TakeError, "before enlarging"):
            step.result_size(Size(9000, 9000))

    def test_seen_small_it_is_what_it_is_seen_whole(self) -> None:
        plan = plan_of_steps([Frame(), Seamless()], Size(WIDTH, HEIGHT))
        whole = result_stage(plan, SampleStage(lit(TEXTURES["cloth"])))
        half = cv2.resize(lit(TEXTURES["cloth"]), (WIDTH // 2, HEIGHT // 2), interpolation=cv2.INTER_AREA)
        small = result_stage(plan, SampleStage(half), 1)
        shown = small.render(small.size.region, Run())
        truth = cv2.resize(whole.render(whole.size.region, Run()), shown.shape[1::-1], interpolation=cv2.INTER_AREA)
        self.assertLess(float(np.abs(shown - truth).mean()), 0.012)
