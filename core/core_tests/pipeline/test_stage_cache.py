import threading
import time
from collections import Counter
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from core_tests.pictures import random_samples
from kitecore.engines import Engine
from kitecore.errors import Cancelled
from kitecore.masks.mask import Mask
from kitecore.masks.strokes import Stroke
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels, Samples
from kitecore.pipeline.run import Around, Run
from kitecore.pipeline.stage import SampleStage, Stage
from kitecore.pipeline.stage_cache import CELL, StageCache, blocks
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Repair, Sharpen
from kitecore.steps.deblur import SoftBlur
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan
from kitecore.takes.render import result_stage
from kitecore.takes.take import Take

SIDE = CELL.width
SIZE = Size(5 * SIDE + 17, 3 * SIDE + 40)


class CountingStage(SampleStage):
    """Counts how often each of its pixels is rendered."""

    def __init__(self, samples: np.ndarray) -> None:
        super().__init__(samples)
        self.times = np.zeros(samples.shape[:2], int)

    def render(self, region: Region, run: Run) -> Pixels:
        run.check()
        self.times[region.y : region.bottom, region.x : region.right] += 1
        return super().render(region, run)


class SlowStage(CountingStage):
    def render(self, region: Region, run: Run) -> Pixels:
        time.sleep(0.05)
        return super().render(region, run)


class KeptTest(TestCase):
    def setUp(self) -> None:
        self.samples = random_samples(SIZE.height, SIZE.width, 3, seed=3)
        self.source = CountingStage(self.samples)
        self.whole = SampleStage(self.samples).render(SIZE.region, Run())

    def kept(self, source: Stage, kept: StageCache) -> Stage:
        return kept.of("picture")(source, "stage")

    def test_any_region_is_as_it_was_and_no_pixel_is_computed_twice(self) -> None:
        random = np.random.default_rng(1)
        stage = self.kept(self.source, StageCache(10**9))
        for _ in range(40):
            x, y = int(random.integers(SIZE.width)), int(random.integers(SIZE.height))
            width, height = (int(random.integers(1, most + 1)) for most in (SIZE.width - x, SIZE.height - y))
            pixels = stage.render(Region(x, y, width, height), Run())
            np.testing.assert_array_equal(pixels, self.whole[y : y + height, x : x + width])
        self.assertEqual(self.source.times.max(), 1)

    def test_what_is_given_may_be_changed(self) -> None:
        stage = self.kept(self.source, StageCache(10**9))
        stage.render(SIZE.region, Run())[:] = -1
        np.testing.assert_array_equal(stage.render(SIZE.region, Run()), self.whole)

    def test_other_names_and_other_pictures_are_other_cells(self) -> None:
        kept = StageCache(10**9)
        self.kept(self.source, kept).render(SIZE.region, Run())
        other = CountingStage(255 - self.samples)
        for keep, name in ((kept.of("picture"), "another stage"), (kept.of("another picture"), "stage")):
            pixels = keep(other, name).render(SIZE.region, Run())
            np.testing.assert_allclose(pixels, 1 - self.whole, atol=1e-6)
        self.assertEqual(other.times.min(), 2)

    def test_it_stays_within_its_bound_and_the_longest_unused_goes(self) -> None:
        kept = StageCache(4 * SIDE * SIDE * 3 * 4)
        stage = self.kept(self.source, kept)
        cells = [Region(column * SIDE, 0, SIDE, SIDE) for column in range(5)]
        for cell in cells[:4]:
            stage.render(cell, Run())
        for cell in (cells[0], cells[4], cells[0], cells[1]):
            stage.render(cell, Run())
        computed = [self.source.times[cell.y, cell.x] for cell in cells]
        self.assertEqual(computed, [1, 2, 1, 1, 1])

    def test_a_bound_below_a_single_region_still_gives_it_whole(self) -> None:
        stage = self.kept(self.source, StageCache(1000))
        np.testing.assert_array_equal(stage.render(SIZE.region, Run()), self.whole)

    def test_several_threads_compute_each_cell_once(self) -> None:
        source = SlowStage(self.samples)
        stage = self.kept(source, StageCache(10**9))
        regions = [Region(x, 20, 3 * SIDE, 2 * SIDE) for x in (0, SIDE, 2 * SIDE, 30)]
        results: dict[int, Pixels] = {}
        threads = [
            threading.Thread(target=lambda at=at: results.update({at: stage.render(regions[at], Run())}))
            for at in range(len(regions))
        ]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        for at, region in enumerate(regions):
            expected = self.whole[region.y : region.bottom, region.x : region.right]
            np.testing.assert_array_equal(results[at], expected)
        self.assertEqual(source.times.max(), 1)

    def test_what_one_gives_up_the_next_computes(self) -> None:
        claimed, go_on = threading.Event(), threading.Event()

        class GivenUp(CountingStage):
            def render(self, region: Region, run: Run) -> Pixels:
                claimed.set()
                go_on.wait(5)
                return super().render(region, run)

        kept = StageCache(10**9)
        first = threading.Thread(
            target=lambda: self.assertRaises(
                Cancelled, self.kept(GivenUp(self.samples), kept).render, SIZE.region, Run(go_on.is_set)
            )
        )
        first.start()
        claimed.wait(5)
        found: list[Pixels] = []
        second = threading.Thread(target=lambda: found.append(self.kept(self.source, kept).render(SIZE.region, Run())))
        second.start()
        with self.assertRaises(Cancelled):
            self.kept(self.source, kept).render(SIZE.region, Run(lambda: True))
        go_on.set()
        first.join()
        second.join()
        np.testing.assert_array_equal(found[0], self.whole)

    def test_blocks_cover_cells_exactly_and_are_not_too_long(self) -> None:
        random = np.random.default_rng(2)
        for _ in range(50):
            cells = {(int(x), int(y)) for x, y in random.integers(0, 7, (int(random.integers(1, 40)), 2))}
            longest = Size(int(random.integers(1, 8)), int(random.integers(1, 8)))
            parts = list(blocks(cells, longest))
            self.assertLessEqual(max(part.width for part in parts), longest.width)
            self.assertLessEqual(max(part.height for part in parts), longest.height)
            covered = Counter(
                (x, y) for part in parts for x in range(part.x, part.right) for y in range(part.y, part.bottom)
            )
            self.assertEqual(covered, Counter(cells))
        self.assertEqual(len(list(blocks(((x, y) for x in range(4) for y in range(3)), Size(4, 4)))), 1)


