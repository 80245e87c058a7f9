"""The places of the demo, rendered with Mitsuba 3 (scalar, no screen needed): beach, workshop, loft, kites in the sky.

``python demo/scenes.py FOLDER`` writes linear RGB pictures (float32 .npy) for make_pictures.py to damage and save.
"""

from __future__ import annotations

import math
import sys
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from scene_parts import (
    BLUE,
    ORANGE,
    RED,
    TEAL,
    VIOLET,
    WHITE,
    YELLOW,
    T,
    camera,
    daylight,
    far_ground,
    grid_mesh,
    kite,
    line,
    principled,
    render,
)
from textures import coloured, fractal, panels, planks, stones


def beach(
    spp: int, size: tuple[int, int] = (1120, 840), sway: float = 0.0, held: tuple[float, float] = (0.0, 0.0)
) -> np.ndarray:
    """Harbour wall, sand, sea, one kite set down on the sand and two in the air.

    ``sway`` turns the kites in the air (degrees), ``held`` moves the hand that holds the camera.
    """
    rows, columns = 260, 260
    y, x = np.mgrid[-3:26:260j, -14:14:260j]
    dunes = 0.9 * fractal(rows, columns, 3, 4, 0.4) + 0.12 * fractal(rows, columns, 5, 8, 0.75)
    ripples = 0.025 * np.sin(9 * y + 5 * fractal(rows, columns, 8, 5) * 6)
    z = dunes * 0.45 + ripples - 0.06 * np.maximum(0, y - 10) - 0.4
    sand = coloured(fractal(1024, 1024, 11, 9, 0.8), (0.42, 0.32, 0.2), (0.8, 0.68, 0.48))
    sea_y, sea_x = np.mgrid[14:400:240j, -260:260:240j]  # beyond it the far sea is a plain disk
    waves = 0.14 * fractal(240, 240, 21, 8, 0.8, stretch=0.35)
    sea = np.stack([sea_x, sea_y, waves - 1.05], -1)
    scene: dict[str, Any] = {
        "sensor": camera(
            (-1.0 + held[0], -6.5, 1.7 + held[1]), (0.5 + 3 * held[0], 9, 1.9 + 3 * held[1]), 47, size, spp, lens=0.012
        ),
        "light": daylight(-0.9, 0.62),
        "sand": grid_mesh(np.stack([x, y, z], -1), principled(sand, 0.9), "sand"),
        "far-sea": far_ground(-1.1, principled((0.05, 0.13, 0.16), 0.25, specular=0.5)),
        "sea": grid_mesh(sea, principled((0.03, 0.12, 0.15), 0.12, specular=0.7), "sea"),
    }
    wall = stones(700, 2100, 9, 31)
    scene["wall"] = {
        "type": "cube", "to_world": T().translate([9.2, 17, 0.1]).rotate([0, 0, 1], 8).scale([5.2, 0.9, 1.7]),
        "bsdf": principled(wall, 0.85),
    }  # fmt: skip
    scene["wall-end"] = {
        "type": "cube", "to_world": T().translate([3.1, 15.6, 0.35]).rotate([0, 0, 1], 8).scale([0.9, 1.2, 2.0]),
        "bsdf": principled(stones(600, 500, 8, 37), 0.85),
    }  # fmt: skip
    for k in range(5):
        scene[f"post{k}"] = {
            "type": "cylinder", "p0": [-8 + 1.7 * k, 11 + 0.5 * k, -1], "p1": [-8 + 1.7 * k, 11 + 0.5 * k, 1.0 + 0.2 * (k % 2)],
            "radius": 0.13, "bsdf": principled(planks(64, 256, 2, 40 + k, (0.1, 0.07, 0.05), (0.3, 0.22, 0.16)), 0.9),
        }  # fmt: skip
    for k in range(4):
        a = (-8 + 1.7 * k, 11 + 0.5 * k, 0.7)
        b = (-8 + 1.7 * (k + 1), 11 + 0.5 * (k + 1), 0.75)
        scene[f"rope{k}"] = line(a, b, 0.03, (0.4, 0.32, 0.2), sag=0.35)
    scene |= kite((1.0, 1.2, 0.95), 0.95, 18, 24, panels(600, 600, [RED, WHITE, BLUE, WHITE, RED], 51), "near")
    scene |= kite(
        (-3.8 + 0.02 * sway, 10, 5.2),
        1.5,
        -25 + sway,
        -30,
        panels(500, 500, [YELLOW, ORANGE, YELLOW, ORANGE], 61),
        "left",
    )
    scene |= kite(
        (5.5 - 0.03 * sway, 16, 7.0), 1.6, 30 - 0.8 * sway, -35, panels(500, 500, [TEAL, WHITE, VIOLET], 71), "right"
    )
    scene["string"] = line((-3.8, 10, 5.3), (-1.2, -2, 0.4), 0.008, (0.9, 0.9, 0.85), sag=0.6)
    return render(scene)


