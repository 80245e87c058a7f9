"""Parts that scenes are put together from: stuff, cloth, kites, lines, light, cameras."""

from __future__ import annotations

import math
import tempfile
from pathlib import Path
from typing import Any

import mitsuba as mi
import numpy as np

mi.set_variant("scalar_rgb")
mi.set_log_level(mi.LogLevel.Error)
from mitsuba import ScalarTransform4f as T  # noqa: E402

WORK = Path(tempfile.mkdtemp(prefix="kite-demo-"))
RED, YELLOW, BLUE, WHITE = (0.72, 0.06, 0.05), (0.85, 0.58, 0.04), (0.03, 0.16, 0.52), (0.85, 0.84, 0.8)
TEAL, ORANGE, VIOLET = (0.02, 0.38, 0.36), (0.85, 0.25, 0.03), (0.28, 0.06, 0.42)


def bitmap(texture: np.ndarray, raw: bool = False) -> dict[str, Any]:
    """A Mitsuba texture of an array of linear values."""
    values = np.ascontiguousarray(np.atleast_3d(texture).astype(np.float32))
    return {"type": "bitmap", "bitmap": mi.Bitmap(values), "raw": raw, "wrap_mode": "mirror"}


def principled(colour: Any, rough: float = 0.6, **more: float) -> dict[str, Any]:
    base = bitmap(colour) if isinstance(colour, np.ndarray) else {"type": "rgb", "value": list(colour)}
    return {"type": "principled", "base_color": base, "roughness": rough, **more}


def cloth(colour: Any, shine: float = 0.15) -> dict[str, Any]:
    """Light falls through kite cloth: both sides, partly translucent."""
    base = bitmap(colour) if isinstance(colour, np.ndarray) else {"type": "rgb", "value": list(colour)}
    return {
        "type": "principledthin", "base_color": base, "roughness": 0.45, "spec_trans": 0.0, "diff_trans": 0.7,
        "eta": 1.3, "sheen": shine,
    }  # fmt: skip


def grid_mesh(points: np.ndarray, bsdf: dict[str, Any], name: str) -> dict[str, Any]:
    """A mesh of an H×W×3 grid of points with texture coordinates over it."""
    rows, columns = points.shape[:2]
    path = WORK / f"{name}.obj"
    with path.open("w") as file:
        for point in points.reshape(-1, 3):
            file.write("v {:.5f} {:.5f} {:.5f}\n".format(*point))
        for v in np.linspace(0, 1, rows):
            for u in np.linspace(0, 1, columns):
                file.write(f"vt {u:.5f} {v:.5f}\n")
        for row in range(rows - 1):
            for column in range(columns - 1):
                a = row * columns + column + 1
                b, c, d = a + 1, a + columns + 1, a + columns
                file.write(f"f {a}/{a} {b}/{b} {c}/{c}\nf {a}/{a} {c}/{c} {d}/{d}\n")
    return {"type": "obj", "filename": str(path), "bsdf": bsdf}


def line(
    start: tuple[float, ...], end: tuple[float, ...], radius: float, colour: Any, sag: float = 0.0
) -> dict[str, Any]:
    """A stick, or a cord that sags."""
    if not sag:
        return {
            "type": "cylinder",
            "p0": [float(c) for c in start],
            "p1": [float(c) for c in end],
            "radius": radius,
            "bsdf": {"type": "twosided", "m": principled(colour, 0.7)},
        }
    # A tube of eight sides along the sagging cord; Mitsuba's own curves crash now and then.
    first, last = np.array(start), np.array(end)
    along = np.linspace(0, 1, 24)[:, None]
    path = first + (last - first) * along - np.array([0, 0, sag]) * 4 * along * (1 - along)
    tangent = np.gradient(path, axis=0)
    side = np.cross(tangent, [0.1, 0.2, 1.0])
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    up = np.cross(tangent, side)
    up /= np.linalg.norm(up, axis=1, keepdims=True)
    angle = np.linspace(0, 2 * np.pi, 9)[None, :, None]
    ring = path[:, None] + radius * (np.cos(angle) * side[:, None] + np.sin(angle) * up[:, None])
    return grid_mesh(
        ring, {"type": "twosided", "m": principled(colour, 0.7)}, f"line-{abs(hash((start, end, radius)))}"
    )


