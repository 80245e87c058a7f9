import shutil
import threading
import time
from datetime import timedelta
from unittest.mock import patch

import numpy as np
from django.test import override_settings
from django.utils import timezone

from kitecore.engines.pace import Pace
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.steps import Denoise, Enlarge, Step
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan_of_steps
from pictures.models import Picture
from rendering.caches import KeptReduction
from rendering.models import EngineRate
from rendering.regions import opened
from rendering.sources import Sources
from rendering.speed import learn, note, note_first, seconds_for
from server_tests.base import CommittedTestCase, ServerTestCase, plain, png_bytes


def planned(*steps: Step, width: int = 3000) -> Plan:
    return plan_of_steps(steps, Size(width, 2000))


TWICE = Enlarge(target=ByFactor(factor=2))


class SpeedTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        # What other tests have rendered in this process is nothing to these.
        patcher = patch("rendering.speed.pace", Pace())
        self.pace = patcher.start()
        self.addCleanup(patcher.stop)

    def learnt(self, plan: Plan, *seconds: float) -> float:
        for each in seconds:
            learn(plan, each)
        return seconds_for(plan)

    def test_until_a_file_was_made_it_is_supposed(self) -> None:
        self.assertLess(seconds_for(planned()), 3)
        self.assertGreater(seconds_for(planned(TWICE)), 5)
        self.assertGreater(seconds_for(planned(Denoise(), TWICE)), seconds_for(planned(TWICE)))
        self.assertGreater(seconds_for(planned(TWICE, width=6000)), 1.8 * seconds_for(planned(TWICE)))

    def test_a_first_trial_counts_until_a_file_has_been_made_and_only_the_first(self) -> None:
        before = seconds_for(planned(TWICE))
        works = planned(TWICE).works
        engine, work = next((name, work) for name, work in works.items() if name)
        note_first(engine, work / (before / 4))
        told = seconds_for(planned(TWICE))
        self.assertLess(told, before / 2)
        note_first(engine, work / (9 * before))
        self.assertEqual(seconds_for(planned(TWICE)), told)
        self.assertAlmostEqual(self.learnt(planned(TWICE), 2 * told), 2 * told, delta=1)

    def test_it_is_learnt_from_what_files_took(self) -> None:
        self.assertAlmostEqual(self.learnt(planned(TWICE), *[70] * 3), 70, delta=2)
        self.assertAlmostEqual(seconds_for(planned(TWICE, width=6000)), 140, delta=5)

    def test_each_engine_has_its_own_speed(self) -> None:
        self.learnt(planned(TWICE), *[80] * 3)
        self.learnt(planned(Denoise()), *[10] * 3)
        self.assertAlmostEqual(seconds_for(planned(TWICE)), 80, delta=2)
        self.assertAlmostEqual(seconds_for(planned(Denoise())), 10, delta=1)
        self.assertAlmostEqual(seconds_for(planned(Denoise(), TWICE)), 90, delta=3)

    def test_one_that_was_made_in_a_bad_hour_says_little(self) -> None:
        before = seconds_for(planned(TWICE))
        self.assertLess(self.learnt(planned(TWICE), 30 * before), 4 * before)
        learned = self.learnt(planned(TWICE), *[40] * 5)
        self.assertAlmostEqual(self.learnt(planned(TWICE), 900), learned, delta=1)

    def test_what_the_shelf_measures_counts(self) -> None:
        plan = planned(TWICE)
        note("faithful", plan.works["faithful"] / 20)
        self.assertLess(seconds_for(plan), 32)

    def test_other_engines_are_taken_to_be_as_fast_as_those_that_are_known(self) -> None:
        self.learnt(planned(TWICE), *[80] * 3)
        fast = seconds_for(planned(Denoise()))
        self.learnt(planned(TWICE), *[160] * 20)
        self.assertAlmostEqual(seconds_for(planned(Denoise())), 2 * fast, delta=2)

    def test_every_machine_is_known_for_itself_and_the_one_at_work_is_asked(self) -> None:
        mine = self.learnt(planned(TWICE), *[30] * 3)
        with patch("rendering.speed.platform.node", return_value="slow"):
            self.assertAlmostEqual(self.learnt(planned(TWICE), *[90] * 3), 90, delta=2)
        self.assertAlmostEqual(self.learnt(planned(TWICE), 30), mine, delta=1)

    def test_what_was_just_rendered_here_is_set_beside_what_files_took(self) -> None:
        plan = planned(TWICE)
        learned = self.learnt(plan, 30)
        self.pace.note("faithful", plan.works["faithful"] / 40, learned / 40 * 4)
        # A file of late counts as much as all that was rendered, three count three times as much, old ones as one.
        self.assertAlmostEqual(seconds_for(plan), 2 * learned, delta=2)
        self.assertAlmostEqual(self.learnt(plan, *[learned] * 2), learned * 4**0.25, delta=2)
        EngineRate.objects.update(noted=timezone.now() - timedelta(hours=1))
        self.assertAlmostEqual(seconds_for(plan), 2 * learned, delta=2)
        with patch("rendering.speed.platform.node", return_value="elsewhere"):
            self.assertAlmostEqual(seconds_for(plan), learned, delta=1)

    def test_where_no_file_was_made_what_was_just_rendered_counts(self) -> None:
        plan = planned(TWICE)
        self.pace.note("faithful", plan.works["faithful"] / 40, 2)
        self.assertAlmostEqual(seconds_for(plan), 80, delta=4)
        # What was tried while everything started says nothing beside it.
        note_first("faithful", plan.works["faithful"] / 700)
        self.assertAlmostEqual(seconds_for(plan), 80, delta=4)

    def test_files_made_just_now_say_more_than_those_of_another_hour(self) -> None:
        plan = planned(TWICE)
        self.learnt(plan, *[30] * 9)
        EngineRate.objects.update(noted=timezone.now() - timedelta(hours=1))
        self.assertAlmostEqual(self.learnt(plan, 60), 60, delta=2)
        self.assertAlmostEqual(self.learnt(plan, 40, 50), 50, delta=2)

    def test_what_was_over_at_once_teaches_nothing(self) -> None:
        before = seconds_for(planned(TWICE))
        self.assertEqual(self.learnt(planned(TWICE), 1), before)
        learn(planned(), 60)
        self.assertFalse(EngineRate.objects.exists())

    def test_only_the_newest_are_minded(self) -> None:
        self.learnt(planned(TWICE), *[60] * 10)
        self.assertAlmostEqual(self.learnt(planned(TWICE), *[30] * 10), 30, delta=1)
        self.assertEqual(EngineRate.objects.count(), 9)