def spool(x: float, y: float, height: float, radius: float, colour: tuple[float, ...], name: str) -> dict[str, Any]:
    thread = np.tile(
        coloured(
            0.5 + 0.5 * np.sin(np.linspace(0, 180, 512))[:, None] * np.ones((1, 8)),
            tuple(c * 0.45 for c in colour),
            colour,
        ),
        (1, 8, 1),
    )
    wood = principled((0.55, 0.36, 0.18), 0.5)
    return {
        f"{name}-thread": {
            "type": "cylinder",
            "p0": [x, y, 0.03],
            "p1": [x, y, height],
            "radius": radius,
            "bsdf": {"type": "twosided", "m": principled(thread.transpose(1, 0, 2), 0.55, sheen=0.5)},
        },
        f"{name}-foot": {
            "type": "cylinder",
            "p0": [x, y, 0.0],
            "p1": [x, y, 0.03],
            "radius": radius * 1.25,
            "bsdf": {"type": "twosided", "m": wood},
        },
        f"{name}-foot-top": {
            "type": "disk",
            "to_world": T().translate([x, y, 0.03]).scale(radius * 1.25),
            "bsdf": {"type": "twosided", "m": wood},
        },
        f"{name}-cap": {
            "type": "cylinder",
            "p0": [x, y, height],
            "p1": [x, y, height + 0.03],
            "radius": radius * 1.25,
            "bsdf": {"type": "twosided", "m": wood},
        },
        f"{name}-top": {
            "type": "disk",
            "to_world": T().translate([x, y, height + 0.03]).scale(radius * 1.25),
            "bsdf": {"type": "twosided", "m": wood},
        },
    }


