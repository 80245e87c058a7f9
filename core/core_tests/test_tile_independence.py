"""The contract of the core: any region rendered alone is that region of the full render."""

from __future__ import annotations

from typing import get_args
from unittest import TestCase

import numpy as np

from core_tests.pictures import random_samples
from kitecore.engines import engines
from kitecore.geometry import Region, Size, grid
from kitecore.mask import Mask, Stroke
from kitecore.run import Run
from kitecore.stage import SampleStage, Stage
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Frame, GiveBack, Grain, Repair, Sharpen, Step
from kitecore.steps.deblur import FocusBlur, MotionBlur, SoftBlur
from kitecore.steps.enlarge import Blend, ByFactor, ByHeight, ByWidth
from kitecore.steps.frame import Crop
from kitecore.take import Plan, Take, plan

RESTORING = ["denoise", "repair", "deblur"]
PLAINLY = ["sharpen", "grain", "give-back"]
PLAIN, NETWORK = 1 / 65535, 1 / 255


class Takes:
    """Random takes; a method per kind of step, so that a step nobody makes here fails the test below."""

    def __init__(self, seed: int, cheaply: bool) -> None:
        self.random = np.random.default_rng(seed)
        #: Without networks, more steps can be tried.
        self.cheaply = cheaply

    def frame(self, size: Size) -> Step:
        random = self.random
        crop = None
        if random.random() < 0.7:
            width, height = int(random.integers(6, size.width + 1)), int(random.integers(6, size.height + 1))
            crop = Crop(
                x=int(random.integers(0, max(1, size.width - width))),
                y=int(random.integers(0, max(1, size.height - height))), width=width, height=height,
            )  # fmt: skip
        angle = float(random.uniform(-20, 20)) if random.random() < 0.6 else 0.0
        turns = int(random.choice([0, 2])) if crop else int(random.integers(4))
        return Frame(turns=turns, flip=bool(random.integers(2)), angle=angle, crop=crop)

    def enlarge(self, size: Size) -> Step:
        random = self.random
        names = [name for name, engine in engines().items() if engine.manifest.kind == "enlarge"]
        if self.cheaply:
            names = ["plain"]
        engine = str(random.choice(names))
        blend = Blend(engine=str(random.choice(names)), weight=40) if random.random() < 0.3 else None
        target = [
            ByFactor(factor=float(random.uniform(0.5, 4.5))),
            ByFactor(factor=float(random.choice([2, 3, 4]))),
            ByWidth(pixels=int(size.width * random.uniform(0.6, 3))),
            ByHeight(pixels=int(size.height * random.uniform(0.6, 3))),
        ][random.integers(4)]
        hold = float(random.choice([0, 0, 70]))
        return Enlarge(engine=engine, blend=blend, hold=hold, repeat=bool(random.random() < 0.25), target=target)

    def denoise(self, size: Size) -> Step:
        random = self.random
        luminance, colour, detail = random.uniform(0, 100), random.choice([0, 100]), random.choice([0, 0, 60])
        return Denoise(luminance=float(luminance), colour=float(colour), detail=float(detail))

    def repair(self, size: Size) -> Step:
        quality = int(self.random.integers(1, 101)) if self.random.random() < 0.5 else None
        banding = float(self.random.choice([0, 0, 80]))
        return Repair(strength=float(self.random.uniform(0, 100)), quality=quality, banding=banding)

    def deblur(self, size: Size) -> Step:
        random = self.random
        blurs = [
            FocusBlur(radius=float(random.uniform(0, 10))), SoftBlur(sigma=float(random.uniform(0, 5))),
            MotionBlur(angle=float(random.uniform(0, 180)), length=float(random.uniform(0, 30))),
        ]  # fmt: skip
        keep = float(random.choice([0, 0, 70]))
        return Deblur(blur=blurs[random.integers(3)], strength=float(random.uniform(0, 100)), keep_sharp=keep)

    def sharpen(self, size: Size) -> Step:
        random = self.random
        return Sharpen(
            amount=float(random.uniform(0, 250)), radius=float(random.uniform(0.3, 4)), detail=float(random.uniform(0, 100)),
            threshold=float(random.choice([0, 3])), edges=float(random.choice([0, 80])), shadows=float(random.choice([0, 60])),
        )  # fmt: skip

    def grain(self, size: Size) -> Step:
        random = self.random
        return Grain(
            amount=float(random.uniform(1, 20)),
            size=float(random.uniform(0.5, 6)),
            colour=float(random.choice([0, 50])),
        )

    def give_back(self, size: Size) -> Step:
        steps = [Sharpen(), Enlarge(engine="plain", target=ByFactor(factor=1.5))] if self.random.random() < 0.5 else []
        return GiveBack(steps=steps, mask=self.mask(Size(70, 70)))

    def mask(self, size: Size) -> Mask:
        random = self.random
        strokes = [
            Stroke(
                points=[(float(x), float(y)) for x, y in random.uniform(-5, 5 + size.width, (int(random.integers(1, 6)), 2))],
                size=float(random.uniform(2, 40)), softness=float(random.uniform(0, 100)), strength=float(random.uniform(20, 100)),
                erase=bool(random.random() < 0.3), edges=bool(random.random() < 0.4),
            )
            for _ in range(random.integers(1, 4))
        ]  # fmt: skip
        return Mask(strokes=strokes, inverted=bool(random.random() < 0.3))

    def take(self, size: Size) -> Take:
        steps: list[Step] = []
        source, kinds = size, ["frame", "enlarge", "frame", *(PLAINLY if self.cheaply else RESTORING)]
        for kind in self.random.permutation(kinds)[: self.random.integers(1, 6 if self.cheaply else 4)]:
            step: Step = getattr(self, str(kind).replace("-", "_"))(size)
            if kind != "frame" and self.random.random() < 0.4:
                step = step.model_copy(update={"mask": self.mask(source)})
            result = step.result_size(size)
            if min(result.width, result.height) >= 8 and result.pixels < 160_000:
                steps.append(step)
                size = result
        return Take.model_validate({"steps": [step.model_dump() for step in steps]})


