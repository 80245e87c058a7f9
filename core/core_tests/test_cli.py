import json
import os
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

import numpy as np
import tifffile
from PIL import Image

from core_tests.pictures import REPOSITORY, smooth, write
from kitecore.lengths import parse_print
from kitecore.pipeline.luma import LUMA
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Frame, Repair
from kitecore.steps.deblur import MotionBlur, SoftBlur
from kitecore.steps.enlarge import Blend, ByFactor
from kitecore.steps.frame import Crop
from kitecore.takes.render import render_array
from kitecore.takes.take import Take


class CommandLineTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.source = write(self.folder / "in.png", (smooth(60, 40) * 255).astype(np.uint8), ppi=72)

    def run_command(self, *arguments: object) -> subprocess.CompletedProcess[str]:
        return subprocess.run(
            [sys.executable, "-m", "kitecore", *map(str, arguments)], cwd=self.folder, capture_output=True, text=True,
            check=False, env={**os.environ, "PYTHONPATH": str(REPOSITORY / "core")},
        )  # fmt: skip

    def test_print_tells_what_a_size_needs(self) -> None:
        done = self.run_command("print", self.source, "--size", "60x90cm", "--paper", "matte", "--distance", "100cm")
        need = json.loads(done.stdout)
        self.assertEqual(need["verdict"], "beyond")
        self.assertEqual(need["paper"], "matte")
        self.assertEqual(need["distance_cm"], 100)
        # A pixel a minute of arc, in whole pixels an inch.
        self.assertAlmostEqual(need["ppi"], 87.318, delta=0.5)
        self.assertAlmostEqual(need["good_px"]["height"], 90 / 2.54 * need["ppi"], delta=1)
        self.assertGreater(need["good_px"]["width"], need["required_px"]["width"])
        self.assertGreater(need["factor"], 4)
        wrong = self.run_command("print", self.source, "--size", "60x90cm", "--paper", "silk")
        self.assertEqual((wrong.returncode, wrong.stdout), (1, ""))
        self.assertIn("no paper “silk”", wrong.stderr)

    def test_read(self) -> None:
        noise = np.random.default_rng(3).normal(0, 8 / 255, (200, 300, 3))
        noisy = write(
            self.folder / "noisy.png", ((0.3 + 0.4 * smooth(200, 300) + noise) * 255).astype(np.uint8), ppi=72
        )
        facts = json.loads(self.run_command("read", noisy).stdout)
        self.assertEqual(facts["pixels"]["width"], facts["width"])
        # Of three bands alike, the luma has the root of the sum of their squared weights.
        self.assertAlmostEqual(facts["noise"]["luminance"], 8 * np.linalg.norm(LUMA), delta=1)
        self.assertIn(facts["blur"]["kind"], ("soft", "focus"), "waves have no edges")
        self.assertIsNone(facts["compression"]["quality"])
        self.assertEqual(facts["enlarged_by"], 1.0)
        self.assertEqual((facts["width"], facts["height"], facts["ppi"]), (300, 200, 72))

    def test_engines(self) -> None:
        engines = {engine["id"]: engine for engine in json.loads(self.run_command("engines").stdout)}
        self.assertEqual(sorted(engines["faithful"]["network"]["outputs"], key=int), ["2", "3", "4", "6", "8"])
        self.assertIn("plain", engines)

    def test_enlarge_to_a_print(self) -> None:
        done = self.run_command(
            "enlarge", self.source, "out.tif", "--print", "4x6cm", "--ppi", "100", "--engine", "faithful"
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("100 %", done.stderr)
        with tifffile.TiffFile(self.folder / "out.tif") as file:
            page = file.pages[0]
            self.assertEqual((page.shape, page.dtype), ((236, 157, 3), np.uint16))
            self.assertAlmostEqual(np.divide(*page.tags["XResolution"].value), 100, 2)

    def test_enlarge_by_every_kind_of_target(self) -> None:
        for arguments, shape in (
            (["--factor", "2.5"], (150, 100, 3)), (["--width", "90"], (135, 90, 3)), (["--height", "90"], (90, 60, 3)),
        ):  # fmt: skip
            self.assertEqual(
                self.run_command(
                    "enlarge", self.source, "o.tif", "--engine", "plain", "--depth", "8", *arguments
                ).returncode,
                0,
            )
            written = tifffile.imread(self.folder / "o.tif")
            self.assertEqual((written.shape, written.dtype), (shape, np.uint8))

    def test_render_speaks_the_json_of_takes(self) -> None:
        take = Take(
            steps=[Frame(crop=Crop(x=4, y=6, width=20, height=30)), Enlarge(engine="plain", target=ByFactor(factor=2))]
        )
        (self.folder / "take.json").write_text(take.model_dump_json())
        done = self.run_command("render", self.source, "out.png", "--take", "take.json")
        self.assertEqual(done.returncode, 0, done.stderr)
        facts = json.loads(self.run_command("read", "out.png").stdout)
        self.assertEqual((facts["width"], facts["height"], facts["bits"]), (40, 60, 16))

    def test_restore_does_its_steps_in_the_order_given(self) -> None:
        options = ["--deblur", "motion:30:6@50", "--denoise", "40,80", "--repair", "70", "--deblur", "soft:0.8"]
        done = self.run_command("restore", self.source, "out.tif", *options)
        self.assertEqual(done.returncode, 0, done.stderr)
        steps: list[AnyStep] = [
            Deblur(blur=MotionBlur(angle=30, length=6), strength=50), Denoise(luminance=40, colour=80),
            Repair(strength=70), Deblur(blur=SoftBlur(sigma=0.8)),
        ]  # fmt: skip
        expected = render_array((smooth(60, 40) * 255).astype(np.uint8), steps)
        written = tifffile.imread(self.folder / "out.tif") / 65535
        np.testing.assert_allclose(written, np.clip(expected, 0, 1), atol=1e-4)

    def test_a_jpeg_file_tells_repair_its_quality(self) -> None:
        for quality in (30, 95):
            with Image.open(self.source) as source:
                source.save(self.folder / "worn.jpg", quality=quality)
            with Image.open(self.folder / "worn.jpg") as file:
                worn = np.asarray(file)
            done = self.run_command("restore", "worn.jpg", "out.tif", "--repair", "100")
            self.assertEqual(done.returncode, 0, done.stderr)
            written = tifffile.imread(self.folder / "out.tif") / 65535
            told, untold = (render_array(worn, [Repair(strength=100, quality=one)]) for one in (quality, None))
            # Two readers of JPEG may differ by a step of 8 bits; being told or not differs by more somewhere.
            self.assertLess(
                np.abs(written - np.clip(told, 0, 1)).mean(), np.abs(written - np.clip(untold, 0, 1)).mean()
            )

    def test_restore_at_zero_strength_is_the_input(self) -> None:
        for option, value in (("--denoise", "0,0"), ("--denoise", "0"), ("--repair", "0"), ("--deblur", "focus:0")):
            done = self.run_command("restore", self.source, "out.png", "--depth", "8", option, value)
            self.assertEqual(done.returncode, 0, done.stderr)
            with Image.open(self.folder / "out.png") as result, Image.open(self.source) as source:
                np.testing.assert_array_equal(np.asarray(result), np.asarray(source))

    def test_enlarge_blends_holds_and_repeats(self) -> None:
        done = self.run_command(
            "enlarge", self.source, "out.tif", "--factor", "2", "--engine", "faithful",
            "--blend", "plain:25", "--hold", "60", "--repeat",
        )  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        step = Enlarge(blend=Blend(engine="plain", weight=25), hold=60, repeat=True, target=ByFactor(factor=2))
        expected = render_array((smooth(60, 40) * 255).astype(np.uint8), [step])
        written = tifffile.imread(self.folder / "out.tif") / 65535
        np.testing.assert_allclose(written, np.clip(expected, 0, 1), atol=1e-4)

    def test_errors_are_one_sentence_a_status_and_no_file(self) -> None:
        (self.folder / "text.jpg").write_text("hello")
        (self.folder / "bad.json").write_text('{"steps": [{"kind": "fog"}]}')
        for arguments in (
            ["enlarge", self.source, "out.tif", "--factor", "0"], ["enlarge", self.source, "out.tif", "--factor", "1000"],
            ["enlarge", self.source, "out.tif", "--factor", "x"], ["enlarge", self.source, "out.tif"],
            ["enlarge", "text.jpg", "out.tif", "--factor", "2"], ["enlarge", "nowhere.jpg", "out.tif", "--factor", "2"],
            ["enlarge", self.source, "out.gif", "--factor", "2"], ["enlarge", self.source, "no/out.tif", "--factor", "2"],
            ["enlarge", self.source, "out.tif", "--factor", "2", "--engine", "fog"],
            ["enlarge", self.source, "out.jpg", "--factor", "2", "--depth", "16"],
            ["enlarge", self.source, "out.jpg", "--factor", "2", "--quality", "900"],
            ["enlarge", self.source, "out.tif", "--print", "big"], ["enlarge", self.source, self.source, "--factor", "2"],
            ["render", self.source, "out.tif", "--take", "bad.json"], ["render", self.source, "out.tif", "--take", "none.json"],
            ["enlarge", self.source, "out.tif", "--factor", "2", "--blend", "fog:20"],
            ["enlarge", self.source, "out.tif", "--factor", "2", "--blend", "plain:much"],
            ["enlarge", self.source, "out.tif", "--factor", "2", "--engine", "denoise"],
            ["restore", self.source, "out.tif"], ["restore", self.source, "out.tif", "--denoise", "120"],
            ["restore", self.source, "out.tif", "--repair", "x"], ["restore", self.source, "out.tif", "--deblur", "fog:2"],
            ["restore", self.source, "out.tif", "--deblur", "focus:90"],
            ["read", "text.jpg"], ["paint"], [],
        ):  # fmt: skip
            with self.subTest(arguments=arguments):
                done = self.run_command(*arguments)
                self.assertNotEqual(done.returncode, 0)
                self.assertEqual(len(done.stderr.strip().splitlines()), 1, done.stderr)
                self.assertNotIn("Traceback", done.stderr)
                self.assertEqual({p.name for p in self.folder.iterdir()}, {"in.png", "text.jpg", "bad.json"})

    def test_the_core_stands_alone(self) -> None:
        """Neither Django nor anything of the server is needed or loaded."""
        check = (
            "import sys, kitecore.cli; others = ('django', 'ninja', 'torch', 'procrastinate'); "
            "print([n for n in sys.modules if n.split('.')[0] in others])"
        )
        done = subprocess.run(
            [sys.executable, "-c", check],
            capture_output=True,
            text=True,
            check=True,
            env={**os.environ, "PYTHONPATH": str(REPOSITORY / "core")},
        )
        self.assertEqual(done.stdout.strip(), "[]")


class PrintSizeTest(TestCase):
    def test_sizes_as_people_type_them(self) -> None:
        for text, expected in (
            ("60x90cm", (60, 90, "cm")), ("24 × 36 in", (24, 36, "in")), ("60cm", (60, None, "cm")), ("x90 cm", (None, 90, "cm")),
            ("21,5x28mm", (21.5, 28, "mm")), ('8x10"', (8, 10, "in")),
        ):  # fmt: skip
            self.assertEqual(parse_print(text), expected)
