"""The rehearsal against truth: wear as it is read, chains that win where the damage is known, suggestions that follow."""

from __future__ import annotations

import io
import json
import unittest
from contextlib import redirect_stderr, redirect_stdout
from itertools import pairwise
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
import skimage.data
from PIL import Image

from core_tests.pictures import psnr
from kitecore.cli.commands import main
from kitecore.errors import Cancelled, PictureError
from kitecore.files.source import Source
from kitecore.filters.psf import disc
from kitecore.pipeline.pixels import from_samples
from kitecore.pipeline.run import Run
from kitecore.reading import Reading, read_picture
from kitecore.reading.noise import noise_of
from kitecore.rehearsal import Rehearsal, Rehearsed, rehearse, suggest_rehearsed
from kitecore.rehearsal.chains import called, restorings
from kitecore.rehearsal.scores import scores_of
from kitecore.rehearsal.wear import Wear, suppositions
from kitecore.steps import Enlarge
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.render import render_array
from kitecore.takes.suggestion import suggest

#: A photograph, its true pixels and half of them in each direction.
TRUTH = np.ascontiguousarray(skimage.data.coffee()[:400, :600, :3])
SMALL = np.clip(np.rint(cv2.resize(TRUTH.astype(np.float32), (300, 200), interpolation=cv2.INTER_AREA)), 0, 255)


def file_of(folder: str, quality: int | None = None, radius: float = 0, noise: float = 0) -> Path:
    """The photograph at half its size, worn: missed focus, noise, compression."""
    picture = SMALL
    if radius:
        picture = cv2.filter2D(picture, -1, disc(radius).astype(np.float32), borderType=cv2.BORDER_REFLECT_101)
    picture = picture + np.random.default_rng(5).normal(0, noise, picture.shape)
    image = Image.fromarray(np.clip(np.rint(picture), 0, 255).astype(np.uint8))
    path = Path(folder) / ("worn.jpg" if quality else "worn.png")
    image.save(path, **({"quality": quality} if quality else {}))
    return path


def rehearsed(path: Path) -> tuple[Reading, Rehearsed]:
    with Source(path) as source:
        reading = read_picture(source, Run())
        return reading, rehearse(source, reading, 2.0, Run())


def won(path: Path, steps: object) -> float:
    """dB that steps win over plain enlarging, against the photograph itself."""
    samples = np.asarray(Image.open(path).convert("RGB"))
    truth = TRUTH.astype(np.float32) / 255
    plain = render_array(samples, [Enlarge(engine="plain", target=ByFactor(factor=2))])
    return psnr(render_array(samples, steps), truth) - psnr(plain, truth)  # type: ignore[arg-type]


class WearTest(unittest.TestCase):
    def test_noise_is_as_strong_in_luma_and_colour_as_it_was_read(self) -> None:
        clean = np.full((300, 300, 3), 0.5, np.float32)
        worn = from_samples(Wear(luminance=8, colour=5).apply(clean, np.random.default_rng(1))) * 255
        luma = worn @ np.array([0.299, 0.587, 0.114])
        self.assertAlmostEqual(float(luma.std()), 8, delta=0.4)
        blue, red = worn @ np.array([-0.1687, -0.3313, 0.5]), worn @ np.array([0.5, -0.4187, -0.0813])
        self.assertAlmostEqual(float(np.hypot(blue.std(), red.std()) / np.sqrt(2)), 5, delta=0.3)

    def test_noise_before_compression_is_stronger_so_that_what_is_left_reads_alike(self) -> None:
        clean = np.asarray(cv2.GaussianBlur(SMALL, (0, 0), 3) / 255, np.float32)
        wear = Wear(luminance=6, colour=3, quality=60)
        alike = wear.until_alike(clean, np.random.default_rng(2))
        self.assertGreater(alike.luminance, 6)

        def left(one: Wear) -> float:
            grey = from_samples(one.apply(clean, np.random.default_rng(3))) @ np.array(
                [0.299, 0.587, 0.114], np.float32
            )
            return noise_of([grey], [grey])[0]

        self.assertLess(abs(left(alike) - 6), abs(left(wear) - 6))

    def test_grey_stays_one_band_and_grey_colours_stay_samples(self) -> None:
        grey = np.full((40, 40, 1), 0.5, np.float32)
        for quality in (None, 50):
            worn = Wear(luminance=5, quality=quality).apply(grey, np.random.default_rng(1))
            self.assertEqual(worn.shape, grey.shape)

    def test_what_is_supposed_adds_up_to_certainty(self) -> None:
        with TemporaryDirectory() as folder, Source(file_of(folder, quality=60, noise=6)) as source:
            supposed = suppositions(read_picture(source, Run()))
        self.assertAlmostEqual(sum(weight for _, weight in supposed), 1.0)
        self.assertGreater(len(supposed), 1, "noise and compression may hide a blur")


