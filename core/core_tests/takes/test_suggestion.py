"""The suggested start on pictures whose truth is known: better than plain enlarging, and sound files are left alone."""

from __future__ import annotations

import json
import subprocess
import sys
import unittest
from collections.abc import Callable
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

import cv2
import numpy as np
from PIL import Image

from core_tests.pictures import DEMO, REPOSITORY, psnr
from kitecore.files.source import Source
from kitecore.filters.psf import Kernel, disc, streak
from kitecore.pipeline.run import Run
from kitecore.reading import (
    BlurReading,
    ClippedReading,
    CompressionReading,
    NoiseReading,
    PixelsReading,
    Reading,
    read_picture,
)
from kitecore.steps import Deblur, Denoise, Enlarge, Repair, Step
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan
from kitecore.takes.render import result_stage
from kitecore.takes.suggestion import Suggestion, suggest
from kitecore.takes.take import Take, parse_take

#: Clean pictures of the demo; the middle 480 pixels of each are enough.
TRUTHS = ("harbour-wall.png", "festival.jpg")


@cache
def truth(name: str) -> np.ndarray:
    picture = np.asarray(Image.open(DEMO / "clean" / name).convert("RGB"))
    y, x = (picture.shape[0] - 480) // 2, (picture.shape[1] - 480) // 2
    return picture[y : y + 480, x : x + 480]


def blurred(picture: np.ndarray, psf: Kernel) -> np.ndarray:
    return cv2.filter2D(picture, -1, psf[::-1, ::-1].astype(np.float32), borderType=cv2.BORDER_REFLECT_101)


def noisy(picture: np.ndarray) -> np.ndarray:
    return picture + np.random.default_rng(4).normal(0, 12, picture.shape).astype(np.float32)


def reading(
    noise: tuple[float, float] = (0.3, 0.2), blur: tuple[str, float] = ("none", 0), quality: int | None = None,
    confidence: float = 0.9, kind: str = "photo", enlarged_by: float = 1.0,
) -> Reading:  # fmt: skip
    return Reading.model_validate(
        {
            "pixels": PixelsReading(width=400, height=300),
            "noise": NoiseReading(
                luminance=noise[0], colour=noise[1], luminance_confidence=0.9, colour_confidence=0.9, confidence=0.9
            ),
            "blur": BlurReading(kind=blur[0], size_px=blur[1], angle_deg=20, confidence=confidence),
            "compression": CompressionReading(quality=quality, grid=None, confidence=0.9),
            "enlarged_by": enlarged_by,
            "enlarged_by_confidence": confidence,
            "clipped": ClippedReading(shadows=[0], highlights=[0], confidence=1),
            "kind": kind,
            "kind_confidence": 0.9,
        }
    )


def kinds(suggestion: Suggestion) -> list[str]:
    return [step.kind for step in suggestion.steps]


class SuggestionTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def gain(
        self, name: str, damage: Callable[[np.ndarray], np.ndarray], quality: int | None = None
    ) -> tuple[float, Suggestion]:
        """dB by which the suggested take, at twice the size, is nearer to the truth than plain enlarging."""
        sharp = truth(name)
        small = cv2.resize(sharp, (240, 240), interpolation=cv2.INTER_AREA).astype(np.float32)
        given = Image.fromarray(np.clip(np.rint(damage(small)), 0, 255).astype(np.uint8))
        path = self.folder / f"{len(list(self.folder.iterdir()))}.{'jpg' if quality else 'png'}"
        given.save(path, **({"quality": quality} if quality else {}))
        target = ByFactor(factor=2)
        with Source(path) as source:
            suggestion = suggest(read_picture(source, Run()), target)
            plain: list[Step] = [Enlarge(engine="plain", target=target)]
            suggested, alone = (self.rendered(steps, source) for steps in (suggestion.steps, plain))
        wanted = sharp.astype(np.float32) / 255
        return psnr(suggested, wanted) - psnr(alone, wanted), suggestion

    @staticmethod
    def rendered(steps: list[Step], source: Source) -> np.ndarray:
        resolved = plan(Take.model_validate({"steps": [step.model_dump() for step in steps]}), source.size)
        return result_stage(resolved, source.stage()).render(resolved.size.region, Run())

    def test_noise_is_taken_away(self) -> None:
        for name in TRUTHS:
            gain, suggestion = self.gain(name, noisy)
            self.assertEqual(kinds(suggestion), ["denoise", "enlarge"])
            self.assertGreater(gain, 5.0, name)

    def test_missed_focus_and_movement_are_undone(self) -> None:
        for name in TRUTHS:
            for psf in (disc(2), streak(8, 30)):
                gain, suggestion = self.gain(name, lambda picture, psf=psf: blurred(picture, psf))
                self.assertEqual(kinds(suggestion), ["deblur", "enlarge"])
                self.assertGreater(gain, 3.0, name)

    def test_compression_is_repaired(self) -> None:
        for name in TRUTHS:
            for quality in (10, 40):
                gain, suggestion = self.gain(name, lambda picture: picture, quality)
                self.assertEqual(kinds(suggestion), ["repair", "enlarge"])
                self.assertGreater(gain, 0.8, f"{name} {quality}")

    def test_all_three_at_once(self) -> None:
        for name in TRUTHS:
            gain, suggestion = self.gain(name, lambda picture: noisy(blurred(picture, disc(2))), quality=35)
            self.assertEqual(suggestion.steps[-1].kind, "enlarge")
            self.assertGreater(gain, 1.5, name)

    def test_a_clean_picture_is_not_made_worse(self) -> None:
        for name in TRUTHS:
            gain, suggestion = self.gain(name, lambda picture: picture)
            self.assertEqual(kinds(suggestion), ["enlarge"])
            self.assertGreater(gain, -0.1, name)

    def test_every_choice_has_a_reason_and_says_where_it_is_unsure(self) -> None:
        worst = reading(noise=(9, 7), blur=("motion", 9), quality=40, confidence=0.65)
        for one in (reading(), worst, reading(kind="drawing"), reading(enlarged_by=2, confidence=0.8)):
            suggestion = suggest(one, ByFactor(factor=2))
            placed = [choice.step for choice in suggestion.choices if choice.step is not None]
            self.assertEqual(placed, list(range(len(suggestion.steps))))
            for choice in suggestion.choices:
                self.assertRegex(choice.reason, r"^[A-Z].+\.$")
                self.assertEqual(choice.uncertain, choice.confidence < 0.6)

    def test_order_strengths_and_engines_follow_the_reading(self) -> None:
        worst = suggest(reading(noise=(9, 7), blur=("motion", 9), quality=85), ByFactor(factor=3))
        self.assertEqual(kinds(worst), ["repair", "denoise", "deblur", "enlarge"])
        repair, denoise, deblur, enlarge = worst.steps
        assert isinstance(repair, Repair) and isinstance(denoise, Denoise)
        assert isinstance(deblur, Deblur) and isinstance(enlarge, Enlarge)
        self.assertEqual((repair.quality, enlarge.target), (85, ByFactor(factor=3)))
        weaker = suggest(reading(noise=(3, 2)), ByFactor(factor=3)).steps[0]
        assert isinstance(weaker, Denoise)
        self.assertLess(weaker.luminance, denoise.luminance)
        engines = {kind: suggest(reading(kind=kind), ByFactor(factor=2)).steps[-1] for kind in ("photo", "drawing")}
        self.assertEqual([getattr(step, "engine", "") for step in engines.values()], ["faithful", "drawn"])

    def test_guesses_are_left_out(self) -> None:
        self.assertEqual(kinds(suggest(reading(blur=("soft", 1.5), confidence=0.4), ByFactor(factor=2))), ["enlarge"])
        self.assertEqual(kinds(suggest(reading(noise=(4, 0.2)), ByFactor(factor=2))), ["enlarge"])

    def test_an_enlarged_file_is_brought_to_its_true_size_first(self) -> None:
        suggestion = suggest(reading(enlarged_by=2), ByFactor(factor=2))
        self.assertEqual(kinds(suggestion), ["enlarge", "enlarge"])
        resolved = plan(Take(steps=suggestion.steps), Source(DEMO / "clean/poster.png").size)
        self.assertEqual(round(resolved.scale, 2), 2.0)

    def test_the_command_line_prints_a_take_that_render_does(self) -> None:
        path = self.folder / "small.png"
        Image.fromarray(truth(TRUTHS[0])[:160, :200]).save(path)
        environment = {"PYTHONPATH": str(REPOSITORY / "core"), "PATH": "/usr/bin:/bin"}
        command = [sys.executable, "-m", "kitecore"]
        told = subprocess.run(
            [*command, "suggest", path, "--factor", "3"], env=environment, capture_output=True, check=True
        ).stdout
        self.assertEqual(parse_take(told).steps[-1].kind, "enlarge")
        self.assertTrue(json.loads(told)["choices"])
        take = self.folder / "take.json"
        take.write_bytes(told)
        subprocess.run(
            [*command, "render", path, self.folder / "out.png", "--take", take],
            env=environment,
            check=True,
            capture_output=True,
        )
        with Image.open(self.folder / "out.png") as result:
            self.assertEqual(result.size, (600, 480))