class SourcesTest(CommittedTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.sources = Sources()

    def picture(self, seed: int = 1) -> Picture:
        made, _ = self.picture_and_take(png_bytes(seed=seed))
        return Picture.objects.get(id=made["id"])

    def test_a_picture_is_decoded_once_for_all_who_look(self) -> None:
        picture = self.picture()
        with self.sources.of(picture) as first, self.sources.of(picture) as second:
            self.assertIs(first, second)
        with self.sources.of(picture) as later:
            self.assertIs(first, later)

    def test_several_threads_wait_for_the_one_that_decodes(self) -> None:
        picture = self.picture()
        together, seen = threading.Barrier(4), []

        def look() -> None:
            together.wait()
            with self.sources.of(picture) as source:
                seen.append(source)

        threads = [threading.Thread(target=look) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(set(map(id, seen))), 1)

    def test_the_longest_unused_is_closed_and_one_in_use_never(self) -> None:
        pictures = [self.picture(seed) for seed in range(6)]
        with self.sources.of(pictures[0]) as used:
            closed = []
            for picture in pictures[1:]:
                with self.sources.of(picture) as source, patch.object(source, "close", wraps=source.close) as close:
                    closed.append(close)
            self.assertEqual(used.stage().render(Region(0, 0, 2, 2), Run()).shape, (2, 2, 3))
            with self.sources.of(pictures[0]) as again:
                self.assertIs(again, used)
        with self.sources.of(pictures[1]) as again:
            self.assertEqual(again.size.width, 60)

    def test_what_is_there_reduced_is_decoded_once_nobody_is_busy(self) -> None:
        picture = self.picture()
        with self.sources.of(picture) as source:
            source.keep(KeptReduction(picture.samples_key))
        again, busy = Sources(), threading.Event()
        busy.set()
        with again.of(picture) as source:
            self.assertFalse(source.decoded)
            again.decode_soon(picture, busy.is_set)
            time.sleep(0.1)
            self.assertFalse(source.decoded)
            busy.clear()
            until = time.monotonic() + 20
            while not source.decoded and time.monotonic() < until:
                time.sleep(0.01)
            self.assertTrue(source.decoded)

    def test_a_file_that_is_gone_is_told_and_can_be_tried_again(self) -> None:
        picture = self.picture()
        path = picture.original.path
        content = path.read_bytes()
        path.unlink()
        with self.assertRaises(Exception), self.sources.of(picture):  # noqa: B017 whatever the decoder says
            pass
        path.write_bytes(content)
        with self.sources.of(picture) as source:
            self.assertEqual(source.size.height, 40)

    def test_one_whose_file_lies_elsewhere_now_is_opened_anew(self) -> None:
        picture = self.picture()
        with self.sources.of(picture) as before:
            pass
        elsewhere = self.home / "elsewhere"
        shutil.copytree(self.home / "originals", elsewhere)
        with override_settings(ORIGINALS=elsewhere), self.sources.of(picture) as after:
            self.assertIsNot(after, before)
            self.assertEqual(after.size, before.size)

    def test_one_that_is_not_decoded_yet_has_its_file(self) -> None:
        picture = self.picture(seed=4711)
        with self.sources.of(picture) as first:
            for level in range(3):
                first.stage(level)
        later = Sources()
        with later.of(picture) as kept:
            self.assertFalse(kept.decoded)
        picture.original.path.unlink()
        with self.assertRaises(FileNotFoundError), later.of(picture):
            pass
        with self.sources.of(picture) as decoded:
            self.assertTrue(decoded.decoded)


class RegionsTest(CommittedTestCase):
    def test_a_region_is_that_of_the_whole_and_rendered_once(self) -> None:
        made, take = self.picture_and_take(steps=[plain(2)])
        picture, plan = Picture.objects.get(id=made["id"]), take.plan()
        part = Region(31, 17, 40, 30)
        with opened(picture) as one:
            whole = one.stage_of(plan).render(plan.size.region, Run())
            first = one.region(plan, 0, part, Run())
            np.testing.assert_allclose(first, whole[part.slices(plan.size.region)], atol=1e-6)
            with patch.object(type(one), "stage_of", side_effect=AssertionError("rendered again")):
                np.testing.assert_array_equal(one.region(plan, 0, part, Run()), first)

    def test_levels_have_the_sizes_of_the_plan(self) -> None:
        made, take = self.picture_and_take(steps=[plain(3)])
        picture, plan = Picture.objects.get(id=made["id"]), take.plan()
        with opened(picture) as one:
            for level in range(4):
                self.assertEqual(one.stage_of(plan, level).size, plan.size.reduced(level))
