"""Colour spaces: profiles that a colour engine reads as the standards have them, and deliveries converted into them."""

from __future__ import annotations

import io
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pyvips
import tifffile
from PIL import Image, ImageCms

from core_tests.pictures import write
from kitecore.colour.icc import profile_name
from kitecore.colour.spaces import SPACES, SpaceName, profile_of
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.files.source import Source
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Grain, Repair, Sharpen
from kitecore.steps.deblur import SoftBlur
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan
from kitecore.takes.take import Take

WIDE: tuple[SpaceName, ...] = ("display-p3", "a98-rgb", "prophoto-rgb")


def colours() -> np.ndarray:
    """Saturated and unsaturated colours, H×W×3, 0..1, which every space holds as sRGB colours."""
    steps = np.linspace(0.05, 0.95, 7)
    return np.stack(np.meshgrid(steps, steps, steps), axis=-1).reshape(49, 7, 3)


def expected(rgb: np.ndarray, name: SpaceName) -> np.ndarray:
    """sRGB values told in another space, by the standards' numbers."""
    srgb, other = SPACES["srgb"], SPACES[name]
    xyz = srgb.linear(rgb) @ srgb.to_connection().T
    linear = np.clip(xyz @ np.linalg.inv(other.to_connection()).T, 0, 1)
    coded = np.linspace(0, 1, 200_001)
    return np.interp(linear, other.linear(coded), coded)


class ProfilesTest(unittest.TestCase):
    def test_white_is_white_and_the_primaries_are_the_standards(self) -> None:
        for space in SPACES.values():
            white = space.to_connection().sum(axis=1)
            np.testing.assert_allclose(white, [0.9642, 1, 0.8249], atol=2e-4)
        # ISO 22028-2 gives this matrix for ROMM.
        np.testing.assert_allclose(
            SPACES["prophoto-rgb"].to_connection(),
            [[0.7977, 0.1352, 0.0313], [0.2880, 0.7119, 0.0001], [0, 0, 0.8249]], atol=4e-4,
        )  # fmt: skip

    def test_another_colour_engine_reads_them_so(self) -> None:
        samples = np.rint(colours() * 255).astype(np.uint8)
        for name in WIDE:
            wanted = ImageCms.getOpenProfile(io.BytesIO(profile_of(name)))
            moved = ImageCms.profileToProfile(Image.fromarray(samples), ImageCms.createProfile("sRGB"), wanted)
            difference = np.abs(np.asarray(moved) - 255 * expected(samples / 255, name))
            self.assertLess(difference.max(), 2.5, name)
            self.assertEqual(profile_name(profile_of(name)), SPACES[name].title)


class DeliveredTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def delivered(self, source: Path, spec: OutputSpec, *steps: AnyStep) -> Path:
        path = self.folder / "out.tif"
        with Source(source) as opened:
            write_result(plan(Take(steps=list(steps)), opened.size), opened, spec, path)
        return path

    def test_files_are_converted_with_their_profile_inside(self) -> None:
        samples = np.rint(colours() * 65535).astype(np.uint16)
        source = write(self.folder / "in.png", samples)
        for name in WIDE:
            path = self.delivered(source, OutputSpec(profile=name))
            got = tifffile.imread(path)
            self.assertEqual(got.dtype, np.uint16)
            self.assertLess(np.abs(got / 65535 - expected(samples / 65535, name)).max(), 0.004, name)
            self.assertEqual(pyvips.Image.new_from_file(str(path)).get("icc-profile-data"), profile_of(name))

    def test_there_and_back_again_is_where_it_was(self) -> None:
        samples = np.rint(colours() * 65535).astype(np.uint16)
        first = self.delivered(write(self.folder / "in.png", samples), OutputSpec(profile="prophoto-rgb"))
        again = first.rename(self.folder / "wide.tif")
        back = tifffile.imread(self.delivered(again, OutputSpec(profile="srgb")))
        self.assertLess(np.abs(back.astype(int) - samples).max(), 500)

    def test_sixteen_bits_and_a_wide_gamut_pass_through_every_step(self) -> None:
        ramp = np.linspace(8000, 56000, 128 * 96).reshape(96, 128)
        wide = np.rint(np.stack([ramp, ramp[::-1], 64000 - ramp], axis=2)).astype(np.uint16)
        source = self.folder / "wide.tif"
        tifffile.imwrite(source, wide, photometric="rgb", iccprofile=profile_of("prophoto-rgb"), metadata=None)
        path = self.delivered(
            source, OutputSpec(), Repair(banding=50), Denoise(detail=50),
            Deblur(blur=SoftBlur(sigma=0.8), keep_sharp=50), Enlarge(target=ByFactor(factor=2)), Sharpen(), Grain(amount=0.5),
        )  # fmt: skip
        got = tifffile.imread(path)
        self.assertEqual((got.dtype, got.shape), (np.uint16, (192, 256, 3)))
        self.assertEqual(pyvips.Image.new_from_file(str(path)).get("icc-profile-data"), profile_of("prophoto-rgb"))
        # In eight bits there would be 256 levels.
        self.assertGreater(len(np.unique(got[..., 0])), 5000)
        middle = np.abs(got[20:-20:2, 20:-20:2].astype(int) - wide[10:-10, 10:-10]).mean()
        self.assertLess(middle, 0.015 * 65535)
