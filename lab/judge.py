"""Judge the engines on the reserved pictures: ground truth, no picture a network was trained on.

``python lab/judge.py`` runs the *shipped* engines through the core, beside plain Lanczos, and prints a
table of PSNR of luma (PSNR-Y) and SSIM; ``--write`` puts the measured quality into each engine's manifest.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
from damage import shrink

PHOTOGRAPHS = ("astronaut", "coffee", "chelsea", "rocket")
CORE = Path(__file__).parent.parent / "core"


def reserved_pictures() -> dict[str, np.ndarray]:
    """The sample photographs inside scikit-image, H×W×3 uint8, cut to sizes that 24 divides."""
    import skimage.data

    pictures = {}
    for name in PHOTOGRAPHS:
        pixels = getattr(skimage.data, name)()[..., :3]
        height, width = (side - side % 24 for side in pixels.shape[:2])
        pictures[name] = np.ascontiguousarray(pixels[:height, :width])
    return pictures


def luma(picture: np.ndarray) -> np.ndarray:
    """Y of Y'CbCr as ITU-R BT.601 codes it for RGB 0..255: 16 to 235, as the literature measures PSNR-Y."""
    return 16 + picture @ np.array([65.481, 128.553, 24.966]) / 255


def psnr_y(result: np.ndarray, truth: np.ndarray, border: int) -> float:
    """PSNR of luma in dB; both H×W×3 in 0..255, ``border`` pixels cut on every side, result rounded to 8 bit."""
    inner = slice(border, -border) if border else slice(None)
    a = luma(np.clip(np.rint(result), 0, 255).astype(np.float64))[inner, inner]
    b = luma(truth.astype(np.float64))[inner, inner]
    return float(10 * np.log10(255**2 / np.mean((a - b) ** 2)))


def psnr_table(run: Callable, factors: tuple[int, ...]) -> dict[str, float]:
    """PSNR-Y of a torch network ``run(N×3×H×W in 0..1, factor)`` on the reserved photographs."""
    import torch

    table = {}
    for factor in factors:
        scores = []
        for name, truth in reserved_pictures().items():
            small = torch.from_numpy(shrink(truth, factor).copy()).permute(2, 0, 1)[None].float() / 255
            padded = torch.nn.functional.pad(small, (16, 16, 16, 16), mode="reflect")
            with torch.no_grad():
                result = run(padded, factor)[0].permute(1, 2, 0).numpy() * 255
            edge = 16 * factor
            scores.append(psnr_y(result[edge:-edge, edge:-edge], truth, factor))
            table[f"x{factor} {name}"] = round(scores[-1], 2)
        table[f"x{factor} mean"] = round(float(np.mean(scores)), 3)
    return table


def judge(engine: str, factors: tuple[int, ...] = (2, 3, 4, 6, 8)) -> dict[str, dict[str, float]]:
    """Means over the reserved photographs for one shipped engine, by factor."""
    sys.path.insert(0, str(CORE))
    from skimage.metrics import structural_similarity

    from kitecore.render import render_array
    from kitecore.steps.enlarge import ByFactor, Enlarge

    table: dict[str, dict[str, float]] = {}
    for factor in factors:
        psnr, ssim = [], []
        for truth in reserved_pictures().values():
            source = shrink(truth, factor).astype(np.float32) / 255
            result = render_array(source, [Enlarge(engine=engine, target=ByFactor(factor=factor))]) * 255
            inner = slice(factor, -factor)
            psnr.append(psnr_y(result, truth, factor))
            ssim.append(structural_similarity(
                luma(np.clip(np.rint(result), 0, 255))[inner, inner], luma(truth)[inner, inner], data_range=255,
            ))  # fmt: skip
        table[str(factor)] = {"psnr_y": round(float(np.mean(psnr)), 2), "ssim": round(float(np.mean(ssim)), 4)}
    return table


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--write", action="store_true", help="put the measured quality into the manifests")
    options = parser.parse_args()
    tables = {name: judge(name) for name in ("plain", "faithful")}
    for factor, plain in tables["plain"].items():
        own = tables["faithful"][factor]
        print(
            f"×{factor}  Lanczos {plain['psnr_y']:.2f} dB {plain['ssim']:.4f}   "
            f"Faithful {own['psnr_y']:.2f} dB {own['ssim']:.4f}   {own['psnr_y'] - plain['psnr_y']:+.2f} dB"
        )
    if options.write:
        manifest = CORE / "kitecore/engines/faithful/engine.json"
        content = json.loads(manifest.read_text())
        content["quality"] = {
            "pictures": "astronaut, coffee, chelsea, rocket from scikit-image, bicubic-shrunk; means",
            "by_factor": tables["faithful"], "lanczos_by_factor": tables["plain"],
        }  # fmt: skip
        manifest.write_text(json.dumps(content, indent=2, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main()