def by_tiles(stage: Stage, tile: Size) -> np.ndarray:
    result = np.empty((stage.size.height, stage.size.width, stage.bands), np.float32)
    for part in grid(stage.size, tile):
        result[part.y : part.bottom, part.x : part.right] = stage.render(part, Run())
    return result


def tolerance(resolved: Plan) -> float:
    def plain(step: Step) -> bool:
        engines_used = {
            getattr(step, "engine", "plain"),
            blend.engine if (blend := getattr(step, "blend", None)) else "plain",
        }
        return engines_used == {"plain"}

    return PLAIN if all(plain(step) for step in resolved.steps) else NETWORK


class TileIndependenceTest(TestCase):
    def test_every_kind_of_step_is_tried(self) -> None:
        kinds = {step.model_fields["kind"].default for step in get_args(get_args(AnyStep)[0])}
        self.assertEqual(kinds, {kind for kind in kinds if hasattr(Takes, kind.replace("-", "_"))})

    def test_regions_do_not_depend_on_the_grid(self) -> None:
        for seed in range(60):
            makes = Takes(seed, cheaply=seed >= 24)
            bands = int(makes.random.choice([1, 3, 4]))
            height, width = int(makes.random.integers(12, 70)), int(makes.random.integers(12, 70))
            source = SampleStage(random_samples(height, width, bands, bits=16, seed=seed))
            take = makes.take(source.size)
            resolved = plan(take, source.size)
            stage = resolved.stage(source)
            self.assertEqual(stage.size, resolved.size)
            whole = stage.render(stage.size.region, Run())
            allowed = tolerance(resolved)
            with self.subTest(seed=seed, take=take.model_dump_json()):
                tiled = by_tiles(stage, Size(int(makes.random.integers(7, 60)), int(makes.random.integers(7, 60))))
                self.assertLessEqual(np.abs(whole - tiled).max(), allowed)
                for _ in range(3):
                    x, y = int(makes.random.integers(stage.size.width)), int(makes.random.integers(stage.size.height))
                    region = Region(
                        x, y, int(makes.random.integers(1, stage.size.width - x + 1)),
                        int(makes.random.integers(1, stage.size.height - y + 1)),
                    )  # fmt: skip
                    alone = stage.render(region, Run())
                    cut = whole[region.y : region.bottom, region.x : region.right]
                    self.assertLessEqual(np.abs(alone - cut).max(), allowed)

    def test_networks_leave_no_seams(self) -> None:
        """Far below the contract's 1/255: tiles of a network differ by rounding only."""
        source = SampleStage(random_samples(90, 80, 3, seed=5))
        resolved = plan(Take(steps=[Enlarge(engine="faithful", target=ByFactor(factor=3))]), source.size)
        stage = resolved.stage(source)
        whole = stage.render(stage.size.region, Run())
        self.assertLess(np.abs(whole - by_tiles(stage, Size(64, 50))).max(), 2e-5)

    def test_a_region_depends_on_no_more_than_its_reach(self) -> None:
        samples = random_samples(120, 120, 3, seed=9)
        resolved = plan(Take(steps=[Enlarge(engine="faithful", target=ByFactor(factor=2.5))]), Size(120, 120))
        region = Region(140, 140, 20, 20)
        far = samples.copy()
        inner = slice(56 - resolved.reach, 64 + resolved.reach)
        far[:] = 0
        far[inner, inner] = samples[inner, inner]
        first, second = (resolved.stage(SampleStage(pixels)).render(region, Run()) for pixels in (samples, far))
        self.assertLess(np.abs(first - second).max(), 2e-5)
