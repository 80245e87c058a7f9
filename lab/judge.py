"""Judge the engines on the reserved pictures: ground truth, and no picture a network was trained on.

    PYTHONPATH=core .venv-lab/bin/python lab/judge.py                 # every engine, printed
    PYTHONPATH=core .venv-lab/bin/python lab/judge.py crisp --write   # and kept in its manifest
    PYTHONPATH=core .venv-lab/bin/python lab/judge.py --speed --write # speed only, on an idle machine

Runs the *shipped* engines through the core, as the application does. Beside every engine stand plain Lanczos and the
best classic method of an open library (:mod:`classic`). ``--write`` also notes the bars of each engine that are passed.
"""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Callable
from pathlib import Path

import classic
import cv2
import damage
import numpy as np
from measures import (
    drift,
    grain_spectrum_ratio,
    haarpsi,
    out_of_range_on_flats,
    psnr_rgb,
    psnr_y,
    seam_energy,
    ssim_y,
    texture_ratio,
)
from reserved import LETTERING, grey_pictures, reserved_pictures
from watch import worn

from kitecore.engines import engines
from kitecore.pipeline.geometry import Size, grid
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.steps import AnyStep, Deblur, Denoise, Enlarge, Repair
from kitecore.steps.deblur import Blur, FocusBlur, MotionBlur, SoftBlur
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import plan
from kitecore.takes.render import render_array, result_stage
from kitecore.takes.take import Take

ENGINES = Path(__file__).parent.parent / "core/kitecore/engines"
ENLARGING = ("plain", "faithful", "crisp", "salvage", "drawn", "grainkeep")
RESTORING = ("denoise", "repair", "deblur")
FACTORS = (2, 3, 4, 6, 8)
TILE = 120

Table = dict[str, object]


def mean(values: list[float], digits: int = 2) -> float:
    return round(float(np.mean(values)), digits)


def by(steps: list[AnyStep], samples: np.ndarray) -> np.ndarray:
    """The core's result in 0..255."""
    return render_array(samples, steps) * 255


def enlarged(engine: str, small: np.ndarray, factor: int) -> np.ndarray:
    return by([Enlarge(engine=engine, target=ByFactor(factor=factor))], small)


def scores(results: list[tuple[np.ndarray, np.ndarray]], border: int) -> dict[str, float]:
    """Means over (result, truth)."""
    return {
        "psnr_y": mean([psnr_y(result, truth, border) for result, truth in results]),
        "ssim": mean([ssim_y(result, truth, border) for result, truth in results], 4),
        "haarpsi": mean([haarpsi(result, truth) for result, truth in results], 4),
    }


# --- engines that enlarge


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


def smooth_sky(engine: str) -> float:
    """Texture invented on a smooth 8-bit ramp, ×4: RMS, of 255, of what is finer than a Gaussian of σ 4."""
    y, x = np.mgrid[0:96, 0:96]
    ramp = np.stack([150 + 0.3 * y + 0.1 * x, 170 + 0.2 * y, 205 + 0.1 * y - 0.05 * x], axis=2)
    result = enlarged(engine, damage.eight(ramp), 4).astype(np.float32)
    fine = result - cv2.GaussianBlur(result, (0, 0), 4)
    return round(float(np.sqrt((fine[32:-32, 32:-32] ** 2).mean())), 3)


def seams(steps: list[AnyStep], samples: np.ndarray) -> tuple[float, float]:
    """(largest difference, of 255, between tiles and the whole; seam energy of a picture rendered by tiles)."""
    stage = result_stage(plan(Take(steps=steps), Size(samples.shape[1], samples.shape[0])), SampleStage(samples))
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
        "seams": {"tiles_against_whole": difference, "energy": energy},
    }  # fmt: skip


# --- engines that restore


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


# --- the bars, and what the shelf shows


