"""Judge what finds blemishes on photographs with drawn damage: whole things found, and how much of what is found is none.

PYTHONPATH=core .venv-lab/bin/python lab/judge_blemishes.py            # the reserved photographs
PYTHONPATH=core .venv-lab/bin/python lab/judge_blemishes.py --further  # others that nothing was learnt from
PYTHONPATH=core .venv-lab/bin/python lab/judge_blemishes.py --lab      # the lab's, on which thresholds are chosen
"""

from __future__ import annotations

import argparse

import cv2
import damage
import numpy as np
from patches import photographs
from reserved import every_reserved_picture, further_photographs, reserved_pictures
from spoiling import Spoilt, spoilt

from kitecore.pipeline.run import Run
from kitecore.reading.blemishes import Blemish, blemishes_in, finder

THINGS = 24
#: So many times every picture is damaged anew: one time has too few things to tell a share from.
ROUNDS = 3
LONGEST = 900
#: Pictures without any damage in which nothing should be found: lettering and even textures.
QUIET = ("text", "page", "grass", "gravel", "brick")


def covered(blemish: Blemish, shape: tuple[int, int]) -> np.ndarray:
    """What a stroke along a blemish covers, H×W bool."""
    canvas = np.zeros(shape, np.uint8)
    points = np.rint(np.asarray(blemish.points) - 0.5).astype(np.int32).reshape(-1, 1, 2)
    if len(points) > 1:
        cv2.polylines(canvas, [points], False, 1, max(1, round(blemish.size)))
    else:
        cv2.circle(canvas, tuple(int(one) for one in points[0, 0]), round(blemish.size / 2), 1, -1)
    return canvas.astype(bool)


class Score:
    """Counts over pictures."""

    def __init__(self) -> None:
        self.things = self.found = self.told = self.true = self.none = 0
        self.pixels = 0

    def add(self, drawn: Spoilt, found: list[Blemish]) -> None:
        things, shape = drawn.things, drawn.hidden.shape
        covers = [covered(one, shape) for one in found]
        all_found = np.any(covers, axis=0) if covers else np.zeros(shape, bool)
        # What cannot be seen need not be found, and is no mistake if it is.
        near = cv2.dilate((drawn.where | drawn.hidden).astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
        self.things += len(things)
        self.found += sum(bool((all_found & thing).sum() >= 0.5 * thing.sum()) for thing in things)
        self.told += len(found)
        self.true += sum(bool((near & cover).sum() >= 0.25 * cover.sum()) for cover in covers)

    def line(self) -> str:
        return (
            f"found {self.found / max(1, self.things):.3f} of {self.things}, "
            f"true {self.true / max(1, self.told):.3f} of {self.told}"
        )


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--lab", action="store_true")
    parser.add_argument("--further", action="store_true")
    options = parser.parse_args()
    chosen = small_photographs if options.lab else further_photographs if options.further else reserved_pictures
    pictures = chosen()
    levels = (0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.94, 0.97)
    scores = {level: Score() for level in levels}
    clean = dict.fromkeys(levels, 0)
    for index, (name, truth) in enumerate(pictures.items()):
        none = blemishes_in(_chances(truth), Run(), levels[0])
        for level in levels:
            clean[level] += sum(one.sure >= level for one in none)
        own = Score()
        for turn in range(ROUNDS):
            drawn = spoilt(truth, THINGS, np.random.default_rng([100 + index, turn]))
            found = blemishes_in(_chances(damage.eight(drawn.picture)), Run(), levels[0])
            for level in levels:
                scores[level].add(drawn, [one for one in found if one.sure >= level])
            own.add(drawn, [one for one in found if one.sure >= 0.85])
        print(f"{name:12} {own.line()}, undamaged {sum(one.sure >= 0.85 for one in none)}", flush=True)
    for level in levels:
        print(f"from {level}: {scores[level].line()}; in {len(pictures)} undamaged pictures {clean[level]}")
    if chosen is reserved_pictures:
        for name in QUIET:
            quiet = blemishes_in(_chances(every_reserved_picture()[f"{name}, whole"]), Run(), levels[0])
            print(f"{name}: {[sum(one.sure >= level for one in quiet) for level in levels]}")


def small_photographs() -> dict[str, np.ndarray]:
    """Every other photograph of the lab, no side longer than 900 px."""
    return {f"lab {index}": _small(one) for index, one in enumerate(photographs()[::2])}


def _chances(picture: np.ndarray) -> np.ndarray:
    return finder.chances(picture.astype(np.float32) / 255, Run())


def _small(picture: np.ndarray) -> np.ndarray:
    scale = LONGEST / max(picture.shape[:2])
    return cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else picture


if __name__ == "__main__":
    main()
