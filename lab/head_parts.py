"""Parts of a head as meshes: eyeballs, teeth, what is cut out of the body, and hairs."""

from __future__ import annotations

from typing import Any

import numpy as np
from look import step

from people import Faces, Mesh, Points, subdivided


def normals_of(points: Points, faces: Faces) -> Points:
    across = np.cross(points[faces[:, 1]] - points[faces[:, 0]], points[faces[:, 2]] - points[faces[:, 0]])
    total = np.stack([np.bincount(faces.ravel(), np.repeat(across[:, axis], 3), len(points)) for axis in range(3)], 1)
    return np.asarray(total / np.maximum(np.linalg.norm(total, axis=1, keepdims=True), 1e-12))


def apart(vertices: Points, faces: Faces, colours: Points, surface: dict[str, Any]) -> Mesh:
    used, inverse = np.unique(faces, return_inverse=True)
    return Mesh(vertices[used], inverse.reshape(faces.shape), colours[used], surface)


def teeth_of(vertices: Points, faces: Faces, own: np.random.Generator) -> Mesh:
    """The row of teeth, subdivided by hand so that gaps between teeth can be painted."""
    used, inverse = np.unique(faces, return_inverse=True)
    points, faces = vertices[used] + [0, 0.004, 0], inverse.reshape(faces.shape)
    for _ in range(3):
        rules, faces = subdivided(len(points), faces)
        points = rules @ points
    shade = own.uniform([0.55, 0.5, 0.38], [0.8, 0.78, 0.7])
    gap = np.abs(((points[:, 0] / 0.0075) % 1) - 0.5) * 2
    colours = shade * (1 - 0.6 * step(gap, 0.82, 1.0))[:, None]
    return Mesh(points, faces, colours, {"rough": 0.2, "specular": 0.6})


def eyeball(middle: Points, radius: float, gaze: Points, iris: np.ndarray, own: np.random.Generator) -> list[Mesh]:
    """White, iris and pupil painted on a ball, and wet."""
    rings, spokes = 90, 96
    angle = np.concatenate([np.linspace(0, 0.7, 60), np.linspace(0.72, np.pi, rings - 60)])[:, None]
    turn = np.linspace(0, 2 * np.pi, spokes, endpoint=False)[None]
    front = np.asarray(gaze) / np.linalg.norm(gaze)
    side = np.cross(front, [0, 0, 1.0])
    side /= np.linalg.norm(side)
    up = np.cross(side, front)
    # The cornea stands out a little.
    out = radius * (1 + 0.045 * np.exp(-((angle / 0.36) ** 4)))
    ball = middle + (
        out[..., None]
        * (
            np.cos(angle)[..., None] * front
            + np.sin(angle)[..., None] * (np.cos(turn)[..., None] * side + np.sin(turn)[..., None] * up)
        )
    )
    edge, pupil = 0.0070 / radius, float(own.uniform(0.0016, 0.0026)) / radius
    fibre = (
        1
        + 0.25 * np.sin(turn * own.integers(20, 40) + own.uniform(0, 6)) * np.sin(angle * 40)
        + 0.15 * own.normal(size=(1, spokes))
    )
    coloured = iris * np.clip(fibre, 0.4, 1.8)[..., None] * (1.25 - 0.9 * step(angle, edge * 0.75, edge))[..., None]
    white = np.array([0.56, 0.50, 0.46]) * (1 - 0.25 * step(angle, 0.9, 1.5))[..., None] + 0 * turn[..., None]
    shade = np.where((angle < edge)[..., None], coloured, white)
    shade = np.where((angle < pupil)[..., None], 0.003, shade)
    index = np.arange(rings * spokes).reshape(rings, spokes)
    a, b = index[:-1], np.roll(index, -1, 1)[:-1]
    c, d = index[1:], np.roll(index, -1, 1)[1:]
    faces = np.concatenate([np.stack([a, c, b], -1).reshape(-1, 3), np.stack([b, c, d], -1).reshape(-1, 3)])
    return [
        Mesh(ball.reshape(-1, 3), faces, np.clip(shade, 0.002, 0.9).reshape(-1, 3), {"rough": 0.12, "specular": 0.8})
    ]