def bars_of(name: str, table: Table, plain: Table) -> dict[str, bool]:
    """The bars of the engine and whether they are passed."""
    if name == "denoise":
        noise = table["noise"]
        return {
            f"{kind}: {least} dB over the best classic method": row["denoise"]
            >= max(row["non_local_means"], row["wavelet"]) + least
            for kind, row in noise.items()
            for least in ([1.5] if "sensor" in kind else [1.2])
        }
    if name == "repair":
        jpeg = table["jpeg"]
        bars = {
            f"JPEG {quality}: 0.8 dB": jpeg[quality]["repair"] >= jpeg[quality]["as_it_is"] + 0.8
            for quality in ("10", "20", "40")
        }
        return bars | {"JPEG 95: never worse": jpeg["95"]["least_gain"] >= 0}
    if name == "deblur":
        bars = {
            f"{kind}: 1.0 dB over Richardson–Lucy": row["deblur"] >= row["richardson_lucy"] + 1
            for kind, row in table["blur"].items()
        }
        return bars | {
            f"{kind}: no worse than the input when told wrong": min(row["told 0.8"], row["told 1.2"]) >= row["as_it_is"]
            for kind, row in table["blur"].items()
        }
    own, lanczos = table["by_factor"], plain["by_factor"]
    gain = {factor: own[factor]["psnr_y"] - lanczos[factor]["psnr_y"] for factor in own}
    common = {
        "no tile seams": table["seams"]["tiles_against_whole"] <= 1 and abs(table["seams"]["energy"]) < 0.005,
        "within the source's range on flats": own["4"]["beyond_source_on_flats"]
        <= max(2.0, lanczos["4"]["beyond_source_on_flats"]),
    }
    particular = {
        "faithful": lambda: {"×4: 1.0 dB over Lanczos": gain["4"] >= 1.0, "×2: 1.7 dB over Lanczos": gain["2"] >= 1.7},
        "crisp": lambda: {
            "texture 0.85 to 1.1 of the truth's": 0.85 <= own["4"]["texture"] <= 1.1,
            "flats at most 1.05": own["4"]["texture_on_flats"] <= 1.05, "no worse than Lanczos − 0.5 dB": gain["4"] >= -0.5,
        },
        "salvage": lambda: {
            "worn: 1.0 dB over Lanczos": table["worn_x4"]["psnr_y"] >= plain["worn_x4"]["psnr_y"] + 1.0,
            "worn: higher perceptual index": table["worn_x4"]["haarpsi"] > plain["worn_x4"]["haarpsi"],
        },
        "drawn": lambda: {
            "lettering: 3 dB over Lanczos": table["lettering_x4"] >= plain["lettering_x4"] + 3,
            "line art: 3 dB over Lanczos": table["line_art_x4"] >= plain["line_art_x4"] + 3,
        },
        "grainkeep": lambda: {"grain within 15 %": all(abs(band - 1) <= 0.15 for band in table["grain_x4"])},
    }  # fmt: skip
    return common | particular[name]()


def shelf_of(name: str, table: Table, plain: Table) -> list[dict[str, str]]:
    """The few figures people look at."""

    def line(measure: str, value: str, against: str) -> dict[str, str]:
        return {"measure": measure, "value": value, "against": against}

    if name == "denoise":
        return [
            line(kind.replace("sigma ", "noise σ "), f"{row['denoise']:.1f} dB", f"classic {max(row['non_local_means'], row['wavelet']):.1f}")
            for kind, row in table["noise"].items() if kind in ("sigma 15", "sigma 50", "sensor")
        ]  # fmt: skip
    if name == "repair":
        return [
            line(f"JPEG at {quality}", f"{row['repair']:.1f} dB", f"as it is {row['as_it_is']:.1f}")
            for quality, row in table["jpeg"].items() if quality in ("10", "20", "40")
        ]  # fmt: skip
    if name == "deblur":
        return [
            line(kind.replace("focus", "focus, radius").replace("motion", "movement of") + " px", f"{row['deblur']:.1f} dB", f"classic {row['richardson_lucy']:.1f}")
            for kind, row in table["blur"].items() if kind in ("focus 1.5", "focus 4", "motion 10")
        ]  # fmt: skip
    own, lanczos = table["by_factor"], plain["by_factor"]
    lines = [
        line(f"PSNR ×{factor}", f"{own[factor]['psnr_y']:.1f} dB", f"Lanczos {lanczos[factor]['psnr_y']:.1f}")
        for factor in ("2", "4")
    ]
    if name == "crisp":
        lines[0] = line("texture ×4", f"{own['4']['texture']:.0%}", f"Lanczos {lanczos['4']['texture']:.0%}")
    if name == "salvage":
        lines[0] = line("worn, ×4", f"{table['worn_x4']['psnr_y']:.1f} dB", f"Lanczos {plain['worn_x4']['psnr_y']:.1f}")
    if name == "drawn":
        lines[0] = line("line art ×4", f"{table['line_art_x4']:.1f} dB", f"Lanczos {plain['line_art_x4']:.1f}")
    if name == "grainkeep":
        lines[0] = line("grain kept ×4", f"{float(np.mean(table['grain_x4'])):.0%}", "of its power")
    lines.append(line("likeness ×4", f"{own['4']['haarpsi']:.3f}", f"Lanczos {lanczos['4']['haarpsi']:.3f}"))
    return lines


