from __future__ import annotations

import subprocess
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase, mock

import cv2
import numpy as np
import skimage.data

from core_tests.clips import RADIUS, disc, handheld, write_clip
from kitecore.errors import PictureError, TooLarge
from kitecore.files.clip.clip import Clip
from kitecore.files.clip.colours import as_still, coded_rgb
from kitecore.files.clip.curve import peaks, sharpness_curve
from kitecore.files.clip.looks import look_near, looks_written
from kitecore.filters.fusing import fused
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Denoise
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage


def flat(red: float, green: float, blue: float, height: int = 96, width: int = 128) -> np.ndarray:
    return np.full((height, width, 3), (red, green, blue), np.float64)


class ClipTestCase(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def opened(self, path: Path) -> Clip:
        clip = Clip(path)
        self.addCleanup(clip.close)
        return clip


class FramesTest(ClipTestCase):
    def test_colours_are_those_that_were_coded_whatever_the_codec(self) -> None:
        frames = [flat(200, 120, 60), flat(60, 180, 140)]
        for codec, form, ending, matrix, full, bits in (
            ("libx264", "yuv420p", "mp4", 1, False, 8), ("libx264", "yuv420p", "mp4", 1, True, 8),
            ("libx265", "yuv422p10le", "mkv", 9, False, 10), ("prores_ks", "yuv422p10le", "mov", 1, False, 10),
            ("libvpx-vp9", "yuv444p", "webm", 6, False, 8), ("libsvtav1", "yuv420p10le", "mp4", 1, False, 10),
        ):  # fmt: skip
            with self.subTest(codec=codec, full=full, matrix=matrix):
                path = write_clip(self.folder / f"a.{ending}", frames, codec, form, full, matrix)
                with Clip(path) as clip:
                    self.assertEqual((clip.facts.frames, clip.facts.bits, clip.facts.full_range), (2, bits, full))
                    told = clip.facts.matrix
                    for index, frame in enumerate(frames):
                        found = 255 * clip.frame(index)[48, 64]
                        if {1: "709", 6: "601", 9: "2020"}[matrix] == told:
                            np.testing.assert_allclose(found, frame[48, 64], atol=3)

    def test_frames_are_found_by_their_exact_times(self) -> None:
        times = [0, 40, 53, 120, 121, 400, 1000]
        frames = [flat(20 + 30 * index, 60, 200 - 20 * index) for index in range(len(times))]
        clip = self.opened(write_clip(self.folder / "a.mkv", frames, times=times))
        self.assertEqual(clip.times, [Fraction(time, 1000) for time in times])
        self.assertFalse(clip.facts.steady)
        for index in (4, 0, 6, 3, 5, 5, 1, 2):
            np.testing.assert_allclose(255 * clip.frame(index)[40, 40], frames[index][40, 40], atol=4)
        for seconds, index in ((0, 0), (0.0399, 0), (0.04, 1), (0.0531, 2), (0.3, 4), (7, 6)):
            self.assertEqual(clip.at(seconds), index)
        with self.assertRaises(IndexError):
            clip.frame(7)

    def test_frames_come_the_same_in_any_order(self) -> None:
        frames = [np.random.default_rng(index).uniform(0, 255, (64, 80, 3)) for index in range(12)]
        clip = self.opened(write_clip(self.folder / "a.mp4", frames, g="5"))
        first = [clip.frame(index) for index in range(12)]
        for index in (11, 3, 4, 10, 0, 7):
            np.testing.assert_array_equal(clip.frame(index), first[index])

    def test_high_dynamic_range_is_fitted_below_white(self) -> None:
        path = write_clip(
            self.folder / "a.mkv", [flat(120, 120, 120), flat(250, 200, 60)], "libx265", "yuv420p10le", False, 9,
            transfer=16, primaries=9,
        )  # fmt: skip
        clip = self.opened(path)
        self.assertEqual((clip.facts.transfer, clip.facts.wide), ("pq", True))
        self.assertIn("PQ", clip.facts.notes[0])
        self.assertIsNotNone(clip.profile)
        bright = clip.frame(1)
        self.assertLessEqual(float(bright.max()), 1)

    def test_what_is_broken_or_no_clip_says_so(self) -> None:
        whole = write_clip(self.folder / "a.mp4", [flat(20, 40, 60)] * 8).read_bytes()
        for name, content, said in (
            ("text.mp4", b"wind and string " * 40, "cannot be used"), ("half.mp4", whole[: len(whole) // 3], "cannot be used"),
        ):  # fmt: skip
            path = self.folder / name
            path.write_bytes(content)
            with self.assertRaisesRegex(PictureError, said):
                Clip(path)

    def test_a_decoder_that_crashes_or_hangs_takes_nothing_down_and_comes_again(self) -> None:
        clip = self.opened(write_clip(self.folder / "a.mp4", [flat(20, 40, 60)] * 3))
        assert clip._process
        clip._process.kill()
        clip._process.wait()
        self.assertEqual(clip.frame(1).shape, (96, 128, 3))
        silent = subprocess.Popen(["sleep", "60"], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
        self.addCleanup(silent.kill)
        with (
            mock.patch.object(clip, "_decoder", return_value=silent),
            mock.patch("kitecore.files.clip.clip._FRAME_SECONDS", 0.2),
            self.assertRaisesRegex(PictureError, "broke off|not read after"),
        ):
            clip.frame(2)

    def test_limits_are_said(self) -> None:
        path = write_clip(self.folder / "a.mp4", [flat(20, 40, 60)] * 3)
        for name, limit in (("MOST_FRAMES", 2), ("MOST_PIXELS", 1000)):
            with mock.patch(f"kitecore.files.clip.clip.{name}", limit), self.assertRaises(TooLarge):
                Clip(path)


class ColoursTest(TestCase):
    def test_luma_and_chroma_are_those_of_the_standards(self) -> None:
        # 100 % red, green and blue of BT.709, limited range: the published 8-bit values.
        for rgb, values in (((1, 0, 0), (63, 102, 240)), ((0, 1, 0), (173, 42, 26)), ((0, 0, 1), (32, 240, 118))):
            planes = 256 * np.reshape(values, (3, 1, 1)).astype(np.uint16)
            np.testing.assert_allclose(coded_rgb(planes, "709", False)[0, 0], rgb, atol=0.006)

    def test_reference_white_and_black_of_pq_and_hlg(self) -> None:
        # BT.2408: 203 cd/m² is 58 % of PQ and 75 % of HLG.
        white = [
            as_still(np.full((1, 1, 3), value, np.float32), way)[0, 0, 0]
            for value, way in ((0.58, "pq"), (0.75, "hlg"))
        ]  # type: ignore[arg-type]
        self.assertLess(abs(white[0] - white[1]), 0.01)
        self.assertTrue(0.7 < white[0] < 0.82)
        self.assertLess(float(as_still(np.zeros((1, 1, 3), np.float32), "pq").max()), 1e-3)


class FusingTest(ClipTestCase):
    def test_eight_frames_are_nearer_to_the_truth_than_any_and_than_denoising_one(self) -> None:
        for name in ("astronaut", "chelsea"):
            with self.subTest(photograph=name):
                picture = cv2.resize(getattr(skimage.data, name)(), (420, 360), interpolation=cv2.INTER_AREA)
                truths = handheld(picture, 8, moving=True)
                random = np.random.default_rng(3)
                frames = [frame + random.normal(0, 10, frame.shape) for frame in truths]
                clip = self.opened(write_clip(self.folder / f"{name}.mp4", frames, crf="18"))
                single = [_psnr(clip.frame(index), truths[index]) for index in range(8)]
                best = int(np.argmax(single))
                made = fused(clip.frame, range(8), best).pixels
                self.assertGreater(_psnr(made, truths[best]), single[best] + 3)
                alone = clip.frame(best)
                denoised = max(_psnr(_denoised(alone, share), truths[best]) for share in (60, 100))
                self.assertGreater(_psnr(made, truths[best]), denoised + 1.5)
                moved = np.zeros(made.shape[:2], np.uint8)
                cv2.circle(moved, disc(best, made.shape[0]), RADIUS + 6, 1, -1)
                where = moved > 0
                errors = [np.mean((one[where] - truths[best][where] / 255) ** 2) for one in (made, alone)]
                self.assertLessEqual(errors[0], errors[1])

    def test_twice_as_fine_it_lies_where_it_was(self) -> None:
        picture = cv2.resize(skimage.data.chelsea(), (300, 260), interpolation=cv2.INTER_AREA)
        frames = [frame / 255 for frame in handheld(picture, 4)]
        made = fused(lambda index: frames[index].astype(np.float32), range(4), 1, 2).pixels
        self.assertEqual(made.shape, (2 * frames[1].shape[0], 2 * frames[1].shape[1], 3))
        back = cv2.resize(made, frames[1].shape[1::-1], interpolation=cv2.INTER_AREA)
        self.assertGreater(_psnr(back, 255 * frames[1]), 33)

    def test_other_frames_that_show_something_else_change_nothing(self) -> None:
        random = np.random.default_rng(1)
        one = cv2.GaussianBlur(random.uniform(0, 1, (90, 120, 3)).astype(np.float32), (0, 0), 3)
        other = cv2.GaussianBlur(random.uniform(0, 1, (90, 120, 3)).astype(np.float32)[::-1], (0, 0), 9) * 0.2
        made = fused(lambda index: (one, other)[index], range(2), 0)
        self.assertLess(float(np.abs(made.pixels - one).mean()), 0.02)


class CurveTest(ClipTestCase):
    def test_the_sharpest_frames_are_found(self) -> None:
        picture = cv2.resize(skimage.data.coffee(), (300, 220), interpolation=cv2.INTER_AREA).astype(np.float64)
        blurs = [2.5, 2, 1.5, 0.01, 1, 2, 3, 3, 3, 2, 0.6, 2, 3]
        random = np.random.default_rng(2)
        frames = [cv2.GaussianBlur(picture, (0, 0), blur) + random.normal(0, 6, picture.shape) for blur in blurs]
        clip = self.opened(write_clip(self.folder / "a.mp4", frames))
        told: list[float] = []
        curve = sharpness_curve(clip, Run(progress=told.append))
        self.assertEqual(peaks(curve, 10, 2), [3, 10])
        self.assertEqual(told[-1], 1)

    def test_the_looks_of_frames_are_kept_and_there_at_once(self) -> None:
        frames = [flat(20 + 20 * index, 90, 160) for index in range(7)]
        clip = self.opened(write_clip(self.folder / "a.mp4", frames))
        path = self.folder / "kept" / "a.looks"
        with looks_written(path, clip.profile) as add:
            sharpness_curve(clip, Run(), add)
            self.assertIsNone(look_near(path, 0, 7), "not before all of them are there")
        for index in range(7):
            content = look_near(path, index, 7)
            assert content is not None
            seen = cv2.imdecode(np.frombuffer(content, np.uint8), cv2.IMREAD_COLOR)
            self.assertEqual(seen.shape, (96, 128, 3))
            self.assertLess(abs(float(seen[48, 64, 2]) - (20 + 20 * index)), 5)
        # Of longer clips every second one is kept.
        with mock.patch("kitecore.files.clip.looks.MOST_LOOKS", 4), looks_written(path, clip.profile) as add:
            sharpness_curve(clip, Run(), add)
        with mock.patch("kitecore.files.clip.looks.MOST_LOOKS", 4):
            self.assertEqual(look_near(path, 3, 7), look_near(path, 2, 7))
            self.assertNotEqual(look_near(path, 4, 7), look_near(path, 2, 7))
        path.write_bytes(b"no looks")
        self.assertIsNone(look_near(path, 3, 7))

    def test_nothing_is_left_of_looks_that_broke_off(self) -> None:
        path = self.folder / "kept" / "a.looks"
        with self.assertRaises(ValueError), looks_written(path, None) as add:
            add(0, np.zeros((8, 8, 3), np.float32))
            raise ValueError
        self.assertEqual(list(path.parent.iterdir()), [])


def _psnr(one: np.ndarray, truth: np.ndarray) -> float:
    inside = np.s_[12:-12, 12:-12]
    return float(-10 * np.log10(np.mean((one[inside] - truth[inside] / 255) ** 2)))


def _denoised(pixels: np.ndarray, share: float) -> np.ndarray:
    stage = SampleStage(np.ascontiguousarray(pixels))
    made = result_stage(plan_of_steps([Denoise(luminance=share, colour=100)], stage.size), stage)
    return np.asarray(made.render(made.size.region, Run()))
