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
from functools import partial
from pathlib import Path

import numpy as np
from judge_enlarging import judge_enlarging
from judge_faces import judge_faces
from judge_restoring import JUDGES as RESTORING
from recipe import Table, recipe_named, shipped_recipes
from reserved import reserved_pictures

from kitecore.engines import engines
from kitecore.steps import step_classes
from kitecore.takes.render import render_array

JUDGES = {**RESTORING, "faces": judge_faces, "lively": partial(judge_faces, "lively")}
ENGINES = Path(__file__).parent.parent / "core/kitecore/engines"


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
    kind = engines()[name].manifest.kind
    step = next(cls for cls in step_classes() if cls.engine_kind == kind).showing(name)
    factor = 4 if step.scales else 1
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
    names = options.engines or ["plain", *shipped_recipes()]
    if options.speed:
        peak = peak_arithmetic()
        print(f"matrix product: {peak / 1e9:.0f} GFLOP/s")
        for name in names:
            speed = speed_of(name, peak)
            print(name, json.dumps(speed), flush=True)
            if options.write:
                written(name, {"speed": speed}, kept=("pictures", "shelf", "measured", "lanczos", "bars"))
        return
    plain = judge_enlarging("plain") if any(name not in JUDGES for name in names) else {}
    for name in names:
        table = JUDGES[name]() if name in JUDGES else plain if name == "plain" else judge_enlarging(name)
        bars = recipe_named(name).bars(table, plain) if name != "plain" else {}
        print(f"\n{name}\n{json.dumps(table, indent=1, ensure_ascii=False)}")
        for bar, passed in bars.items():
            print(f"  {'passed' if passed else 'MISSED'}  {bar}")
        if options.write:
            faces = "40 worn portraits of invented people kept from training"
            pictures = faces if name in ("faces", "lively") else ", ".join(reserved_pictures())
            shelf = recipe_named(name).lines(table, plain) if name != "plain" else []
            against = {"lanczos": plain} if name not in JUDGES and name != "plain" else {}
            written(name, {
                "pictures": f"Means over {pictures}, never trained on", "shelf": shelf, "measured": table, **against,
                "bars": {bar: bool(passed) for bar, passed in bars.items()},
            }, kept=("speed",))  # fmt: skip


if __name__ == "__main__":
    main()
