"""Render portraits of invented people for the faces networks to learn from: ``python lab/portraits.py --count 600``.

Each person has several portraits; a portrait is a PNG of 256×256 px, and its landmarks lie in ``landmarks.json``. Seeded,
and resumable: what is there is not made again.
"""

from __future__ import annotations

import argparse
import json
import math
import tempfile
import time
from pathlib import Path
from typing import Any

import drjit as dr
import mitsuba as mi
import numpy as np
from PIL import Image

mi.set_variant("llvm_ad_rgb", "scalar_rgb")
mi.set_log_level(mi.LogLevel.Error)
from mitsuba import ScalarTransform4f as T  # noqa: E402
from person import Look, Noise, Person  # noqa: E402

from people import Body, Mesh  # noqa: E402

HERE = Path(__file__).parent
PORTRAITS = HERE / "faces" / "portraits"
BACKDROPS = HERE / "pictures"
SIDE = 256
#: Portraits of one person.
EACH = 3
WORK = Path(tempfile.mkdtemp(prefix="kite-portraits-"))


def _surface(surface: dict[str, Any]) -> dict[str, Any]:
    inside: dict[str, Any] = {
        "type": "principled", "base_color": {"type": "mesh_attribute", "name": "vertex_color"},
        "roughness": surface.get("rough", 0.6), "specular": surface.get("specular", 0.4),
    }  # fmt: skip
    if "coat" in surface:
        inside |= {"clearcoat": surface["coat"], "clearcoat_gloss": 0.98}
    whole: dict[str, Any] = {"type": "twosided", "bsdf": inside}
    return {"type": "mask", "opacity": surface["opacity"], "bsdf": whole} if "opacity" in surface else whole


def _shape(mesh: Mesh, name: str) -> dict[str, Any]:
    path = WORK / f"{name}.ply"
    vertex = np.zeros(len(mesh.points), [(axis, "<f4") for axis in ("x", "y", "z", "r", "g", "b")])
    for place, axis in enumerate("xyz"):
        vertex[axis] = mesh.points[:, place]
    for place, axis in enumerate("rgb"):
        vertex[axis] = mesh.colours[:, place]
    face = np.zeros(len(mesh.faces), [("count", "u1"), ("corners", "<i4", 3)])
    face["count"], face["corners"] = 3, mesh.faces
    names = "".join(f"property float {axis}\n" for axis in "xyzrgb")
    header = (
        f"ply\nformat binary_little_endian 1.0\nelement vertex {len(vertex)}\n{names}"
        f"element face {len(face)}\nproperty list uchar int vertex_indices\nend_header\n"
    )
    path.write_bytes(header.encode() + vertex.tobytes() + face.tobytes())
    return {"type": "ply", "filename": str(path), "face_normals": not mesh.smooth, "bsdf": _surface(mesh.surface)}


def _glasses(eyes: np.ndarray, chance: np.random.Generator) -> list[Mesh]:
    """A frame of two rims, a bridge and two temples, as tubes."""
    wide, high = chance.uniform(0.021, 0.027), chance.uniform(0.014, 0.022)
    square = chance.uniform(2, 4)
    thick = chance.uniform(0.0006, 0.0022)
    colour = np.array(chance.choice([0.01, 0.03, 0.3]) * chance.uniform(0.5, 1.2, 3))
    turn = np.linspace(0, 2 * np.pi, 49)
    curve = lambda values: np.sign(values) * np.abs(values) ** (2 / square)  # noqa: E731
    paths = []
    front = float(eyes[:, 1].max()) + 0.026
    for eye in eyes:
        paths.append(
            np.stack(
                [
                    eye[0] + wide * curve(np.cos(turn)),
                    np.full_like(turn, front),
                    eye[2] - 0.002 + high * curve(np.sin(turn)),
                ],
                1,
            )
        )
    inner = np.linspace(-1, 1, 9)
    gap = abs(eyes[0, 0]) - wide
    paths.append(np.stack([inner * gap, np.full(9, front + 0.002), 0.002 * (1 - inner**2)], 1))
    for sign in (-1, 1):
        start = np.array([sign * (abs(eyes[0, 0]) + wide), front, 0.004])
        end = np.array([sign * 0.083, -0.1, 0.002])
        paths.append(start + (end - start) * np.linspace(0, 1, 9)[:, None])
    return [_tube(path, thick, colour) for path in paths]