def bench_things(seed: int) -> dict[str, Any]:
    """What lies on a kite maker's bench: spools, a folded sail, sticks, shears, a jar, a ruler."""
    parts: dict[str, Any] = {}
    for k, (x, y, colour) in enumerate(
        [(-0.62, 0.25, RED), (-0.42, 0.38, YELLOW), (-0.23, 0.27, BLUE), (-0.05, 0.42, WHITE), (0.12, 0.3, TEAL)]
    ):
        parts |= spool(x, y, 0.2 + 0.04 * (k % 3), 0.065, colour, f"spool{k}")
    v, u = np.mgrid[0:1:80j, 0:1:80j]
    for layer in range(5):
        lift = 0.018 + 0.02 * layer + 0.012 * fractal(80, 80, seed + layer, 5)
        edge = 0.03 * np.sin(layer * 2.1)
        points = np.stack([0.3 + edge + 0.5 * u, -0.15 + 0.42 * v + 0.02 * math.sin(layer), lift], -1)
        colours = [(ORANGE, YELLOW), (TEAL, WHITE), (VIOLET, ORANGE), (RED, WHITE), (BLUE, YELLOW)][layer]
        parts[f"fold{layer}"] = grid_mesh(
            points,
            {"type": "twosided", "m": principled(panels(400, 400, list(colours), seed + layer), 0.6, sheen=0.3)},
            f"fold{layer}",
        )
    for k in range(7):
        parts[f"stick{k}"] = line(
            (-0.8 + 0.02 * k, -0.32 - 0.035 * k, 0.012),
            (0.2 + 0.05 * (k % 3), -0.22 - 0.04 * k, 0.014 + 0.006 * (k % 2)),
            0.009,
            (0.62, 0.45, 0.22),
        )
    parts["jar"] = {
        "type": "cylinder",
        "p0": [0.86, 0.42, 0.0],
        "p1": [0.86, 0.42, 0.3],
        "radius": 0.11,
        "bsdf": {"type": "thindielectric"},
    }
    for k in range(6):
        parts[f"brush{k}"] = line(
            (0.84 + 0.02 * math.cos(k), 0.42 + 0.02 * math.sin(k), 0.02),
            (0.86 + 0.14 * math.cos(k * 1.1), 0.42 + 0.12 * math.sin(k * 1.1), 0.5 + 0.04 * (k % 3)),
            0.008,
            [RED, (0.5, 0.3, 0.1), BLUE, (0.1, 0.1, 0.1), YELLOW, (0.4, 0.25, 0.1)][k],
        )
    ruler = np.full((60, 900, 3), (190, 153, 76), np.uint8)
    for k in range(0, 900, 10):
        ruler[: 28 if k % 50 == 0 else 14, k : k + 2] = 8
    for k in range(9):
        cv2.putText(ruler, str(k * 5), (k * 100 + 4, 52), cv2.FONT_HERSHEY_SIMPLEX, 0.7, (8, 8, 8), 2, cv2.LINE_AA)
    parts["ruler"] = {
        "type": "rectangle",
        "to_world": T().translate([-0.35, -0.05, 0.006]).rotate([0, 0, 1], -14).scale([0.42, 0.028, 1]),
        "bsdf": principled(ruler[::-1] / 255, 0.4),
    }
    return parts


def bench(spp: int, night: bool) -> np.ndarray:
    """The workshop bench: at night under one lamp, or by day for the catalogue."""
    top = planks(1200, 1800, 7, 5 if night else 9, (0.16, 0.09, 0.04), (0.5, 0.33, 0.17))
    back = (
        planks(900, 1800, 9, 15, (0.10, 0.075, 0.05), (0.3, 0.23, 0.16))
        if night
        else planks(900, 1800, 9, 17, (0.5, 0.5, 0.46), (0.75, 0.74, 0.7))
    )
    scene: dict[str, Any] = {
        "table": {
            "type": "rectangle",
            "to_world": T().translate([0, 0.1, 0]).scale([1.6, 0.95, 1]),
            "bsdf": principled(top, 0.45),
        },
        "wall": {
            "type": "rectangle",
            "to_world": T().translate([0, 1.05, 0.6]).rotate([1, 0, 0], 90).scale([2.2, 1.4, 1]),
            "bsdf": principled(back, 0.8),
        },
        **bench_things(200 if night else 300),
    }
    if night:
        scene |= {
            "sensor": camera((-0.55, -1.9, 0.95), (0.02, 0.2, 0.2), 36, (1040, 780), spp, lens=0.012),
            "lamp": {
                "type": "sphere",
                "center": [-0.25, 0.35, 1.05],
                "radius": 0.06,
                "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [70, 42, 18]}},
            },
            "shade": {"type": "obj", **_shade()},
            "window": {
                "type": "rectangle",
                "to_world": T().translate([1.5, 0.2, 1.1]).rotate([0, 1, 0], -90).scale([0.5, 0.5, 1]),
                "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [0.12, 0.2, 0.42]}},
            },
        }
        scene |= kite((0.75, 0.98, 0.78), 0.34, 6, -4, panels(500, 500, [RED, WHITE, BLUE], 91), "hung")
    else:
        scene |= {
            "sensor": camera((0.15, -1.55, 1.25), (0.12, 0.16, 0.06), 34, (1040, 780), spp, lens=0.01),
            "window": {
                "type": "sphere",
                "center": [-1.7, -0.9, 2.0],
                "radius": 0.55,
                "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [15, 15.5, 16]}},
            },
            "fill": {
                "type": "sphere",
                "center": [1.6, -1.6, 2.6],
                "radius": 0.8,
                "emitter": {"type": "area", "radiance": {"type": "rgb", "value": [1.2, 1.2, 1.3]}},
            },
        }
        scene |= kite((-0.75, 0.99, 0.62), 0.36, -8, -3, panels(500, 500, [TEAL, YELLOW, ORANGE], 95), "hung")
    return render(scene)


