from __future__ import annotations

import json
import os
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from core_tests import networks
from core_tests.pictures import random_samples, smooth
from kitecore.engines import engines, importing, probe
from kitecore.engines.importing import import_engine
from kitecore.errors import EngineError
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import Denoise, Enlarge
from kitecore.steps.enlarge import Blend, ByFactor
from kitecore.takes.engine_sample import engine_sample
from kitecore.takes.plan import plan
from kitecore.takes.render import render_array, result_stage
from kitecore.takes.take import Take


class ImportTest(TestCase):
    def setUp(self) -> None:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name) / "engines"
        places = patch.dict(os.environ, {"KITE_ENGINES": str(self.home)})
        places.start()
        self.addCleanup(places.stop)

    def manifest(self, **changes: Any) -> bytes:
        network = {"input": "picture", "outputs": {"2": "result"}, "reach": 0} | changes.pop("network", {})
        described = {"name": "Twofold", "purpose": "Repeats pixels.", "kind": "enlarge", **changes, "network": network}
        return json.dumps(described).encode()

    def refused(self, network: bytes, manifest: bytes) -> str:
        with self.assertRaises(EngineError) as raised:
            import_engine(network, manifest, self.home)
        kept = list(self.home.glob("*")) if self.home.exists() else []
        self.assertEqual(kept, [], "something of a refused engine was kept")
        return str(raised.exception)

    def test_an_engine_that_works_is_used_like_the_shipped_ones(self) -> None:
        made = import_engine(networks.nearest(), self.manifest(), self.home)
        self.assertEqual((made.id, made.factors), ("twofold", [2]))
        picture = smooth(20, 14)
        step = Enlarge(engine="twofold", target=ByFactor(factor=2))
        repeated = picture.repeat(2, axis=0).repeat(2, axis=1)
        np.testing.assert_allclose(render_array(picture, [step]), repeated, atol=1e-6)
        blended = step.model_copy(update={"blend": Blend(engine="plain", weight=100)})
        plain = render_array(picture, [Enlarge(engine="plain", target=ByFactor(factor=2))])
        np.testing.assert_allclose(render_array(picture, [blended]), plain, atol=1e-6)
        for side in ("before", "after"):
            self.assertEqual(engine_sample(engines()["twofold"], side)[8:12], b"WEBP")
        assert made.network is not None
        self.assertGreater(made.network.operations_per_pixel[2], 0)

    def test_a_network_with_a_stride_is_given_regions_on_its_grid(self) -> None:
        import_engine(networks.half_size_means(), self.manifest(network={"stride": 2, "reach": 1}), self.home)
        picture = smooth(22, 14)
        means = picture.reshape(11, 2, 7, 2, 3).mean(axis=(1, 3)).repeat(4, axis=0).repeat(4, axis=1)
        stage = result_stage(
            plan(Take(steps=[Enlarge(engine="twofold", target=ByFactor(factor=2))]), Size(14, 22)), SampleStage(picture)
        )
        for region in (stage.size.region, Region(3, 5, 9, 11), Region(6, 10, 4, 4), Region(27, 43, 1, 1)):
            cut = means[region.y : region.bottom, region.x : region.right]
            np.testing.assert_allclose(stage.render(region, Run()), cut, atol=1e-6)

    def test_values_are_brought_into_the_range_a_network_wants(self) -> None:
        import_engine(networks.nearest(), self.manifest(network={"range": [-1, 1]}), self.home)
        picture = smooth(12, 12)
        result = render_array(picture, [Enlarge(engine="twofold", target=ByFactor(factor=2))])
        np.testing.assert_allclose(result[::2, ::2], picture, atol=1e-6)

    def test_a_restoring_network_without_maps_has_strengths_all_the_same(self) -> None:
        manifest = self.manifest(name="Softener", kind="denoise", network={"outputs": {"1": "result"}, "reach": 1})
        import_engine(networks.box_blur(3), manifest, self.home)
        source = random_samples(20, 20, 3)
        given = render_array(source, [])
        whole = render_array(source, [Denoise(engine="softener", luminance=100, colour=100)])
        self.assertLess(whole.std(), given.std() * 0.6)
        # Without colour noise to be taken away no saturation is held, and half is half.
        all_of_it, half = (
            render_array(source, [Denoise(engine="softener", luminance=luminance, colour=0)]) for luminance in (100, 50)
        )
        np.testing.assert_allclose(half, (given + all_of_it) / 2, atol=1e-5)
        self.assertEqual(
            render_array(source, [Denoise(engine="softener", luminance=0, colour=0)]).tolist(), given.tolist()
        )

    def test_what_is_wrong_is_said(self) -> None:
        good = networks.nearest()
        for network, manifest, words in (
            (good, self.manifest(network={"outputs": {"3": "result"}}), "should be .* px"),
            (good, self.manifest(network={"outputs": {"2": "enlarged"}}), "no output “enlarged”"),
            (good, self.manifest(network={"input": "image"}), "no input “image”"),
            (networks.nearest(given=["n", 3, 64, 64]), self.manifest(), "only pictures of 64×64"),
            (networks.nearest(gain=255.0), self.manifest(), "does not show the picture"),
            (
                networks.foreign_operator(),
                self.manifest(network={"outputs": {"1": "result"}}, kind="repair"),
                "operator .*Fog",
            ),
            (
                networks.box_blur(9),
                self.manifest(network={"outputs": {"1": "result"}, "reach": 1}, kind="repair"),
                "reach of 1 px",
            ),
            (networks.hungry(), self.manifest(network={"outputs": {"1": "result"}}, kind="repair"), "memory"),
            (
                networks.endless(),
                self.manifest(network={"outputs": {"1": "result"}}, kind="repair"),
                r"decides .*\(Loop\)",
            ),
            (
                networks.undecided(),
                self.manifest(network={"outputs": {"1": "result"}}, kind="repair"),
                r"decides .*\(If\)",
            ),
            (
                networks.another_when_large(),
                self.manifest(network={"outputs": {"1": "result"}}, kind="repair"),
                "another one in a region of",
            ),
            (
                networks.hungry_when_large(),
                self.manifest(network={"outputs": {"1": "result"}}, kind="repair"),
                "memory for the regions",
            ),
            (b"not a network", self.manifest(), "not an ONNX network"),
            (b"", self.manifest(), "is empty"),
            (good, b"{", "not JSON"),
            (good, b"[]", "JSON object"),
            (good, self.manifest(kind="paint"), "kind"),
            (good, self.manifest(kind="denoise"), "factor 1"),
            (good, self.manifest(network={"outputs": {}}), "outputs"),
            (good, self.manifest(name="Faithful"), "already"),
            (good, self.manifest(name=""), "id"),
        ):
            with self.subTest(words=words):
                self.assertRegex(self.refused(network, manifest), words)

    def test_a_network_that_does_not_end_is_given_up(self) -> None:
        with patch.object(importing, "_PROBE_SECONDS", 0.01):
            said = self.refused(networks.nearest(), self.manifest())
        self.assertRegex(said, "not done")

    def test_too_large_a_file_is_not_even_tried(self) -> None:
        with patch.object(importing, "MOST_NETWORK_BYTES", 100):
            self.assertRegex(self.refused(networks.nearest(), self.manifest()), "at most")

    def test_an_engine_that_breaks_later_does_not_take_the_others_along(self) -> None:
        import_engine(networks.nearest(), self.manifest(), self.home)
        (self.home / "twofold" / "engine.json").write_text("{}")
        self.assertNotIn("twofold", engines())
        self.assertIn("faithful", engines())

    def test_one_that_seems_slow_is_tried_again_before_it_is_refused(self) -> None:
        picture = np.zeros((100, 100, 3), np.float32)
        for seconds, tries, fast in (([9.0, 0.1], 2, True), ([9.0] * 9, 3, False)):
            clock = iter(np.cumsum([step for one in seconds for step in (0.0, one)]))
            runs: list[np.ndarray] = []
            with patch("kitecore.engines.probe.time.perf_counter", lambda clock=clock: float(next(clock))):
                speed = probe._fairly(1000.0, lambda given, runs=runs: runs.append(given) or given, picture)
            self.assertEqual((len(runs), speed >= probe.LEAST_SPEED), (tries, fast))
