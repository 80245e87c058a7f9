"""Make the demo's clip of somebody of Tern Sands, who does not exist: she blinks, looks aside, and into the camera.

    python demo/make_portrait_clip.py FOLDER

Needs what lab/people.py needs, and PyAV. Frames that FOLDER holds already are not rendered again.
"""

from __future__ import annotations

import math
import sys
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from clip_file import write_clip
from make_people import HERE, SOLO, Body, Look, Person, backdrop, laid, portraits

from kitecore.engines import engine_named

FRAMES, SIZE, RATE, SIDE, SAMPLES, NOISE = 40, (640, 480), 25, 700, 14, 5.0
#: How far lids are down, and how far eyes look aside, by frame; between them it goes over.
LIDS = {0: 0.0, 5: 0.0, 7: 1.0, 9: 1.0, 11: 0.05, 20: 0.3, 23: 0.0, 30: 0.0, 32: 1.0, 34: 0.1, 39: 0.4}
ASIDE = {0: 0.45, 4: 0.4, 8: 0.0, 13: 0.0, 16: -0.45, 21: -0.4, 24: 0.0, 34: 0.0, 38: 0.3}
#: Where the camera looks for its focus.
SOFT = {12: 0.0, 13: 1.2, 14: 0.6, 15: 0.0}


class Sitter(Person):
    """Somebody whose eyes do what they are told."""

    lids, aside = 0.0, 0.0

    def expression(self, chance: np.random.Generator) -> dict[str, float]:
        actions = super().expression(np.random.default_rng([self.seed, 77]))
        for side in ("Left", "Right"):
            actions[f"eyeBlink{side}"] = self.lids
            actions[f"eyeWide{side}"] = 0.25 * (1 - self.lids)
            actions[f"eyeSquint{side}"] = 0.0
            actions[f"mouthSmile{side}"], actions[f"mouthFrown{side}"], actions[f"browDown{side}"] = 0.45, 0.0, 0.0
        return actions

    def meshes(self, chance: np.random.Generator, toward: Any) -> Any:
        return super().meshes(chance, np.asarray(toward) + np.array([self.aside, 0, 0]))


def between(told: dict[int, float], frame: int) -> float:
    return float(np.interp(frame, list(told), list(told.values())))


def rendered(folder: Path, sitter: Sitter, body: Body, frame: int) -> np.ndarray:
    path = folder / f"portrait {frame:02}.npy"
    if not path.exists():
        sitter.lids, sitter.aside = between(LIDS, frame), between(ASIDE, frame)
        made, _ = portraits.portrait(body, sitter, 0, SAMPLES, [], SIDE, posed=True)
        cut = made.astype(np.float32) / 255
        around = np.pad(cut[..., :3], ((26, 26), (26, 26), (0, 0)), mode="reflect")
        maps = np.broadcast_to(np.float32([0.8, 1.0]), (*around.shape[:2], 2))
        cut[..., :3] = engine_named("denoise", "denoise").restore(around, maps)[26:-26, 26:-26]
        np.save(path, cut)
        print(frame, flush=True)
    return np.asarray(np.load(path))


def seen(behind: np.ndarray, cut: np.ndarray, frame: int) -> np.ndarray:
    """A frame of 255: the sitter before the workshop, from a hand that does not quite hold still."""
    whole = behind.copy()
    laid(whole, cut, (SIZE[0] + 40 - SIDE) // 2, SIZE[1] + 40 - round(0.82 * SIDE))
    held = np.float32([[1, 0, -20 + 2.2 * math.sin(0.9 * frame)], [0, 1, -20 + 1.8 * math.cos(0.7 * frame)]])
    shown = 255 * cv2.warpAffine(whole, held, SIZE, flags=cv2.INTER_CUBIC)
    soft = between(SOFT, frame) if frame <= max(SOFT) else 0.0
    return cv2.GaussianBlur(shown, (0, 0), soft) if soft > 0 else shown


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    body = Body()
    sitter = Sitter(body, Look.of(body), SOLO)
    cuts = [rendered(folder, sitter, body, frame) for frame in range(FRAMES)]
    behind = backdrop("workshop-night.jpg", SIZE[0] + 40, SIZE[1] + 40, 9.0) * 0.85 + 0.08
    frames = (seen(behind, cut, frame) for frame, cut in enumerate(cuts))
    write_clip(HERE / "clips" / "Wren in the workshop.mp4", frames, SIZE, RATE, NOISE, 40)


if __name__ == "__main__":
    main()
