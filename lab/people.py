"""Invented people: heads of every age, build and skin, with hair, brows, beards, glasses and hats; none of them exists.

The bodies are Anny's (Apache-2.0; its shapes are CC0): shape and facial actions are drawn by chance, and everything on the
skin is painted and grown by place on one neutral head, so that it follows whatever shape a head takes.
"""

from __future__ import annotations

import json
import warnings
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from PIL import Image
from scipy import sparse

Points = npt.NDArray[np.float64]
Faces = npt.NDArray[np.int64]

HERE = Path(__file__).parent
_KEPT = HERE / "faces" / "body.npz"
#: Metres below the top of the head at which the body is cut off.
_CUT = -0.36
_LOCAL = ("cheek", "chin", "ear", "eye", "forehead", "head-", "mouth", "neck", "nose")
_ETHNICITIES = ("african", "asian", "caucasian")
_SHAPES = ("gender", "age", "muscle", "weight", "height", "proportions")


@dataclass
class Mesh:
    """Triangles with a colour (linear) at every point."""

    points: Points
    faces: Faces
    colours: Points
    #: Parameters of the surface, see :mod:`portraits`.
    surface: dict[str, Any] = field(default_factory=dict)
    smooth: bool = True


class Body:
    """The head and shoulders that all people are shaped from, and what lies where on them."""

    def __init__(self) -> None:
        import torch
        from anny import Anny
        from anny.models.model_data import RigConfig, TopologyConfig

        warnings.filterwarnings("ignore")
        self._torch = torch
        self._model = Anny(
            rig=RigConfig(base_rig="makehuman", bone_orientation="blender", root_identity_orientation=False),
            topology=TopologyConfig(
                base_mesh="makehuman", nudity_edits=False, remove_unattached_vertices=False, triangulate_faces=False
            ),
            local_changes="all", facial_actions="all", phenotypes="all",
        )  # fmt: skip
        import anny

        data = Path(anny.__file__).parent / "data" / "mpfb2"
        self._groups: dict[str, list[list[int]]] = json.loads(
            (data / "mesh_metadata/basemesh_vertex_groups.json").read_text()
        )
        self.actions: list[str] = list(self._model.facial_action_labels)
        self.local: list[str] = [
            name
            for name in self._model.local_change_labels
            if name.lstrip("lr-").startswith(_LOCAL) or name.startswith(_LOCAL)
        ]
        neutral = self.vertices({"gender": 0.5, "age": 0.67, "african": 0.33, "asian": 0.33, "caucasian": 0.33}, {}, {})
        skin_faces = self._model.faces.numpy()
        first_helper = 13_380
        skin = skin_faces[(skin_faces < first_helper).all(1)]
        skin = skin[(neutral[skin][:, :, 2] > _CUT).all(1)]
        self.helper_faces = _helper_faces(data / "3dobjs" / "base.obj")
        self._used, inverse = np.unique(skin, return_inverse=True)
        quads = inverse.reshape(skin.shape)
        triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
        triangles = triangles[(triangles[:, 0] != triangles[:, 2]) & (triangles[:, 1] != triangles[:, 2])]
        rules, self.faces = subdivided(len(self._used), triangles)
        finer, self.faces = subdivided(rules.shape[0], self.faces)
        self._rules = finer @ rules
        #: The neutral head, every other one is painted by: x to its left, y to the front, z up, metres; eyes at z = 0.
        self.neutral = self._rules @ neutral[self._used]
        self.lips = self._rules @ self._by_picture(data / "textures" / "mpfb_lips.jpg")
        self.inside = self._rules @ self._by_picture(data / "textures" / "mpfb_inside-mouth.jpg")

    def _by_picture(self, path: Path) -> npt.NDArray[np.float64]:
        """Values of a picture that is laid over the skin, at the points in use."""
        picture = np.asarray(Image.open(path).convert("L"), np.float64) / 255
        model = self._model
        at = np.zeros((len(model.template_vertices), 2))
        at[model.faces.numpy().ravel()] = model.texture_coordinates.numpy()[
            model.face_texture_coordinate_indices.numpy().ravel()
        ]
        at = at[self._used]
        rows = np.clip(((1 - at[:, 1]) * picture.shape[0]).astype(int), 0, picture.shape[0] - 1)
        return picture[rows, np.clip((at[:, 0] * picture.shape[1]).astype(int), 0, picture.shape[1] - 1)]

    def vertices(self, shape: dict[str, float], local: dict[str, float], actions: dict[str, float]) -> Points:
        """All vertices of a body, helpers too: x left, y front, z up, metres; between the eyes at the origin."""
        with self._torch.no_grad():
            made = self._model(
                phenotype_kwargs=shape, local_changes_kwargs=local or None, facial_actions=actions or None
            )["vertices"][0].numpy()
        turned = made * [1, 1, -1]
        left, right = self.eye(turned, "l")[0], self.eye(turned, "r")[0]
        return np.asarray(turned - (left + right) / 2)

    def group(self, vertices: Points, name: str) -> Points:
        return np.concatenate([vertices[first : last + 1] for first, last in self._groups[name]])

    def eye(self, vertices: Points, side: str) -> tuple[Points, float]:
        """Middle and radius of an eyeball."""
        ball = self.group(vertices, f"helper-{side}-eye")
        middle = (ball.min(0) + ball.max(0)) / 2
        return middle, float((ball.max(0) - ball.min(0))[[0, 2]].mean() / 2)

    def skin(self, vertices: Points) -> Points:
        """The fine points of the skin of a body."""
        return np.asarray(self._rules @ vertices[self._used])


