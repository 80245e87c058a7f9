"""The judge of engines that restore: noise, compression, blur, beside the best classic methods."""

from __future__ import annotations

from collections.abc import Callable

import classic
import damage
import numpy as np
from judged import by, mean
from measures import drift, haarpsi, psnr_rgb, psnr_y
from recipe import Table
from reserved import reserved_pictures

from kitecore.steps import Deblur, Denoise, Repair
from kitecore.steps.deblur import Blur, FocusBlur, MotionBlur, SoftBlur


def noise_tables() -> dict[str, list[tuple[np.ndarray, np.ndarray]]]:
    """(noisy uint8, truth) by kind of noise."""
    random = np.random.default_rng(3)
    truths = list(reserved_pictures().values())
    tables = {
        f"sigma {sigma}": [(damage.add_noise(truth, sigma, random), truth) for truth in truths]
        for sigma in (15, 25, 50)
    }
    tables["sensor"] = [(damage.eight(damage.sensor(truth, 260, 0.012, random)), truth) for truth in truths]
    tables["sensor, milder"] = [(damage.eight(damage.sensor(truth, 900, 0.006, random)), truth) for truth in truths]
    return tables


def judge_denoise() -> Table:
    step = Denoise(luminance=100, colour=100)
    table: dict[str, dict[str, float]] = {}
    for name, pairs in noise_tables().items():
        results = [(by([step], noisy), truth) for noisy, truth in pairs]
        table[name] = {
            "as_it_is": mean([psnr_rgb(noisy, truth) for noisy, truth in pairs]),
            "non_local_means": mean([psnr_rgb(classic.non_local_means(noisy, truth), truth) for noisy, truth in pairs]),
            "wavelet": mean([psnr_rgb(classic.wavelet(noisy, truth), truth) for noisy, truth in pairs]),
            "denoise": mean([psnr_rgb(result, truth) for result, truth in results]),
            "haarpsi": mean([haarpsi(result, truth) for result, truth in results], 4),
            "drift_de2000": mean([drift(result, truth) for result, truth in results], 3),
        }
    clean = [psnr_rgb(by([step], truth), truth) for truth in reserved_pictures().values()]
    return {"noise": table, "clean_pictures_psnr": mean(clean)}


def judge_repair() -> Table:
    table: dict[str, dict[str, float]] = {}
    for quality in (10, 20, 40, 70, 95):
        # As the application does it: a JPEG file tells its quality. The last column is without being told.
        step, untold = Repair(strength=100, quality=quality), Repair(strength=100)
        pairs = [(damage.jpeg(truth, quality), truth) for truth in reserved_pictures().values()]
        results = [(by([step], worn_one), truth) for worn_one, truth in pairs]
        table[str(quality)] = {
            "as_it_is": mean([psnr_y(worn_one, truth) for worn_one, truth in pairs]),
            "classic": mean([psnr_y(classic.smoothed(worn_one, truth), truth) for worn_one, truth in pairs]),
            "repair": mean([psnr_y(result, truth) for result, truth in results]),
            "least_gain": round(min(
                psnr_y(result, truth) - psnr_y(worn_one, truth)
                for (result, truth), (worn_one, _) in zip(results, pairs, strict=True)
            ), 2),
            "haarpsi": mean([haarpsi(result, truth) for result, truth in results], 4),
            "untold": mean([psnr_y(by([untold], worn_one), truth) for worn_one, truth in pairs]),
        }  # fmt: skip
    return {"jpeg": table}


def judge_deblur() -> Table:
    blurs: dict[str, Blur] = {f"focus {radius}": FocusBlur(radius=radius) for radius in (1.5, 2.5, 4)}
    blurs |= {
        f"motion {length}": MotionBlur(length=length, angle=angle) for length, angle in ((5, 20), (10, 75), (15, 140))
    }
    blurs |= {"soft 1.2": SoftBlur(sigma=1.2)}
    random = np.random.default_rng(3)
    table: dict[str, dict[str, float]] = {}
    for name, blur in blurs.items():
        pairs = [
            (damage.add_noise(damage.blurred(truth, blur.psf()), 1.5, random), truth)
            for truth in reserved_pictures().values()
        ]
        table[name] = {
            "as_it_is": mean([psnr_rgb(soft, truth) for soft, truth in pairs]),
            "richardson_lucy": mean([psnr_rgb(classic.lucy(soft, blur.psf(), truth), truth) for soft, truth in pairs]),
            "deblur": mean([psnr_rgb(by([Deblur(blur=blur)], soft), truth) for soft, truth in pairs]),
        }
        for share in (0.8, 1.2):
            wrong = blur.model_copy(
                update={
                    side: getattr(blur, side) * share for side in ("radius", "length", "sigma") if hasattr(blur, side)
                }
            )
            table[name][f"told {share}"] = mean(
                [psnr_rgb(by([Deblur(blur=wrong)], soft), truth) for soft, truth in pairs]
            )
    return {"blur": table}


JUDGES: dict[str, Callable[[], Table]] = {"denoise": judge_denoise, "repair": judge_repair, "deblur": judge_deblur}
