"""Speed and memory of the core on this machine; see bin/bench. Nothing here is a test: figures depend on the machine."""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import pyvips

from kitecore.colour.screen import screen_png
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.engines import Engine
from kitecore.engines.engine import provider
from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.region_cache import RegionCache, region_key
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage
from kitecore.reading.spots import propose_spots
from kitecore.steps import Denoise, Enlarge
from kitecore.steps.enlarge import ByFactor
from kitecore.takes.plan import Plan, plan
from kitecore.takes.render import result_stage
from kitecore.takes.take import Take

FACTOR = 4


def picture(width: int, height: int) -> np.ndarray:
    """Something with structure everywhere, uint8 H×W×3."""
    random = np.random.default_rng(1)
    coarse = random.integers(0, 256, (height // 16 + 1, width // 16 + 1, 3), dtype=np.uint8)
    image = pyvips.Image.new_from_memory(coarse.tobytes(), coarse.shape[1], coarse.shape[0], 3, "uchar")
    return np.asarray(image.resize(16).crop(0, 0, width, height).numpy())


def timed(action: Callable[[], object], times: int = 5, warm: bool = True) -> list[float]:
    """Seconds of each of several runs, after a first one that does not count if ``warm``."""
    if warm:
        action()
    seconds = []
    for _ in range(times):
        began = time.perf_counter()
        action()
        seconds.append(time.perf_counter() - began)
    return seconds


def middle(seconds: list[float]) -> str:
    return f"median {statistics.median(seconds) * 1000:7.1f} ms   (from {min(seconds) * 1000:.1f} to {max(seconds) * 1000:.1f})"


class Networks:
    """Time and work of every network that runs meanwhile, so that whatever slows the machine slows both alike."""

    def __enter__(self) -> Networks:
        self.seconds, self.operations, self._run = 0.0, 0.0, Engine._run
        networks = self

        def timed(self: Engine, pictures: Pixels, maps: Pixels | None, factor: int) -> Pixels:
            began = time.perf_counter()
            result = networks._run(self, pictures, maps, factor)
            networks.seconds += time.perf_counter() - began
            networks.operations += pictures.shape[0] * pictures.shape[1] * self.operations_per_pixel(factor)
            return result

        Engine._run = timed  # type: ignore[method-assign]
        return self

    def __exit__(self, *args: object) -> None:
        Engine._run = self._run  # type: ignore[method-assign]


def deliveries() -> None:
    """6-megapixel files written as 16-bit ZIP TIFF and read back, beside what the networks alone would take for them.

    That is the time they took in this very run, less what they computed twice around regions.
    """
    with TemporaryDirectory() as folder:
        path = Path(folder) / "in.png"
        image = picture(3000, 2000)
        pyvips.Image.new_from_memory(image.tobytes(), 3000, 2000, 3, "uchar").copy(interpretation="srgb").pngsave(
            str(path)
        )
        twice = Enlarge(target=ByFactor(factor=2))
        for steps in ([Denoise()], [twice], [Denoise(), twice], []):
            with Source(path) as source, Networks() as networks:
                resolved = plan(Take.model_validate({"steps": [step.model_dump() for step in steps]}), source.size)
                began = time.perf_counter()
                write_result(resolved, source, OutputSpec(), Path(folder) / "out.tif")
                seconds = time.perf_counter() - began
            alone = 0.0
            if networks.operations:
                needed = sum(work for engine, work in resolved.works.items() if engine)
                # Two regions are under way at once, and the second waits for the first.
                alone = min(networks.seconds, seconds) * needed / networks.operations
            named = " and ".join("×2" if step.kind == "enlarge" else step.kind for step in steps) or "as it is"
            ratio = f"networks alone {alone:5.1f} s, delivery ÷ networks {seconds / alone:.2f}" if alone else ""
            print(f"6 MP, {named:14} to 16-bit ZIP   {seconds:6.1f} s   {ratio}")


def region_latency() -> None:
    """A 384×256 view of a ×4 take: computed on a warm process, and from the cache, each to a PNG for the screen."""
    source = SampleStage(picture(900, 700))
    resolved = plan(Take(steps=[Enlarge(target=ByFactor(factor=FACTOR))]), source.size)
    stage = result_stage(resolved, source)
    region = Region(1234, 987, 384, 256)
    print(
        f"384×256 view, warm           {middle(timed(lambda: screen_png(stage.render(region, Run()), None), 9))}"
        "   (wanted: under 250 ms)"
    )
    with TemporaryDirectory() as folder:
        cache = RegionCache(Path(folder), 10**9)
        key = region_key("bench", resolved.chain, 0, region)

        def look() -> bytes:
            return screen_png(cache.get_or_render(key, lambda: stage.render(region, Run()), lambda: False), None)

        print(f"384×256 view, cached         {middle(timed(look, 9))}   (wanted: under 20 ms)")


def check_board() -> None:
    """Five takes by six spots of the demo's first picture at 200 %, as the server computes cells: cold, then cached."""
    demo = Path(__file__).parent.parent / "demo/pictures/Harbour wall 1988.jpg"
    with TemporaryDirectory() as folder, Source(demo) as source:
        cache = RegionCache(Path(folder), 10**9)
        spots = propose_spots(source, Run())[:6]
        engines = ("plain", "faithful", "crisp", "salvage", "grainkeep")
        plans = [
            plan(Take(steps=[Enlarge(engine=engine, target=ByFactor(factor=4))]), source.size) for engine in engines
        ]

        def cells() -> None:
            for resolved in plans:
                for spot in spots:
                    place = resolved.place_in_result(spot.place)
                    x = min(max(0, round(place.x) - 31), resolved.size.width - 62)
                    y = min(max(0, round(place.y) - 21), resolved.size.height - 42)
                    region = Region(x, y, 62, 42)

                    def render(resolved: Plan = resolved, region: Region = region) -> Pixels:
                        return result_stage(resolved, source.stage()).render(region, Run())

                    pixels = cache.get_or_render(region_key("bench", resolved.chain, 0, region), render, lambda: False)
                    screen_png(pixels, source.header.profile)

        (cold,) = timed(cells, times=1, warm=False)
        (warm,) = timed(cells, times=1, warm=False)
    print(
        f"check board, {len(plans)} takes × {len(spots)} spots    {cold:.2f} s cold, {warm:.2f} s cached   (wanted: 10 and 0.5)"
    )


def peak_memory(process: subprocess.Popen[bytes]) -> float:
    """The most memory a process ever had until it ended, in GiB.

    What getrusage tells of a child begins with its parent's memory; the kernel's own mark of the process does not.
    """
    peak, status = 0, Path(f"/proc/{process.pid}/status")
    while process.poll() is None:
        told = next((line for line in status.read_text().splitlines() if line.startswith("VmHWM")), None)
        peak = max(peak, int(told.split()[1])) if told else peak
        time.sleep(0.1)
    return peak / 1024 / 1024


def large_export(megapixels: float) -> None:
    """Peak memory and time of a 16-bit TIFF through the command line in a process of its own."""
    side = round((megapixels * 1e6) ** 0.5 / 8)
    with TemporaryDirectory() as folder:
        source = Path(folder) / "in.png"
        image = picture(side, side)
        pyvips.Image.new_from_memory(image.tobytes(), side, side, 3, "uchar").copy(interpretation="srgb").pngsave(
            str(source)
        )
        command = [
            sys.executable,
            "-m",
            "kitecore",
            "enlarge",
            str(source),
            str(Path(folder) / "out.tif"),
            "--factor",
            "8",
        ]
        began = time.perf_counter()
        with subprocess.Popen(command, stdout=subprocess.DEVNULL) as export:
            peak = peak_memory(export)
        seconds = time.perf_counter() - began
        if export.returncode:
            raise SystemExit(f"the export of {megapixels:.0f} MP failed")
        print(
            f"{megapixels:.0f} MP 16-bit TIFF (faithful ×8)   {seconds:.1f} s, {seconds / megapixels:.3f} s/MP, "
            f"peak {peak:.2f} GiB   (wanted: under 2 GiB)"
        )


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/bench", description=__doc__)
    parser.add_argument("--megapixels", type=float, nargs="*", default=[100, 600], help="sizes of the large exports")
    parser.add_argument("--only-exports", action="store_true", help="measure nothing but the large exports")
    options = parser.parse_args()
    print(f"{os.cpu_count()} processors, {provider()}")
    if not options.only_exports:
        region_latency()
        check_board()
        deliveries()
    for megapixels in options.megapixels:
        large_export(megapixels)


if __name__ == "__main__":
    main()
