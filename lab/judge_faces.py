"""The judge of networks that restore faces: people kept from training, their faces small and worn, beside every engine."""

from __future__ import annotations

import numpy as np
from face_patches import cut_square, enlarged, finer_of, portraits, worn
from judged import mean
from measures import ssim_y
from recipe import Table
from recipes.faces import psnr_y

from kitecore.engines import engine_named
from kitecore.faces import FaceSquare
from kitecore.faces.mesh import mesh_of
from kitecore.pipeline.geometry import Place
from kitecore.steps.faces_stage import restored_square

WIDTHS, COUNT, SIDE = (24, 32, 48, 64), 40, 160
BEFORE = ("plain", "faithful", "crisp", "salvage")


def judge_faces(name: str = "faces") -> Table:
    """By width of the face in its source: PSNR-Y of the middle of the square, structure, texture against the truth's, landmarks.

    What is restored comes from each of the engines before it; the best of them is told, and the best of those restored.
    """
    table: dict[str, dict[str, object]] = {}
    people, network = portraits(reserved=True), engine_named(name, "faces")
    # Lively goes on from what Steady made, and is judged by people with skin as calm as on photographs.
    steady = engine_named("faces", "faces") if name == "lively" else None
    people = [one.calmed() for one in people] if steady else people
    for width in WIDTHS:
        scores: dict[str, list[tuple[float, float, float, float]]] = {}
        for index in range(COUNT):
            one = people[(index * 7) % len(people)]
            factor = one.width / width
            small = worn(one.pixels, factor, np.random.default_rng([width, index]))
            square = one.square(np.random.default_rng([width, index, 1]))
            truth = cut_square(one.pixels.astype(np.float32) / 255, square, SIDE)
            finer = finer_of(factor * SIDE / square.side)
            for engine in BEFORE:
                given = cut_square(enlarged(small, one.pixels.shape[0], engine), square, SIDE)
                before = restored_square(steady, given, finer) if steady else given
                for restored, made in ((False, given), (True, restored_square(network, before, finer))):
                    scores.setdefault(f"{engine}{' + faces' if restored else ''}", []).append(_scores(made, truth))
        means = {
            way: [mean([one[part] for one in found], digits) for part, digits in ((0, 2), (1, 4), (2, 3), (3, 4))]
            for way, found in scores.items()
        }
        best = max((way for way in means if "+" not in way), key=lambda way: means[way][0])
        ours = max((way for way in means if "+" in way), key=lambda way: means[way][0])
        table[str(width)] = {
            "best_engine": means[best][0], "best_engine_is": best, "best_engine_ssim": means[best][1],
            "best_engine_texture": means[best][2], "best_engine_landmarks": means[best][3],
            "faces": means[ours][0], "faces_after": ours.split(" +")[0], "ssim": means[ours][1], "texture": means[ours][2],
            "landmarks": means[ours][3],
            "all": {way: found[0] for way, found in means.items()},
        }  # fmt: skip
    return {"faces": table}


def _scores(made: np.ndarray, truth: np.ndarray) -> tuple[float, float, float, float]:
    """PSNR-Y and structure of the middle of a square, the strength of its fine texture ÷ the truth's, and landmarks."""
    edge = SIDE // 6
    middle = (slice(edge, -edge), slice(edge, -edge))
    fine = [np.abs(np.diff(one[middle].mean(axis=2), axis=0)).mean() for one in (made, truth)]
    structure = ssim_y(255 * np.clip(made[middle], 0, 1), 255 * truth[middle])
    return psnr_y(made, truth), structure, float(fine[0] / fine[1]), _landmarks(made, truth)


def _landmarks(made: np.ndarray, truth: np.ndarray) -> float:
    """How far the places of a face are from where they are in the truth, in widths of the face."""
    square = FaceSquare(Place(SIDE / 2, SIDE / 2), SIDE, 0.0)
    places = [mesh_of(np.ascontiguousarray(one, np.float32), square).places for one in (made, truth)]
    return float(np.hypot(*(places[0] - places[1]).T).mean() / square.face_width)