# --- speed


def peak_arithmetic() -> float:
    """Multiplications and additions a second of a large float32 matrix product on all cores."""
    matrix = np.random.default_rng(1).random((2048, 2048), np.float32)
    seconds = []
    for _ in range(5):
        began = time.perf_counter()
        matrix @ matrix
        seconds.append(time.perf_counter() - began)
    return 2 * 2048**3 / min(seconds)


def speed_of(name: str, peak: float) -> dict[str, float]:
    """Of a full render of 0.25 source megapixels, the best of three; and the bare network's share of the peak."""
    samples = np.random.default_rng(1).integers(0, 256, (512, 512, 3), dtype=np.uint8)
    step: AnyStep
    if name in JUDGES:
        step, factor = {"denoise": Denoise(), "repair": Repair(), "deblur": Deblur()}[name], 1
    else:
        step, factor = Enlarge(engine=name, target=ByFactor(factor=4)), 4
    seconds = []
    for _ in range(3):
        began = time.perf_counter()
        render_array(samples, [step])
        seconds.append(time.perf_counter() - began)
    operations = engines()[name].operations_per_pixel(factor)
    source = samples.shape[0] * samples.shape[1] / min(seconds)
    return {
        "source_megapixels_per_second": round(source / 1e6, 3),
        "output_megapixels_per_second": round(source * factor**2 / 1e6, 2),
        "share_of_peak": round(source * operations / peak, 3),
    }


def written(name: str, quality: Table, kept: tuple[str, ...]) -> None:
    """Put ``quality`` into the engine's manifest in the place of what stood there, but for the parts ``kept``."""
    path = ENGINES / name / "engine.json"
    manifest = json.loads(path.read_text())
    before = manifest.get("quality", {})
    manifest["quality"] = {part: before[part] for part in kept if part in before} | quality
    path.write_text(json.dumps(manifest, indent=2, ensure_ascii=False) + "\n")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("engines", nargs="*", help="all of them unless named")
    parser.add_argument("--write", action="store_true", help="put what is measured into the manifests")
    parser.add_argument("--speed", action="store_true", help="measure speed, and nothing else")
    options = parser.parse_args()
    names = options.engines or [name for name in (*ENLARGING, *RESTORING) if name in engines()]
    if options.speed:
        peak = peak_arithmetic()
        print(f"matrix product: {peak / 1e9:.0f} GFLOP/s")
        for name in names:
            speed = speed_of(name, peak)
            print(name, json.dumps(speed), flush=True)
            if options.write:
                written(name, {"speed": speed}, kept=("pictures", "shelf", "measured", "lanczos", "bars"))
        return
    plain = judge_enlarging("plain") if any(name in ENLARGING for name in names) else {}
    for name in names:
        table = JUDGES[name]() if name in JUDGES else plain if name == "plain" else judge_enlarging(name)
        bars = bars_of(name, table, plain) if name != "plain" else {}
        print(f"\n{name}\n{json.dumps(table, indent=1, ensure_ascii=False)}")
        for bar, passed in bars.items():
            print(f"  {'passed' if passed else 'MISSED'}  {bar}")
        if options.write:
            pictures = ", ".join(reserved_pictures())
            shelf = shelf_of(name, table, plain) if name != "plain" else []
            against = {"lanczos": plain} if name in ENLARGING and name != "plain" else {}
            written(name, {
                "pictures": f"Means over {pictures}, never trained on", "shelf": shelf, "measured": table, **against,
                "bars": {bar: bool(passed) for bar, passed in bars.items()},
            }, kept=("speed",))  # fmt: skip


if __name__ == "__main__":
    main()
