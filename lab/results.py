"""Write ``lab/RESULTS.md``: what the judge measured, out of the manifests, as tables to be read.

.venv-lab/bin/python lab/results.py
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from recipe import shipped_recipes

HERE = Path(__file__).parent
ENGINES = HERE.parent / "core/kitecore/engines"
ENLARGING = [name for name, recipe in shipped_recipes().items() if recipe.shelf.kind == "enlarge"]
FACES = [name for name, recipe in shipped_recipes().items() if recipe.shelf.kind == "faces"]
RESTORING = [name for name in shipped_recipes() if name not in (*ENLARGING, *FACES)]


def manifest(name: str) -> dict[str, Any]:
    return json.loads((ENGINES / name / "engine.json").read_text())


def table(head: list[str], rows: list[list[object]]) -> list[str]:
    lines = ["| " + " | ".join(head) + " |", "|" + "---|" * len(head)]
    return [*lines, *("| " + " | ".join(str(cell) for cell in row) + " |" for row in rows), ""]


def enlarging() -> list[str]:
    lanczos = manifest("faithful")["quality"]["lanczos"]
    measured = {"Lanczos": lanczos} | {name: manifest(name)["quality"]["measured"] for name in ENLARGING}
    lines = [
        "## Enlarging",
        "",
        "Bicubic-shrunk photographs, one factor cut at the border: PSNR-Y dB / SSIM / HaarPSI.",
        "",
    ]
    cell = lambda row: f"{row['psnr_y']:.2f} / {row['ssim']:.3f} / {row['haarpsi']:.3f}"  # noqa: E731
    factors = list(lanczos["by_factor"])
    rows: list[list[object]] = [
        [name, *(cell(of["by_factor"][factor]) for factor in factors)] for name, of in measured.items()
    ]
    lines += table(["", *(f"×{factor}" for factor in factors)], rows)
    lines += [
        "All at ×4. Texture is the strength of the band σ 0.8 to 2.4 in 9×9 windows ÷ the truth's; worn is noise σ 8,",
        "blur σ 1.2, JPEG 60 before; grain is the power kept in three bands; sky is texture (RMS of 255) on a smooth ramp;",
        "invented is texture ÷ the truth's where a grainy print, compressed (JPEG 75, 85), shows nothing but its grain.",
        "",
    ]
    rows = []
    for name, of in measured.items():
        four, worn = of["by_factor"]["4"], of["worn_x4"]
        rows.append(
            [
                name,
                f"{four['texture']:.2f} / {four['texture_on_flats']:.2f}",
                four["drift_de2000"],
                four["beyond_source_on_flats"],
                f"{worn['psnr_y']:.2f} / {worn['haarpsi']:.3f}",
                of["lettering_x4"],
                of["line_art_x4"],
                " ".join(f"{band:.2f}" for band in of["grain_x4"]),
                of["smooth_sky_x4"],
                of.get("invented_x4", "–"),
                of["seams"]["tiles_against_whole"],
            ]
        )
    head = [
        "",
        "texture: textured / flat",
        "drift ΔE2000",
        "beyond source on flats",
        "worn",
        "scanned lettering dB",
        "line art dB",
        "grain",
        "sky",
        "invented",
        "seams of 255",
    ]
    lines += table(head, rows)
    drawn = manifest("drawn")["quality"]
    art = [drawn["lanczos"]["line_art_x4"], drawn["measured"]["line_art_x4"]]
    return [*lines, f"Line art of the judge's own, PSNR-Y ×4: Lanczos {art[0]} dB, Drawn {art[1]} dB.", ""]


def restoring() -> list[str]:
    denoise, repair, deblur = (manifest(name)["quality"]["measured"] for name in RESTORING)
    lines = [
        "## Denoise",
        "",
        "PSNR of RGB in dB, borders included. Classic methods with the best of several settings for each picture.",
        "",
    ]
    lines += table(
        ["noise", "as it is", "non-local means", "wavelet", "Denoise", "HaarPSI", "drift ΔE2000"],
        [[kind, *row.values()] for kind, row in denoise["noise"].items()],
    )
    lines += [f"Clean pictures come back with {denoise['clean_pictures_psnr']} dB.", ""]
    lines += ["## Repair", "", "PSNR-Y in dB. Classic: the best of bilateral filters and mild non-local means.", ""]
    lines += table(
        ["JPEG quality", "as it is", "classic", "Repair", "least gain of a picture", "HaarPSI", "quality not told"],
        [[quality, *row.values()] for quality, row in repair["jpeg"].items()],
    )
    lines += [
        "## Deblur",
        "",
        "PSNR of RGB in dB, noise σ 1.5; Richardson–Lucy with the best of 5 to 30 iterations.",
        "",
    ]
    return lines + table(
        ["blur", "as it is", "Richardson–Lucy", "Deblur", "told a fifth too little", "told a fifth too much"],
        [[kind, *row.values()] for kind, row in deblur["blur"].items()],
    )


def faces() -> list[str]:
    lines = [
        "## Faces",
        "",
        "PSNR-Y in dB and structure of the middle of the square; worn portraits of people kept from training. Landmarks: 468",
        "places of a face, told by a network that is not ours, against where it sees them in the truth.",
        "",
    ]
    for name in FACES:
        rows: list[list[object]] = [
            [
                f"{width} px", f"{row['best_engine']} / {row['best_engine_ssim']:.3f} ({row['best_engine_is']})",
                f"{row['faces']} / {row['ssim']:.3f} (after {row['faces_after']})", row["texture"],
                f"{row['landmarks'] / row['best_engine_landmarks']:.2f}",
            ]
            for width, row in manifest(name)["quality"]["measured"]["faces"].items()
        ]  # fmt: skip
        titles = ["width of the face", "best engine", manifest(name)["name"]]
        lines += table([*titles, "texture ÷ the truth's", "error of landmarks ÷ the best engine's"], rows)
    return lines


def bars_and_speed() -> list[str]:
    lines = ["## Bars", ""]
    rows: list[list[object]] = []
    for name in (*ENLARGING, *RESTORING, *FACES):
        bars = manifest(name)["quality"]["bars"]
        missed = [bar for bar, passed in bars.items() if not passed]
        rows.append([name, f"{len(bars) - len(missed)} of {len(bars)}", "; ".join(missed) or "none"])
    lines += table(["engine", "passed", "missed"], rows)
    lines += [
        "## Speed",
        "",
        "Full render through the core on two cores, and the share of the processor's measured peak (a large float32 matrix",
        "product).",
        "",
    ]
    rows = []
    for name in (*ENLARGING, *RESTORING, *FACES):
        speed = manifest(name)["quality"].get("speed")
        if speed:
            rows.append(
                [
                    name,
                    speed["source_megapixels_per_second"],
                    speed["output_megapixels_per_second"],
                    f"{speed['share_of_peak']:.0%}",
                ]
            )
    return lines + table(["engine", "source MP/s", "output MP/s (enlarging: ×4)", "share of peak"], rows)


def main() -> None:
    pictures = manifest("faithful")["quality"]["pictures"]
    lines = ["# What the judge measured", "", f"{pictures}. Written by `lab/results.py` from the manifests.", ""]
    lines += enlarging() + restoring() + faces() + bars_and_speed()
    (HERE / "RESULTS.md").write_text("\n".join(lines).rstrip() + "\n")


if __name__ == "__main__":
    main()