def _shade() -> dict[str, Any]:
    angle = np.linspace(0, 2 * np.pi, 60)
    ring = [
        np.stack([-0.25 + r * np.cos(angle), 0.35 + r * np.sin(angle), np.full(60, z)], -1)
        for r, z in ((0.2, 1.0), (0.06, 1.22))
    ]
    mesh = grid_mesh(
        np.stack(ring), {"type": "twosided", "m": principled((0.05, 0.22, 0.18), 0.3, metallic=0.4)}, "shade"
    )
    return {"filename": mesh["filename"], "bsdf": mesh["bsdf"]}


def festival(spp: int) -> np.ndarray:
    """Many kites against the sky, over a strip of dune: what a small web picture of a festival shows."""
    y, x = np.mgrid[0:40:120j, -30:30:160j]
    dune = 2.2 * fractal(120, 160, 83, 6, 0.5) - 1.5
    grass = coloured(fractal(900, 1200, 84, 9, 0.85), (0.08, 0.12, 0.03), (0.45, 0.45, 0.2))
    scene: dict[str, Any] = {
        "sensor": camera((0, -9, 1.2), (0, 8, 4.6), 52, (1040, 780), spp),
        "light": daylight(0.7, 0.8, 1.0),
        "far-land": far_ground(-2.2, principled((0.13, 0.16, 0.1), 0.9)),
        "dune": grid_mesh(np.stack([x, y, dune], -1), principled(grass, 0.95), "dune"),
    }
    schemes = [
        [RED, YELLOW],
        [BLUE, WHITE, BLUE],
        [TEAL, ORANGE],
        [VIOLET, YELLOW, VIOLET],
        [ORANGE, WHITE],
        [RED, WHITE, BLUE, WHITE],
        [YELLOW, TEAL],
    ]
    places = [
        (-5.5, 7, 7.2, 1.4),
        (-2.2, 5, 4.0, 1.0),
        (0.8, 8, 7.6, 1.5),
        (3.2, 5, 4.6, 1.05),
        (6.6, 9, 7.4, 1.5),
        (-6.8, 9, 3.6, 1.2),
        (7.2, 8, 3.2, 1.2),
    ]
    for k, ((px, py, pz, size), scheme) in enumerate(zip(places, schemes, strict=True)):
        scene |= kite(
            (px, py, pz), size, 25 * math.sin(k * 2.0), -18 - 5 * (k % 3), panels(420, 420, scheme, 400 + k), f"k{k}"
        )
        scene[f"string{k}"] = line((px, py, pz), (px * 0.3, 2 + 0.4 * k, -0.2), 0.008, (0.9, 0.9, 0.85), sag=0.5)
    return render(scene)


def main() -> None:
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    quality = float(sys.argv[2]) if len(sys.argv) > 2 else 1.0
    only = sys.argv[3:]
    scenes = {
        "beach": lambda: beach(int(48 * quality)), "night": lambda: bench(int(96 * quality), night=True),
        "loft": lambda: bench(int(64 * quality), night=False), "festival": lambda: festival(int(40 * quality)),
    }  # fmt: skip
    for name, make in scenes.items():
        if not only or name in only:
            np.save(folder / f"{name}.npy", make())
            print(name, flush=True)


if __name__ == "__main__":
    main()