def _helper_faces(path: Path) -> dict[str, Faces]:
    """Faces of the helper groups of the base mesh, as triangles."""
    found: dict[str, list[list[int]]] = {}
    group = ""
    for line in path.read_text().splitlines():
        if line.startswith("g "):
            group = line[2:].strip()
        elif line.startswith("f ") and group.startswith("helper"):
            corners = [int(corner.split("/")[0]) - 1 for corner in line.split()[1:]]
            found.setdefault(group, []).extend([[corners[0], *corners[k : k + 2]] for k in range(1, len(corners) - 1)])
    return {name: np.array(faces) for name, faces in found.items()}


def subdivided(count: int, faces: Faces) -> tuple[sparse.csr_matrix, Faces]:
    """One round of Loop's subdivision: the rules that give the new points of the old ones, and the new faces."""
    edges = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    opposite = np.concatenate([faces[:, 2], faces[:, 0], faces[:, 1]])
    unique, inverse, uses = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
    inverse = inverse.ravel()
    inner = uses == 2
    rows, columns, weights = [], [], []
    # New points on edges.
    at = np.arange(len(unique)) + count
    ends = np.where(inner, 3 / 8, 1 / 2)
    for end in range(2):
        rows.append(at), columns.append(unique[:, end]), weights.append(ends)
    rows.append(at[inverse][inner[inverse]]), columns.append(opposite[inner[inverse]])
    weights.append(np.full(int(inner[inverse].sum()), 1 / 8))
    # Old points.
    neighbours = sparse.coo_matrix(
        (np.ones(2 * len(unique)), (np.r_[unique[:, 0], unique[:, 1]], np.r_[unique[:, 1], unique[:, 0]])),
        (count, count),
    ).tocsr()
    rim = np.zeros(count, bool)
    rim[unique[~inner].ravel()] = True
    degree = np.maximum(np.asarray(neighbours.sum(1)).ravel(), 1)
    beta = np.where(rim, 0, 3 / (8 * degree))
    beta = np.where(degree == 3, np.where(rim, 0, 3 / 16), beta)
    old = sparse.diags(1 - beta * degree) + sparse.diags(beta) @ neighbours
    new = sparse.coo_matrix(
        (np.concatenate(weights), (np.concatenate(rows) - count, np.concatenate(columns))), (len(unique), count)
    )
    first, second, third = (at[part] for part in np.split(inverse, 3))
    a, b, c = faces.T
    finer = np.concatenate([
        np.stack([a, first, third], 1), np.stack([b, second, first], 1), np.stack([c, third, second], 1),
        np.stack([first, second, third], 1),
    ])  # fmt: skip
    return sparse.vstack([old, new]).tocsr(), finer