class RecordingStage(SampleStage):
    """Notes which regions it is asked for."""

    def __init__(self, samples: Samples) -> None:
        super().__init__(samples)
        self.asked: list[Region] = []

    def render(self, region: Region, run: Run) -> Pixels:
        self.asked.append(region)
        return super().render(region, run)


class SeenTogetherTest(TestCase):
    def test_what_is_seen_is_computed_with_the_region_asked_for_first(self) -> None:
        samples = random_samples(600, 700, 3)
        source = CountingStage(samples)
        kept = StageCache(10**9).of("picture")(source, "stage")
        first, beside = Region(200, 200, 128, 128), Region(328, 200, 128, 128)
        kept.render(first, Run(around=Around(0, 0, 1, 0)))
        source.times[:] = 0
        np.testing.assert_array_equal(kept.render(beside, Run()), SampleStage(samples).render(beside, Run()))
        self.assertEqual(source.times.max(), 0)

    def test_all_that_is_seen_is_one_block_wherever_one_begins(self) -> None:
        source = RecordingStage(random_samples(600, 700, 3))
        kept = StageCache(10**9, block=512).of("")(source, "")
        seen = Region(64, 64, 384, 320)
        for tile in (Region(320, 256, 128, 128), Region(64, 64, 128, 128), Region(192, 64, 128, 128)):
            kept.render(tile, Run(around=Around.beside(tile, seen)))
        self.assertEqual(source.asked, [seen])

    def test_what_a_block_is_made_of_has_nothing_more_around_it(self) -> None:
        inner = RecordingStage(random_samples(600, 700, 3))
        cache = StageCache(10**9, block=512)
        outer = cache.of("")(cache.of("")(inner, "first"), "second")
        tile, seen = Region(320, 256, 128, 128), Region(64, 64, 384, 320)
        outer.render(tile, Run(around=Around.beside(tile, seen)))
        self.assertEqual(inner.asked, [seen])

    def test_what_is_larger_than_a_block_is_computed_in_equal_parts(self) -> None:
        source = RecordingStage(random_samples(600, 700, 3))
        kept = StageCache(10**9, block=256).of("")(source, "")
        seen = Region(0, 0, 384, 128)
        for tile in (Region(0, 0, 64, 64), Region(320, 64, 64, 64)):
            kept.render(tile, Run(around=Around.beside(tile, seen)))
        self.assertEqual(source.asked, [Region(0, 0, 192, 128), Region(192, 0, 192, 128)])

    def test_no_more_than_a_block_is(self) -> None:
        source = CountingStage(random_samples(600, 700, 3))
        StageCache(10**9, block=256).of("")(source, "").render(Region(200, 200, 64, 64), Run(around=Around(9, 9, 9, 9)))
        self.assertLessEqual(int((source.times > 0).sum()), 384 * 384)