def _tube(path: np.ndarray, radius: float, colour: np.ndarray) -> Mesh:
    tangent = np.gradient(path, axis=0)
    side = np.cross(tangent, [0.1, 0.2, 1.0])
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    up = np.cross(tangent, side)
    up /= np.linalg.norm(up, axis=1, keepdims=True)
    angle = np.linspace(0, 2 * np.pi, 9)[None, :, None]
    ring = path[:, None] + radius * (np.cos(angle) * side[:, None] + np.sin(angle) * up[:, None])
    count = len(path)
    index = np.arange(count * 9).reshape(count, 9)
    a, b, c, d = index[:-1, :-1], index[:-1, 1:], index[1:, :-1], index[1:, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([b, d, c], -1).reshape(-1, 3)])
    return Mesh(ring.reshape(-1, 3), faces, np.tile(colour, (count * 9, 1)), {"rough": 0.25, "specular": 0.6})


def _cap(body: Body, points: np.ndarray, chance: np.random.Generator, scarf: bool) -> Mesh:
    """A cap or a scarf: what lies above a line on the head, lifted off it."""
    at = body.neutral
    around = np.degrees(np.arctan2(np.abs(at[:, 0]), at[:, 1] + 0.075))
    line = (
        np.interp(around, [0, 60, 90, 130, 180], [62, 48, 20, -10, -30] if not scarf else [66, 20, -120, -150, -150])
        / 1e3
    )
    inside = at[:, 2] > line + 0.003 * Noise(chance, 0.03)(at)
    faces = body.faces[inside[body.faces].all(1)]
    used, inverse = np.unique(faces, return_inverse=True)
    middle = np.array([0, -0.085, 0.01])
    away = points[used] - middle
    away /= np.linalg.norm(away, axis=1, keepdims=True)
    folds = 0.0035 * Noise(chance, 0.03)(at[used]) + 0.0015 * Noise(chance, 0.008)(at[used])
    colour = chance.uniform(0.02, 0.7, 3) ** 1.4
    colours = colour * np.exp(0.12 * Noise(chance, 0.004)(at[used]))[:, None]
    return Mesh(
        points[used] + away * (0.017 + folds)[:, None],
        inverse.reshape(faces.shape),
        np.clip(colours, 0.004, 0.9),
        {"rough": 0.9, "specular": 0.1},
    )


def _light(chance: np.random.Generator) -> dict[str, Any]:
    """Sky, room or studio around the person, and mostly one stronger light."""
    above, below = chance.uniform(0.35, 1.0, 3), chance.uniform(0.1, 0.5, 3)
    above, below = above.mean() * 0.7 + above * 0.3, below.mean() * 0.7 + below * 0.3
    height = np.linspace(1, 0, 32)[:, None, None]
    sky = np.tile(below + (above - below) * height**1.5, (1, 64, 1))
    for _ in range(chance.integers(0, 5)):
        row, column, tall, wide = (
            chance.integers(2, 22),
            chance.integers(0, 64),
            chance.integers(2, 9),
            chance.integers(2, 10),
        )
        sky[row : row + tall, np.arange(column, column + wide) % 64] += chance.uniform(1, 5)
    parts: dict[str, Any] = {
        "around": {
            "type": "envmap", "bitmap": mi.Bitmap(sky.astype(np.float32)), "scale": float(chance.uniform(0.5, 1.0)),
            "to_world": T().rotate([1, 0, 0], 90),
        }
    }  # fmt: skip
    if chance.random() < 0.75:
        turn, lift = math.radians(chance.uniform(-80, 80)), math.radians(chance.uniform(-5, 65))
        place = 1.6 * np.array([math.sin(turn) * math.cos(lift), math.cos(turn) * math.cos(lift), math.sin(lift)])
        size, tint = chance.uniform(0.06, 0.5), 1 + chance.uniform(-0.12, 0.12) * np.array([1, 0, -1])
        power = chance.uniform(2, 9) / (4 * size**2) * 0.55
        parts["key"] = {
            "type": "rectangle",
            "to_world": T().look_at(origin=place.tolist(), target=[0, -0.05, -0.02], up=[0, 0.1, 1]).scale(size),
            "emitter": {"type": "area", "radiance": {"type": "rgb", "value": (power * tint).tolist()}},
        }  # fmt: skip
    return parts


