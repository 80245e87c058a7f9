"""What raws are developed to, against the scenes they were drawn from."""

from __future__ import annotations

import os
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase, mock

import cv2
import numpy as np
import rawpy
import skimage.data

from core_tests import raws
from core_tests.raws import CAMERA, MATRIX, Floats, coded, lit, mosaic_of, seen, write_raw
from kitecore.colour.transfer import transfer_of
from kitecore.files.raw.camera import wide_profile
from kitecore.files.raw.demosaic import REACH, demosaiced
from kitecore.files.raw.developing import Way
from kitecore.files.raw.highlights import Hues
from kitecore.files.raw.lenses import Exposed, LensProfile, found_lens, lenses_like
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage
from kitecore.steps import Denoise, Develop
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage


class RawTestCase(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "lenses").mkdir()
        (self.folder / "lenses" / "tern.xml").write_text(raws.PROFILE)
        told = {"KITE_LENSES": str(self.folder / "lenses"), "KITE_DECODED": str(self.folder / "decoded")}
        patch = mock.patch.dict(os.environ, told)
        patch.start()
        self.addCleanup(patch.stop)

    def opened(self, path: Path) -> Source:
        source = Source(path, self.folder / "scratch")
        self.addCleanup(source.close)
        return source

    def balanced(self, stage: Stage) -> Floats:
        """A stage in the wide space as linear colours of the sensor."""
        light = transfer_of(wide_profile()).light(stage.render(stage.size.region, Run()))
        return light.astype(np.float64) @ np.linalg.inv(CAMERA.to_wide).T

    def shown(self, stage: Stage) -> Floats:
        """The same as sRGB, by the camera's own matrix."""
        return coded(self.balanced(stage) @ MATRIX.T)


def psnr(one: Floats, other: Floats, edge: int = 12) -> float:
    inside = np.s_[edge:-edge, edge:-edge]
    return float(-10 * np.log10(np.mean((one[inside] - other[inside]) ** 2)))


def photograph(name: str) -> Floats:
    return np.asarray(getattr(skimage.data, name)()[:300, :300], np.float64) / 255


class AgainstLibRawTest(RawTestCase):
    def by_libraw(self, path: Path) -> dict[str, Floats]:
        """What LibRaw makes of it by each way it has, in sRGB."""
        found = {}
        for way in ("AHD", "DHT", "AAHD", "PPG", "DCB"):
            for noise in (rawpy.FBDDNoiseReductionMode.Off, rawpy.FBDDNoiseReductionMode.Full):
                with rawpy.imread(str(path)) as raw:
                    made = raw.postprocess(
                        demosaic_algorithm=rawpy.DemosaicAlgorithm[way], use_camera_wb=True, no_auto_bright=True,
                        output_bps=16, gamma=(2.4, 12.92), fbdd_noise_reduction=noise,
                    )  # fmt: skip
                found[f"{way} {noise.name}"] = made / 65535
        return found

    def test_photographs_come_nearer_to_the_truth_than_by_libraw(self) -> None:
        for name in ("astronaut", "coffee", "chelsea"):
            for iso in (0, 400):
                with self.subTest(photograph=name, iso=iso):
                    truth = photograph(name)
                    path = write_raw(
                        self.folder / f"{name} {iso}.dng", mosaic_of(seen(lit(truth)), iso=iso), lens="none"
                    )
                    ours = psnr(self.shown(self.opened(path).stage()), truth)
                    theirs = max(psnr(made, truth) for made in self.by_libraw(path).values())
                    self.assertGreater(ours, theirs + 1)

    def test_at_iso_6400_denoised_they_are_a_decibel_nearer(self) -> None:
        for name in ("astronaut", "coffee"):
            truth = photograph(name)
            path = write_raw(self.folder / f"{name}.dng", mosaic_of(seen(lit(truth)), iso=6400), iso=6400, lens="none")
            source = self.opened(path)
            plan = plan_of_steps([Develop(), Denoise(luminance=80, colour=100)], source.size)
            ours = psnr(self.shown(result_stage(plan, source.stage())), truth)
            theirs = max(psnr(made, truth) for made in self.by_libraw(path).values())
            self.assertGreater(ours, theirs + 1)

    def test_every_pattern_and_way_up(self) -> None:
        truth = photograph("chelsea")[:200, :280]
        for pattern in (raws.RGGB, raws.BGGR, raws.GRBG, raws.GBRG):
            path = write_raw(self.folder / f"{pattern}.dng", mosaic_of(seen(lit(truth)), pattern), pattern, lens="none")
            self.assertGreater(psnr(self.shown(self.opened(path).stage()), truth), 33)
        for flip, turns in ((3, 2), (6, -1), (8, 1)):
            path = write_raw(self.folder / f"{flip}.dng", mosaic_of(seen(lit(truth))), flip=flip, lens="none")
            upright = np.rot90(truth, turns)
            source = self.opened(path)
            self.assertEqual(source.size, Size(upright.shape[1], upright.shape[0]))
            self.assertGreater(psnr(self.shown(source.stage()), upright), 33)