def kite(
    centre: tuple[float, ...], size: float, yaw: float, pitch: float, texture: np.ndarray, name: str
) -> dict[str, Any]:
    """A diamond kite bowed by the wind, its cross sticks, and a tail of bows."""
    turn = T().translate(list(centre)).rotate([0, 0, 1], yaw).rotate([1, 0, 0], pitch)
    matrix = np.array(turn.matrix)

    def placed(points: np.ndarray) -> np.ndarray:
        return points @ matrix[:3, :3].T + matrix[:3, 3]

    v, u = np.mgrid[0.004:0.996:60j, 0:1:60j]  # short of the tips, where triangles would have no area
    # Corner to corner: top, right, bottom, left; the cross stick lies at a third.
    height = 1.35 - 2.15 * v
    half = np.where(v < 0.37, v / 0.37, (1 - v) / 0.63) * 0.85
    x = (2 * u - 1) * half
    bow = -0.28 * (x / 0.85) ** 2 + 0.05 * np.sin(5 * x + 3 * height) * half
    points = placed(np.stack([x, bow, height], -1) * size)
    parts = {f"{name}-sail": grid_mesh(points, cloth(texture), f"{name}-sail")}
    ends = placed(np.array([[0, 0.03, 1.35], [0, 0.03, -0.8], [-0.85, -0.25, 0.55], [0.85, -0.25, 0.55]]) * size)
    parts[f"{name}-spine"] = line(tuple(ends[0]), tuple(ends[1]), 0.014 * size, (0.3, 0.18, 0.08))
    parts[f"{name}-cross"] = line(tuple(ends[2]), tuple(ends[3]), 0.012 * size, (0.3, 0.18, 0.08), sag=-0.1 * size)
    tail = placed(np.array([[0.25 * math.sin(k * 0.8), 0.1 * k * 0.3, -0.8 - 0.28 * k] for k in range(9)]) * size)
    for k in range(8):
        parts[f"{name}-tail{k}"] = line(tuple(tail[k]), tuple(tail[k + 1]), 0.008 * size, (0.8, 0.8, 0.75))
        bow_points = np.array(
            [
                [[-0.14, 0, 0.05], [0, 0, 0.012], [0.14, 0, 0.05]],
                [[-0.14, 0.02, -0.05], [0, 0, -0.012], [0.14, 0.02, -0.05]],
            ]
        )
        spread = bow_points * size + tail[k + 1]
        parts[f"{name}-bow{k}"] = grid_mesh(spread, cloth((RED, YELLOW, BLUE)[k % 3]), f"{name}-bow{k}")
    return parts


def camera(
    origin: tuple[float, ...], target: tuple[float, ...], fov: float, size: tuple[int, int], spp: int, lens: float = 0.0
) -> dict[str, Any]:
    view = {
        "type": "thinlens" if lens else "perspective", "fov": fov,
        "to_world": T().look_at(origin=list(origin), target=list(target), up=[0, 0, 1]),
        "film": {"type": "hdrfilm", "width": size[0], "height": size[1], "rfilter": {"type": "gaussian", "stddev": 0.45}},
        "sampler": {"type": "multijitter", "sample_count": spp},
    }  # fmt: skip
    if lens:
        view |= {"aperture_radius": lens, "focus_distance": math.dist(origin, target)}
    return view


def render(scene: dict[str, Any]) -> np.ndarray:
    picture = np.array(
        mi.render(mi.load_dict({"type": "scene", "integrator": {"type": "path", "max_depth": 7}, **scene}))
    )
    return picture[..., :3].astype(np.float32)


def daylight(azimuth: float, elevation: float, strength: float = 1.0) -> dict[str, Any]:
    """Sky and sun; Mitsuba's sky looks up along +z here."""
    sun = [math.cos(elevation) * math.sin(azimuth), math.cos(elevation) * math.cos(azimuth), math.sin(elevation)]
    return {
        "type": "sunsky", "sun_direction": sun, "turbidity": 3.5, "sky_scale": 0.9 * strength,
        "sun_scale": 0.5 * strength, "sun_aperture": 2.0,
    }  # fmt: skip


def far_ground(height: float, bsdf: dict[str, Any]) -> dict[str, Any]:
    """What reaches to the horizon."""
    return {"type": "disk", "to_world": T().translate([0, 0, height]).scale(20_000), "bsdf": bsdf}