class CalledOffTest(TestCase):
    def test_small_blocks_are_called_off_soon_and_what_was_computed_is_kept(self) -> None:
        source = RecordingStage(random_samples(600, 700, 3))
        kept = StageCache(10**9).of("")(source, "")
        run = Run(lambda: len(source.asked) == 2, block=128)
        inner = source.render

        def checked(region: Region, run: Run) -> Pixels:
            run.check()
            return inner(region, run)

        with patch.object(source, "render", checked), self.assertRaises(Cancelled):
            kept.render(Region(0, 0, 600, 500), run)
        begun = list(source.asked)
        self.assertEqual(len(begun), 2)
        self.assertLessEqual(max(max(one.width, one.height) for one in begun), 128 + 2 * SIDE)
        whole = kept.render(Region(0, 0, 600, 500), Run())
        np.testing.assert_array_equal(whole, source.render(Region(0, 0, 600, 500), Run()))
        again = source.asked[2:-1]
        self.assertFalse([one for one in again if any(one.intersection(done) for done in begun)])


class KeptTakeTest(TestCase):
    """Of a take that is looked at while it is changed, networks compute only what has changed."""

    def setUp(self) -> None:
        self.source = SampleStage(random_samples(70, 90, 3, seed=4))
        self.kept = StageCache(10**9)
        self.asked = 0

    def rendered(self, steps: list[AnyStep], level: int = 0) -> Pixels:
        """The result with what is kept; as it would be without within what networks may differ by."""
        resolved = plan(Take(steps=steps), self.source.size)
        with patch.object(Engine, "session", autospec=True, side_effect=Engine.session) as asked:
            stage = result_stage(resolved, self.source, level, self.kept.of("picture"))
            pixels = stage.render(stage.size.region, Run())
        self.asked = asked.call_count
        plainly = result_stage(resolved, self.source, level)
        self.assertLess(np.abs(plainly.render(stage.size.region, Run()) - pixels).max(), 1 / 255)
        return pixels

    def test_a_later_step_asks_for_no_earlier_one_again(self) -> None:
        first: list[AnyStep] = [Denoise(luminance=40), Enlarge(engine="faithful", target=ByFactor(factor=2))]
        self.rendered([*first, Sharpen(amount=100)])
        self.assertGreater(self.asked, 1)
        self.rendered([*first, Sharpen(amount=150)])
        self.assertEqual(self.asked, 0)
        self.rendered([first[0], Enlarge(engine="faithful", target=ByFactor(factor=3))])
        self.assertEqual(self.asked, 1, "the enlarging alone")

    def test_a_view_from_afar_is_reduced_from_what_was_seen_near(self) -> None:
        steps: list[AnyStep] = [Repair(strength=80), Enlarge(engine="plain", target=ByFactor(factor=2))]
        self.rendered(steps)
        self.assertEqual(self.asked, 1)
        self.rendered(steps, level=1)
        self.assertEqual(self.asked, 0)

    def test_painting_a_mask_asks_for_no_network(self) -> None:
        everywhere = self.rendered([Denoise(luminance=90)])
        stroke = Stroke(points=[(20, 20), (60, 40)], size=15)
        masked = self.rendered([Denoise(luminance=90, mask=Mask(strokes=[stroke]))])
        self.assertEqual(self.asked, 0)
        self.assertFalse(np.array_equal(everywhere, masked))

    def test_no_strength_asks_for_a_network_again(self) -> None:
        blur = SoftBlur(sigma=1)
        first: list[AnyStep] = [
            Denoise(luminance=90, colour=60),
            Denoise(luminance=10, colour=100, detail=40),
            Denoise(luminance=0, colour=20),
        ]
        others: list[list[AnyStep]] = [
            [Repair(strength=80), Repair(strength=20), Repair(strength=80, banding=30)],
            [Deblur(blur=blur), Deblur(blur=blur, strength=40), Deblur(blur=blur, keep_sharp=50)],
        ]
        for kind in [first, *others]:
            seen = []
            for index, step in enumerate(kind):
                seen.append(self.rendered([step]))
                with self.subTest(step.did()):
                    self.assertEqual(self.asked > 0, index == 0)
            self.assertFalse(np.array_equal(seen[0], seen[1]))

    def test_another_engine_quality_or_blur_is_computed(self) -> None:
        for step in (Repair(quality=40), Repair(quality=60), Deblur(), Deblur(blur=SoftBlur(sigma=2))):
            self.rendered([step])
            self.assertGreater(self.asked, 0)
