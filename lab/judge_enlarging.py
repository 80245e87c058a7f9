"""The judge of engines that enlarge: clean sources, worn ones, lettering, line art, grain, smooth sky, seams."""

from __future__ import annotations

import cv2
import damage
import numpy as np
from judged import enlarged, mean, scores
from measures import (
    FLAT,
    drift,
    grain_spectrum_ratio,
    out_of_range_on_flats,
    psnr_y,
    seam_energy,
    texture,
    texture_ratio,
)
from recipe import Table
from reserved import LETTERING, grey_pictures, reserved_pictures
from watch import worn

from kitecore.pipeline.geometry import Size, grid
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import AnyStep, Enlarge
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage

FACTORS = (2, 3, 4, 6, 8)
TILE = 120


def clean_sources(engine: str) -> dict[str, dict[str, float]]:
    """By factor, on bicubic-shrunk photographs; one factor cut at the border."""
    table = {}
    for factor in FACTORS:
        sources = [(damage.shrink(truth, factor), truth) for truth in reserved_pictures().values()]
        results = [(enlarged(engine, small, factor), truth) for small, truth in sources]
        table[str(factor)] = scores(results, factor)
        if factor in (2, 4):
            ratios = [texture_ratio(result, truth) for result, truth in results]
            table[str(factor)] |= {
                "texture": mean([textured for textured, _ in ratios], 3),
                "texture_on_flats": mean([flat for _, flat in ratios], 3),
                "drift_de2000": mean([drift(result, truth) for result, truth in results], 3),
                "beyond_source_on_flats": mean([
                    out_of_range_on_flats(result, small, factor)
                    for (result, _), (small, _) in zip(results, sources, strict=True)
                ]),
            }  # fmt: skip
    return table


def worn_sources(engine: str) -> dict[str, float]:
    """×4 from noise σ 8, blur σ 1.2, JPEG 60."""
    random = np.random.default_rng(11)
    truths = list(reserved_pictures().values())
    return scores([(enlarged(engine, worn(truth, 4, random), 4), truth) for truth in truths], 4)


def lettering(engine: str) -> float:
    """Mean PSNR-Y ×4 on scanned lettering."""
    truths = grey_pictures(LETTERING).values()
    return mean([psnr_y(enlarged(engine, damage.shrink(truth, 4), 4), truth, 4) for truth in truths])


def line_art(engine: str) -> float:
    """Mean PSNR-Y ×4 on drawings made for the judge alone (seeds that training never draws)."""
    from drawings import FONTS, Sheet

    fonts = sorted(FONTS.iterdir())
    truths = [np.asarray(Sheet(fonts, seed).finished())[:624, :624] for seed in range(9000, 9006)]
    return mean([psnr_y(enlarged(engine, damage.shrink(truth, 4), 4), truth, 4) for truth in truths])


def grain(engine: str) -> list[float]:
    """Power of grain kept in three bands of frequency, on flat grey with film grain, ×4."""
    random = np.random.default_rng(5)
    kept = []
    for sigma, softness in ((4, 0.4), (8, 0.6), (12, 0.9)):
        flat = np.full((192, 192, 3), 120, np.uint8)
        source = damage.eight(damage.grainy(flat, sigma, softness, 0.3, random))
        kept.append(grain_spectrum_ratio(enlarged(engine, source, 4), source, 4))
    return [mean(list(band), 3) for band in zip(*kept, strict=True)]


def invented(engine: str) -> float:
    """Texture of ×4 results ÷ the truth's where photographs are flat or merely grainy: prints with film grain, as JPEG."""
    random = np.random.default_rng(17)
    ratios = []
    for truth in reserved_pictures().values():
        calm = texture(truth)
        flat = calm <= np.quantile(calm, FLAT)
        for sigma, softness, quality in ((4, 0.6, 85), (7, 0.9, 75)):
            grained = damage.eight(damage.grainy(truth, sigma, softness, 0.2, random))
            source = damage.jpeg(damage.shrink(grained, 4), quality)
            made = texture(np.clip(np.rint(enlarged(engine, source, 4)), 0, 255).astype(np.uint8))
            ratios.append(float(made[flat].mean() / texture(grained)[flat].mean()))
    return mean(ratios, 3)


def smooth_sky(engine: str) -> float:
    """Texture invented on a smooth 8-bit ramp, ×4: RMS, of 255, of what is finer than a Gaussian of σ 4."""
    y, x = np.mgrid[0:96, 0:96]
    ramp = np.stack([150 + 0.3 * y + 0.1 * x, 170 + 0.2 * y, 205 + 0.1 * y - 0.05 * x], axis=2)
    result = enlarged(engine, damage.eight(ramp), 4).astype(np.float32)
    fine = result - cv2.GaussianBlur(result, (0, 0), 4)
    return round(float(np.sqrt((fine[32:-32, 32:-32] ** 2).mean())), 3)


def seams(steps: list[AnyStep], samples: np.ndarray) -> tuple[float, float]:
    """(largest difference, of 255, between tiles and the whole; seam energy of a picture rendered by tiles)."""
    stage = result_stage(plan_of_steps(steps, Size(samples.shape[1], samples.shape[0])), SampleStage(samples))
    whole = stage.render(stage.size.region, Run()) * 255
    tiled = np.empty_like(whole)
    for part in grid(stage.size, Size(TILE, TILE)):
        tiled[part.y : part.bottom, part.x : part.right] = stage.render(part, Run()) * 255
    return round(float(np.abs(tiled - whole).max()), 4), round(seam_energy(tiled, whole, TILE), 5)


def judge_enlarging(engine: str) -> Table:
    photograph = damage.shrink(reserved_pictures()["astronaut"], 4)
    difference, energy = seams([Enlarge(engine=engine, target=ByFactor(factor=4))], photograph)
    return {
        "by_factor": clean_sources(engine), "worn_x4": worn_sources(engine), "lettering_x4": lettering(engine),
        "line_art_x4": line_art(engine), "grain_x4": grain(engine), "smooth_sky_x4": smooth_sky(engine),
        "invented_x4": invented(engine), "seams": {"tiles_against_whole": difference, "energy": energy},
    }  # fmt: skip
