"""Judge what covers damage on photographs with drawn damage: how much nearer to the truth, and how alike its surroundings.

PYTHONPATH=core .venv-lab/bin/python lab/judge_patches.py            # the reserved photographs
PYTHONPATH=core .venv-lab/bin/python lab/judge_patches.py --lab      # the lab's
"""

from __future__ import annotations

import argparse
from collections.abc import Callable

import cv2
import numpy as np
from judge_blemishes import THINGS, small_photographs
from reserved import reserved_pictures
from spoiling import spoilt

from kitecore.filters.filling import filled
from kitecore.filters.mending import best_offset, mended
from kitecore.pipeline.luma import luma
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

Where = np.ndarray
#: How much wider than what is damaged a stroke over it is, px to each side.
_MARGIN = 2
#: How far around a place counts as what lies around it, px.
_AROUND = 12
#: Of brightness, 0..1: what is finer counts as the same tone.
_LEAST = 0.5 / 255


def mend(picture: Pixels, where: Where, spoiled: Where) -> Pixels:
    """From where the picture is most alike nearby."""
    offset = best_offset(picture, where, spoiled, Run())
    if offset is None:
        return picture
    return mended(picture, np.roll(picture, (-offset.y, -offset.x), (0, 1)), where, Run())


def fill(picture: Pixels, where: Where, spoiled: Where) -> Pixels:
    return filled(picture, where, ~spoiled, Run())


def texture(picture: Pixels, where: Where) -> float:
    """Standard deviation of what is between 0.7 and 2 px fine, over some pixels of H×W×3."""
    grey = luma(picture)
    band = cv2.GaussianBlur(grey, (0, 0), 0.7) - cv2.GaussianBlur(grey, (0, 0), 2.0)
    return float(np.maximum(band[where].std(), _LEAST))


def decibels(ratio: float) -> float:
    return 20 * float(np.log10(max(ratio, 1e-9)))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--lab", action="store_true")
    pictures = small_photographs() if parser.parse_args().lab else dict(reserved_pictures())
    ways: dict[str, Callable[[Pixels, Where, Where], Pixels]] = {"mend": mend, "fill": fill}
    nearer: dict[str, list[float]] = {way: [] for way in ways}
    alike: dict[str, list[float]] = {way: [] for way in (*ways, "truth")}
    for index, (name, eight) in enumerate(pictures.items()):
        truth = eight.astype(np.float32) / 255
        drawn = spoilt(eight, THINGS, np.random.default_rng(100 + index))
        given = np.clip(drawn.picture, 0, 255).astype(np.float32) / 255
        kernel = np.ones((2 * _MARGIN + 1,) * 2, np.uint8)
        spoiled = cv2.dilate((drawn.where | drawn.hidden).astype(np.uint8), kernel).astype(bool)
        for thing in drawn.things:
            where = cv2.dilate(thing.astype(np.uint8), kernel).astype(bool)
            beside = (
                cv2.dilate(where.astype(np.uint8), np.ones((2 * _AROUND + 1,) * 2, np.uint8)).astype(bool) & ~spoiled
            )
            box = _box(cv2.dilate(beside.astype(np.uint8), np.ones((161, 161), np.uint8)).astype(bool))
            around = texture(truth[box], beside[box])
            before = float(np.sqrt(np.mean((given - truth)[thing] ** 2)))
            alike["truth"].append(decibels(texture(truth[box], where[box]) / around))
            for way, work in ways.items():
                made = work(given[box].copy(), where[box], spoiled[box])
                after = float(np.sqrt(np.mean((made - truth[box])[thing[box]] ** 2)))
                nearer[way].append(decibels(before / max(after, 1e-4)))
                alike[way].append(decibels(texture(made, where[box]) / around))
        print(f"{name:12} {len(drawn.things)} things", flush=True)
    for way, told in nearer.items():
        print(
            f"{way}: nearer by {np.mean(told):.1f} dB in the mean, by 6 at {np.mean(np.array(told) >= 6):.0%} of {len(told)}"
        )
    for way, told in alike.items():
        print(
            f"{way}: texture {np.mean(told):+.1f} dB against what lies around (median {np.median(told):+.1f}), "
            f"within 2 dB of the truth's own at {np.mean(np.abs(np.array(told) - np.array(alike['truth'])) <= 2):.0%}"
        )


def _box(where: Where) -> tuple[slice, slice]:
    ys, xs = np.nonzero(where)
    return slice(int(ys.min()), int(ys.max()) + 1), slice(int(xs.min()), int(xs.max()) + 1)


if __name__ == "__main__":
    main()