class LensTest(RawTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.size = Size(600, 400)
        self.exposed = Exposed(raws.MAKER, raws.MODEL, raws.LENS, 24, 2.8)

    def zoom(self) -> float:
        """How much smaller the corrected picture is so that it is filled: told by the middle of its profile."""
        places = LensProfile(raws.LENS, self.exposed, self.size).places(Region(300, 200, 40, 1))
        assert places is not None
        middle = (places[0, 30, 1, 0] - 299.5) / 30.5
        return float((1 - raws.BENT) / middle)

    def test_it_is_found_and_looked_for(self) -> None:
        self.assertEqual(found_lens(self.exposed), raws.LENS)
        self.assertIsNone(found_lens(Exposed(raws.MAKER, raws.MODEL, "another", 24, 2.8)))
        self.assertEqual(lenses_like(self.exposed, "24MM tern"), [raws.LENS])
        self.assertTrue(all("50mm" in name for name in lenses_like(Exposed(None, None, None, None, None), "50mm")))

    def test_bent_lines_become_straight_to_half_a_pixel(self) -> None:
        lines = np.full((480, 680, 3), 0.8)
        rows = (40, 120, 200, 280, 360)
        for row in rows:
            lines[row + 38 : row + 43] = 0.05
        path = write_raw(self.folder / "lines.dng", mosaic_of(raws.drawn_by_lens(seen(lines), 40)))
        bent, straight = (
            self.shown(stage)
            for stage in (self.opened(path).stage().developed(Way()), self.opened(path).stage())  # type: ignore[attr-defined]
        )
        worst = {"bent": 0.0, "straight": 0.0}
        for name, picture in (("bent", bent), ("straight", straight)):
            dark = np.clip(0.6 - picture.mean(axis=2), 0, None)
            for row in rows:
                about = round(200 + (row - 200) * self.zoom())
                near = dark[about - 14 : about + 15, 8:-8]
                # Over sixteen columns, since a mosaic sees an edge here and there of a pixel.
                middles = ((near * np.arange(29)[:, None]).sum(0) / near.sum(0))[:576].reshape(36, 16).mean(1)
                worst[name] = max(worst[name], float(np.ptp(middles)))
        self.assertGreater(worst["bent"], 1.5)
        self.assertLess(worst["straight"], 0.5)

    def test_corners_are_as_light_as_the_middle_and_fringes_are_gone(self) -> None:
        truth = np.full((480, 680, 3), 0.4)
        truth[:, 70:78] = 0.02
        path = write_raw(self.folder / "bar.dng", mosaic_of(raws.drawn_by_lens(seen(lit(truth)), 40)))
        stage = self.opened(path).stage()
        undone, left = self.shown(stage), self.shown(stage.developed(Way()))  # type: ignore[attr-defined]

        def corner_over_middle(picture: Floats) -> float:
            return float(np.median(picture[340:380, 540:580]) / np.median(picture[180:220, 280:320]))

        self.assertLess(corner_over_middle(left), 0.9)
        self.assertLess(abs(corner_over_middle(undone) - 1), 0.01)

        def fringe(stage: Stage) -> float:
            """How far red and blue of the bar lie apart in the sensor's colours, px."""
            light = self.balanced(stage)
            dark = np.median(light[190:210, 300:340], axis=(0, 1)) - light[190:210, 20:55].mean(axis=0)
            red, _, blue = (dark * np.arange(35)[:, None]).sum(axis=0) / dark.sum(axis=0)
            return float(abs(red - blue))

        self.assertGreater(fringe(stage.developed(Way())), 0.12)  # type: ignore[attr-defined]
        self.assertLess(fringe(stage), 0.06)

    def test_a_profile_that_is_gone_changes_nothing(self) -> None:
        path = write_raw(self.folder / "plain.dng", mosaic_of(seen(np.full((60, 80, 3), 0.3))), lens="none")
        stage = self.opened(path).stage()
        without = stage.render(stage.size.region, Run())
        gone = stage.developed(Way(lens="nobody's"))  # type: ignore[attr-defined]
        np.testing.assert_array_equal(gone.render(gone.size.region, Run()), without)


class HighlightsTest(TestCase):
    def test_a_hue_is_kept_where_one_channel_is_left(self) -> None:
        y, x = np.mgrid[:300, :400]
        light = 0.15 + 3 * np.exp(-((x - 200) ** 2 + (y - 150) ** 2) / 2 / 70**2)
        full = np.array(raws.AS_SHOT)
        for colour in ((1.0, 0.75, 0.45), (0.5, 0.9, 1.0), (0.9, 0.5, 0.3), (0.4, 0.8, 0.35)):
            truth = light[..., None] * np.array(colour)
            held = np.minimum(truth / full, 1) * full
            found = Hues(held.astype(np.float32), raws.AS_SHOT).recovered(held.astype(np.float32), 0)
            lost = (truth / full >= 1).sum(axis=2)
            turned = np.abs(_hue(found) - _hue(truth))[(lost > 0) & (lost < 3)]
            self.assertGreater(len(turned), 1000)
            self.assertLess(float(np.minimum(turned, 360 - turned).max()), 2)
            sound = (held / full).max(axis=2) < 0.9
            np.testing.assert_array_equal(found[sound], held.astype(np.float32)[sound])

    def test_what_is_wholly_full_has_the_hue_around_it_and_white_is_white(self) -> None:
        full = np.array(raws.AS_SHOT)
        held = np.minimum(np.full((80, 80, 3), 0.5), 1) * np.ones(3)
        held[20:60, 20:60] = full
        found = Hues(held.astype(np.float32), raws.AS_SHOT).recovered(held.astype(np.float32), 0)
        middle = found[40, 40]
        np.testing.assert_allclose(middle, middle[1], rtol=1e-4)
        self.assertGreaterEqual(float(middle.min()), max(full) * 0.999)

    def test_strips_are_as_the_whole(self) -> None:
        held = np.random.default_rng(3).uniform(0, 2, (90, 70, 3)).astype(np.float32)
        hues = Hues(held, raws.AS_SHOT)
        whole = hues.recovered(held, 0)
        np.testing.assert_array_equal(hues.recovered(held[33:61], 33), whole[33:61])


def _hue(picture: Floats) -> Floats:
    wide = picture @ CAMERA.to_wide.T
    across, down = wide[..., 0] - wide[..., 1], (wide[..., 0] + wide[..., 1] - 2 * wide[..., 2]) / np.sqrt(3)
    return np.asarray(np.degrees(np.arctan2(down, across)) % 360)


class DemosaicTest(TestCase):
    def test_an_even_colour_stays_even(self) -> None:
        for quality in ("fine", "quick"):
            mosaic = np.full((40, 40), 0.25, np.float32)
            np.testing.assert_allclose(demosaiced(mosaic, ((0, 1), (1, 2)), quality), 0.25, atol=1e-5)  # type: ignore[arg-type]

    def test_what_lies_beyond_reach_changes_nothing(self) -> None:
        mosaic = np.random.default_rng(2).uniform(0, 1, (160, 120)).astype(np.float32)
        whole = demosaiced(mosaic, ((0, 1), (1, 2)), "fine")
        part = demosaiced(mosaic[60 - REACH : 100 + REACH], ((0, 1), (1, 2)), "fine")
        np.testing.assert_allclose(part[REACH:-REACH], whole[60:100], atol=2e-5)

    def test_below_black_noise_keeps_its_mean(self) -> None:
        noise = np.random.default_rng(5).normal(0, 0.004, (200, 200)).astype(np.float32)
        self.assertLess(abs(float(demosaiced(noise, ((0, 1), (1, 2)), "fine").mean())), 2e-4)


class DevelopTest(RawTestCase):
    def setUp(self) -> None:
        super().setUp()
        truth = np.random.default_rng(7).uniform(0.2, 0.5, (3, 4, 3))
        self.truth = cv2.resize(truth, (80, 60), interpolation=cv2.INTER_NEAREST)
        path = write_raw(self.folder / "patches.dng", mosaic_of(seen(self.truth)), lens="none")
        self.source = self.opened(path)

    def light(self, step: Develop) -> Floats:
        stage = result_stage(plan_of_steps([step], self.source.size), self.source.stage())
        wide = transfer_of(wide_profile()).light(stage.render(stage.size.region, Run()))
        balanced = wide.astype(np.float64) @ np.linalg.inv(CAMERA.to_wide).T
        return np.asarray(balanced[10::20, 10::20])

    def test_as_shot_it_is_the_scene(self) -> None:
        np.testing.assert_allclose(self.light(Develop()) @ MATRIX.T, self.truth[10::20, 10::20], atol=0.004)

    def test_exposure_multiplies_light(self) -> None:
        np.testing.assert_allclose(self.light(Develop(ev=-1)), self.light(Develop()) / 2, atol=1e-4)

    def test_a_white_balance_multiplies_the_sensors_colours(self) -> None:
        gains = np.divide(CAMERA.multipliers(4000, 8), raws.AS_SHOT)
        made = self.light(Develop(white="kelvin", kelvin=4000, tint=8, ev=-1))
        np.testing.assert_allclose(made, self.light(Develop(ev=-1)) * gains, atol=2e-3)

    def test_a_place_that_should_be_grey_is(self) -> None:
        wide = transfer_of(wide_profile()).light(self.source.stage().render(Region(10, 10, 1, 1), Run()))[0, 0]
        step, reasons = Develop().started(None, tuple(float(one) for one in wide))  # type: ignore[arg-type]
        self.assertEqual(step.white, "grey")
        self.assertIn("as it was shot", reasons[0])
        place = self.light(step.model_copy(update={"ev": -1.0}))[0, 0]
        np.testing.assert_allclose(place, place[1], rtol=2e-3)

    def test_highlights_are_cut_off_or_fitted_below_white(self) -> None:
        bright = write_raw(self.folder / "bright.dng", mosaic_of(seen(self.truth * 4)), lens="none")
        self.source = self.opened(bright)
        fitted, cut = self.light(Develop(ev=-1)), self.light(Develop(ev=-1, highlights=0))
        self.assertGreater(float(fitted.max()), float(cut.max()) + 0.1)
        self.assertLessEqual(float(cut.max()), 0.5001)
        wide = self.light(Develop()) @ CAMERA.to_wide.T
        self.assertLessEqual(float(wide.max()), 1.0001)

    def test_regions_are_as_the_whole_in_any_way(self) -> None:
        for step in (Develop(), Develop(quality="quick", white="kelvin", kelvin=3000, highlights=40, ev=0.5)):
            stage = result_stage(plan_of_steps([step], self.source.size), self.source.stage())
            whole = stage.render(stage.size.region, Run())
            part = Region(13, 7, 31, 22)
            np.testing.assert_allclose(stage.render(part, Run()), whole[part.slices(stage.size.region)], atol=1 / 65535)