def _backdrop(chance: np.random.Generator, pictures: list[Path]) -> np.ndarray:
    """Part of a photograph, mostly out of focus, linear."""
    with Image.open(pictures[int(chance.integers(len(pictures)))]) as picture:
        side = int(chance.uniform(300, min(picture.size)))
        left, top = (int(chance.integers(0, length - side + 1)) for length in picture.size)
        small = (
            picture.convert("RGB").crop((left, top, left + side, top + side)).resize((SIDE, SIDE), Image.Resampling.BOX)
        )
    pixels = (np.asarray(small, np.float32) / 255) ** 2.2
    import cv2

    sigma = float(chance.choice([0.0, chance.uniform(2, 12), chance.uniform(8, 30)], p=[0.15, 0.55, 0.3]))
    return np.asarray(cv2.GaussianBlur(pixels, (0, 0), sigma) if sigma else pixels) * float(chance.uniform(0.4, 1.3))


def _without_sparks(made: np.ndarray) -> np.ndarray:
    """Single samples that met a light by chance are taken away; catch-lights are larger."""
    import cv2

    around = np.stack([cv2.medianBlur(np.ascontiguousarray(made[..., band]), 3) for band in range(4)], 2)
    bright = made[..., :3].mean(2)
    spark = bright > 1.6 * around[..., :3].mean(2) + 0.1 * np.median(bright)
    made[spark] = around[spark]
    return made


def _developed(
    made: np.ndarray, chance: np.random.Generator, light: float, pictures: list[Path] | None
) -> np.ndarray:  # fmt: skip
    """Linear H×W×4 to a coded picture 0..1: exposed for skin so ``light``, before a backdrop, or with its coverage."""
    alpha, face, side = np.clip(made[..., 3:], 0, 1), made[..., :3], made.shape[0]
    middle = face[int(0.31 * side) : int(0.7 * side), int(0.27 * side) : int(0.73 * side)].mean(2)
    level = np.quantile(middle, chance.uniform(0.7, 0.95))
    face = face * (chance.uniform(0.35, 0.75) * (0.4 + 0.6 * light) / max(level, 1e-3))
    face = face * (1 + chance.normal(0, 0.05, 3)).astype(np.float32)
    pixels = face if pictures is None else face + (1 - alpha) * _backdrop(chance, pictures)
    # A shoulder for the lights, then sRGB.
    pixels = np.where(pixels > 0.7, 0.7 + 0.3 * np.tanh((pixels - 0.7) / 0.3), pixels)
    coded = np.where(pixels <= 0.0031308, 12.92 * pixels, 1.055 * np.maximum(pixels, 1e-6) ** (1 / 2.4) - 0.055)
    return coded if pictures is not None else np.concatenate([coded / np.maximum(alpha, 0.05), alpha], axis=2)