class RehearsalTest(unittest.TestCase):
    def test_what_wins_is_nearly_the_best_for_the_picture_itself(self) -> None:
        for damage in ({"quality": 25}, {"radius": 2.0, "noise": 1.0}, {"noise": 20.0}, {}):
            with self.subTest(damage=damage), TemporaryDirectory() as folder:
                path = file_of(folder, **damage)  # type: ignore[arg-type]
                _, found = rehearsed(path)
                best = max(won(path, one.steps) for one in found.rehearsal.candidates)
                self.assertGreater(won(path, found.rehearsal.best.steps), best - 0.3)

    def test_candidates_are_told_best_first_beside_plain_enlarging(self) -> None:
        with TemporaryDirectory() as folder:
            reading, (rehearsal, truth, cells) = rehearsed(file_of(folder, quality=30))
        gains = [one.gain for one in rehearsal.candidates]
        # A step more must bring something: what is simpler may stand before what is hardly nearer.
        for better, following in pairwise(gains):
            self.assertGreater(better, following - 0.15)
        self.assertLess(gains[-1], gains[0])
        self.assertIn(("plain", 0.0), [(one.called, one.gain) for one in rehearsal.candidates])
        self.assertEqual(len(cells), len(rehearsal.candidates))
        self.assertEqual({cell.shape for cell in [truth, *cells]}, {(100, 100, 3)})
        self.assertEqual(Rehearsal.model_validate_json(rehearsal.model_dump_json()), rehearsal)
        for one in rehearsal.candidates:
            self.assertTrue(one.told.endswith("."))
            self.assertEqual(called(tuple(one.steps)), one.called)
        self.assertEqual(restorings(reading)[0], ())

    def test_the_same_picture_comes_out_the_same(self) -> None:
        with TemporaryDirectory() as folder:
            path = file_of(folder, quality=40)
            self.assertEqual(rehearsed(path)[1].rehearsal, rehearsed(path)[1].rehearsal)

    def test_the_suggestion_is_what_won_with_its_reasons(self) -> None:
        with TemporaryDirectory() as folder:
            reading, (rehearsal, *_) = rehearsed(file_of(folder, quality=25))
        target = ByFactor(factor=3.5)
        suggestion = suggest_rehearsed(reading, rehearsal, target)
        self.assertEqual([step.kind for step in suggestion.steps], [step.kind for step in rehearsal.best.steps])
        last = suggestion.steps[-1]
        self.assertEqual(last.target if isinstance(last, Enlarge) else None, target)
        for choice in suggestion.choices:
            self.assertIn("rehearsed" if choice.step is not None else "No ", choice.reason)
        self.assertEqual(suggest_rehearsed(reading, None, target), suggest(reading, target))

    def test_pictures_too_small_are_refused_and_it_can_be_called_off(self) -> None:
        with TemporaryDirectory() as folder:
            tiny = Path(folder) / "tiny.png"
            Image.fromarray(TRUTH[:70, :90]).save(tiny)
            with Source(tiny) as source, self.assertRaisesRegex(PictureError, "fewer than 80 pixels"):
                rehearse(source, read_picture(source, Run()), 2.0, Run())
            with Source(file_of(folder)) as source, self.assertRaises(Cancelled):
                rehearse(source, read_picture(source, Run()), 2.0, Run(lambda: True))

    def test_small_pictures_are_enlarged_less_in_it(self) -> None:
        with TemporaryDirectory() as folder:
            small = Path(folder) / "small.png"
            Image.fromarray(TRUTH[100:200, 100:230]).save(small)
            with Source(small) as source:
                rehearsal = rehearse(source, read_picture(source, Run()), 8.0, Run()).rehearsal
        self.assertEqual(rehearsal.factor, 2)
        self.assertGreater(len(rehearsal.candidates), 2)

    def test_the_command_line_prints_every_candidate(self) -> None:
        with TemporaryDirectory() as folder:
            told = io.StringIO()
            with redirect_stdout(told), redirect_stderr(io.StringIO()):
                main(["rehearse", str(file_of(folder, quality=30)), "--factor", "2"])
        found = Rehearsal.model_validate(json.loads(told.getvalue()))
        self.assertGreater(len(found.candidates), 4)


class ScoresTest(unittest.TestCase):
    def test_the_truth_itself_scores_full_and_texture_is_told_apart(self) -> None:
        truth = np.asarray(TRUTH[:200, :200] / 255, np.float32)
        itself = scores_of(truth, truth, 2)
        self.assertEqual((round(itself.structure, 3), round(itself.kept, 3), itself.invented), (1.0, 1.0, 0.0))
        smooth = np.asarray(cv2.GaussianBlur(truth, (0, 0), 2), np.float32)
        self.assertLess(scores_of(smooth, truth, 2).kept, 0.7)
        noisy = smooth + np.random.default_rng(1).normal(0, 0.03, truth.shape).astype(np.float32)
        self.assertGreater(scores_of(noisy, smooth, 2).invented, 3)


if __name__ == "__main__":
    unittest.main()