def portrait(
    body: Body, someone: Person, moment: int, samples: int, pictures: list[Path], side: int = SIDE, posed: bool = False
) -> tuple[np.ndarray, dict[str, list[float]]]:  # fmt: skip
    """A picture, 8-bit side×side×3, and its landmarks in pixels from the upper left corner.

    ``posed``: looking into the camera, more of the shoulders seen, and instead of a backdrop a fourth channel of coverage.
    """
    person = someone.seed
    chance = np.random.default_rng([person, moment, 12 if posed else 11])
    often, seldom = float(chance.normal(0, 9 if posed else 15)), float(chance.uniform(-62, 62))
    yaw = often if posed or chance.random() < 0.65 else seldom
    pitch, roll = float(chance.normal(0, 9)), float(chance.normal(0, 7))
    distance = float(chance.uniform(0.9, 2.6))
    seen = 0.42 if posed else float(chance.uniform(0.27, 0.33))  # metres across the picture at the face
    turn = (
        T()
        .translate([0, -0.05, -0.03])
        .rotate([0, 1, 0], roll)
        .rotate([1, 0, 0], pitch)
        .rotate([0, 0, 1], yaw)
        .translate([0, 0.05, 0.03])
    )
    matrix = np.array(turn.matrix, np.float64)
    meshes, features = someone.meshes(chance, np.linalg.inv(matrix[:3, :3]) @ [0, 1, 0])
    eyes = np.array([features["iris_l"], features["iris_r"]])
    taste = np.random.default_rng([person, 9])
    if taste.random() < 0.28:
        meshes += _glasses(eyes * [1, 0, 1], taste)
    if taste.random() < 0.15:
        meshes.append(_cap(body, meshes[0].points, taste, scarf=taste.random() < 0.4))
    for mesh in meshes:
        mesh.points = mesh.points @ matrix[:3, :3].T + matrix[:3, 3]
    aim = np.array([chance.normal(0, 0.006), 0, -0.035 + chance.normal(0, 0.008)])
    fov = math.degrees(2 * math.atan(seen / 2 / distance))
    camera = np.array([aim[0], distance, aim[2]])
    scene: dict[str, Any] = {
        "type": "scene", "integrator": {"type": "path", "max_depth": 3, "hide_emitters": True},
        "sensor": {
            "type": "perspective", "fov": fov, "to_world": T().look_at(origin=camera.tolist(), target=aim.tolist(), up=[0, 0, 1]),
            "sampler": {"type": "independent", "sample_count": samples, "seed": person * 64 + moment},
            "film": {
                "type": "hdrfilm", "width": side, "height": side, "pixel_format": "rgba",
                "rfilter": {"type": "gaussian", "stddev": 0.45},
            },
        },
        **_light(chance),
    }  # fmt: skip
    for index, mesh in enumerate(meshes):
        scene[f"part{index}"] = _shape(mesh, f"part{index}")
    made = _without_sparks(np.array(mi.render(mi.load_dict(scene)), np.float32))
    coded = _developed(made, chance, someone.light, None if posed else pictures)
    landmarks = {}
    for name, place in features.items():
        at = matrix[:3, :3] @ place + matrix[:3, 3] - camera
        scale = side / seen * distance / -at[1]
        landmarks[name] = [round(side / 2 - at[0] * scale, 2), round(side / 2 - at[2] * scale, 2)]
    landmarks["yaw"] = [round(yaw, 1), round(pitch, 1)]
    return (np.clip(coded, 0, 1) * 255 + 0.5).astype(np.uint8), landmarks


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--count", type=int, default=200, help="people")
    parser.add_argument("--step", type=int, default=1, help="every so many people, for several processes")
    parser.add_argument("--samples", type=int, default=16)
    parser.add_argument("--into", type=Path, default=PORTRAITS)
    options = parser.parse_args()
    dr.set_thread_count(1)
    options.into.mkdir(parents=True, exist_ok=True)
    body = Body()
    look = Look.of(body)
    pictures = sorted(BACKDROPS.glob("*.png")) + sorted(BACKDROPS.glob("*.jpg"))
    for person in range(options.first, options.first + options.count, options.step):
        someone = Person(body, look, person)
        for moment in range(EACH):
            path = options.into / f"{person:04}-{moment}.png"
            if path.with_suffix(".json").exists():
                continue
            begun = time.monotonic()
            pixels, landmarks = portrait(body, someone, moment, options.samples, pictures)
            Image.fromarray(pixels).save(path)
            path.with_suffix(".json").write_text(json.dumps(landmarks))
            print(f"{path.name} {time.monotonic() - begun:.1f} s", flush=True)


if __name__ == "__main__":
    main()
