"""One invented person: what they look like, by chance, and the meshes of them with a certain expression."""

from __future__ import annotations

import numpy as np
from hair import Hair, strands
from head_parts import apart, eyeball, normals_of, teeth_of
from look import Look, Noise, step

from people import Body, Mesh, Points

_SKINS = np.array([  # linear, from the darkest to the lightest
    [0.045, 0.022, 0.014], [0.10, 0.050, 0.030], [0.19, 0.10, 0.062], [0.32, 0.185, 0.12], [0.46, 0.29, 0.20],
    [0.58, 0.39, 0.29], [0.68, 0.47, 0.37],
])  # fmt: skip
_HAIRS = np.array([
    [0.008, 0.006, 0.005], [0.02, 0.013, 0.009], [0.05, 0.028, 0.016], [0.11, 0.06, 0.03], [0.28, 0.17, 0.08],
    [0.22, 0.07, 0.025], [0.28, 0.265, 0.25], [0.45, 0.44, 0.43],
])  # fmt: skip
_IRISES = np.array(
    [[0.03, 0.015, 0.008], [0.07, 0.035, 0.015], [0.10, 0.09, 0.03], [0.06, 0.12, 0.16], [0.13, 0.16, 0.17]]
)


class Person:
    """Somebody who does not exist. The same seed gives the same person."""

    def __init__(self, body: Body, look: Look, seed: int) -> None:
        self._body, self._look = body, look
        self.chance = chance = np.random.default_rng([seed, 7])
        self.female = chance.random() < 0.5
        self.age = float(
            chance.choice(
                [chance.uniform(0.3, 0.5), chance.uniform(0.5, 0.75), chance.uniform(0.75, 1.0)], p=[0.2, 0.45, 0.35]
            )
        )
        mixture = chance.dirichlet([0.5] * 3)
        self.shape = {
            "gender": float(np.clip((0.12 if self.female else 0.88) + chance.normal(0, 0.1), 0, 1)), "age": self.age,
            "muscle": float(chance.uniform(0.3, 0.7)), "weight": float(chance.beta(2, 2)), "height": 0.5,
            "proportions": float(chance.uniform(0.3, 0.8)),
            **dict(zip(("african", "asian", "caucasian"), map(float, mixture), strict=True)),
        }  # fmt: skip
        self.local: dict[str, float] = {}
        for name in body.local:
            if name.startswith("r-"):
                continue
            value = float(np.clip(chance.normal(0, 0.28), -0.8, 0.8))
            self.local[name] = value
            if name.startswith("l-"):
                self.local["r-" + name[2:]] = float(np.clip(value + chance.normal(0, 0.05), -0.9, 0.9))
        self.old = float(step(np.array(self.age), 0.68, 0.98))
        dark = np.clip(mixture @ [0.15, 0.65, 0.85] + chance.normal(0, 0.13), 0, 1) * (len(_SKINS) - 1)
        tones = np.arange(len(_SKINS))
        self.skin = np.exp([np.interp(dark, tones, np.log(_SKINS[:, band])) for band in range(3)])
        self.skin = self.skin * np.exp(chance.normal(0, 0.03, 3))
        self.light = float(dark / (len(_SKINS) - 1))
        kinds = [0, 1, 2, 3] if self.light < 0.55 else [0, 1, 2, 2, 3, 3, 4, 5]
        hair = _HAIRS[chance.choice(kinds)]
        grey = _HAIRS[chance.choice([6, 7])]
        self.hair = hair + (grey - hair) * np.clip(self.old * chance.uniform(0.3, 1.6), 0, 1)
        self.brow = self.hair * 0.75 if self.hair.mean() < 0.3 else self.hair * 0.45
        self.iris = _IRISES[chance.choice([0, 0, 1] if self.light < 0.55 else [0, 1, 2, 3, 4])] * chance.uniform(
            0.7, 1.3
        )
        man = not self.female and self.age > 0.55
        self.beard = float(chance.choice([0, 0.35, 1, 1.6], p=[0.5, 0.2, 0.2, 0.1])) if man else 0.0
        self.moustache = man and (self.beard > 0.5 or chance.random() < 0.12)
        self.stubble = float(chance.uniform(0, 0.5)) if man else 0.0
        self.bald = man and chance.random() < 0.15 + 0.3 * self.old
        self.length = float(
            chance.uniform(0.10, 0.30) if self.female and chance.random() < 0.8 else chance.uniform(0.015, 0.06)
        )
        self.curl = float(chance.uniform(0.3, 1.5) if self.light < 0.45 else chance.uniform(0, 0.6))
        self.fringe = bool(chance.random() < 0.25)
        self.parting = float(chance.uniform(-0.03, 0.03))
        self.freckles = float(max(0, chance.normal(0, 0.5))) if self.light > 0.6 else 0.0
        self.made_up = self.female and self.age > 0.5 and chance.random() < 0.4
        self.lip_tint = chance.uniform([0.45, 0.04, 0.05], [0.65, 0.22, 0.22]) if self.made_up else None
        self.seed = seed
        self._skin: tuple[Points, np.ndarray] | None = None

    def expression(self, chance: np.random.Generator) -> dict[str, float]:
        """Facial actions of a moment."""
        actions: dict[str, float] = {}

        def both(name: str, value: float, uneven: float = 0.1) -> None:
            for side in ("Left", "Right"):
                actions[name + side] = float(np.clip(value * (1 + chance.normal(0, uneven)), 0, 1))

        mood = chance.choice(
            ["calm", "smile", "laugh", "talk", "frown", "surprise"], p=[0.3, 0.3, 0.15, 0.12, 0.08, 0.05]
        )
        both("eyeBlink", max(0, chance.normal(0.05, 0.12)))
        both("eyeSquint", max(0, chance.normal(0.0, 0.15)))
        both("eyeWide", max(0, chance.normal(0.25, 0.2)))
        if mood in ("smile", "laugh"):
            strength = chance.uniform(0.3, 0.8)
            both("mouthSmile", strength), both("cheekSquint", strength * 0.6)
            if mood == "laugh":
                actions["jawOpen"] = float(chance.uniform(0.06, 0.3))
                both("mouthUpperUp", chance.uniform(0.3, 0.7)), both("mouthLowerDown", chance.uniform(0, 0.3))
        elif mood == "talk":
            actions["jawOpen"] = float(chance.uniform(0.05, 0.3))
            actions[str(chance.choice(["mouthFunnel", "mouthPucker"]))] = float(chance.uniform(0, 0.5))
        elif mood == "frown":
            both("browDown", chance.uniform(0.3, 0.9)), both("mouthFrown", chance.uniform(0.2, 0.7))
        elif mood == "surprise":
            actions["browInnerUp"] = float(chance.uniform(0.4, 1))
            both("browOuterUp", chance.uniform(0.4, 1)), both("eyeWide", chance.uniform(0.4, 0.9))
            actions["jawOpen"] = float(chance.uniform(0, 0.35))
        for name in ("browOuterUp", "browDown", "mouthPress", "mouthStretch", "noseSneer"):
            if name + "Left" not in actions:
                both(name, max(0, chance.normal(0, 0.12)))
        return actions

    def meshes(self, chance: np.random.Generator, toward: Points) -> tuple[list[Mesh], dict[str, Points]]:
        """Everything of the person in a moment, and where its features lie (metres, eyes at the origin).

        ``toward`` is the way to the camera, at which people mostly look.
        """
        body, look = self._body, self._look
        vertices = body.vertices(self.shape, self.local, self.expression(chance))
        own = np.random.default_rng([self.seed, 8])
        points = body.skin(vertices)
        normals = normals_of(points, body.faces)
        if self._skin is None:
            self._skin = self._painted(np.random.default_rng([self.seed, 10]))
        colours, relief = self._skin
        points = points + normals * relief[:, None]
        meshes = [Mesh(points, body.faces, colours, {"rough": float(own.uniform(0.38, 0.55)), "specular": 0.45})]
        aside = 0.03 if chance.random() < 0.65 else 0.22
        gaze = np.array([
            np.clip(toward[0] / max(toward[1], 0.3), -0.5, 0.5) + chance.normal(0, aside), 1.0,
            np.clip(toward[2] / max(toward[1], 0.3), -0.12, 0.05) - 0.03 + chance.normal(0, 0.3 * aside),
        ])  # fmt: skip
        features: dict[str, Points] = {}
        for side in ("l", "r"):
            middle, radius = body.eye(vertices, side)
            meshes += eyeball(middle, radius * 0.985, gaze, self.iris, own)
            features[f"iris_{side}"] = middle + radius * gaze / np.linalg.norm(gaze)
        lash = {
            "l": ("helper-l-eyelashes-1", "helper-l-eyelashes-2"),
            "r": ("helper-r-eyelashes-1", "helper-r-eyelashes-2"),
        }
        for names in lash.values():
            for name in names:
                shade = np.tile(self.brow * 0.3, (len(vertices), 1))
                meshes.append(
                    apart(vertices, body.helper_faces[name], shade, {"opacity": 0.75 if self.made_up else 0.4})
                )
        for name in ("helper-upper-teeth", "helper-lower-teeth"):
            meshes.append(teeth_of(vertices, body.helper_faces[name], own))
        tongue = np.tile([0.28, 0.07, 0.06], (len(vertices), 1))
        meshes.append(apart(vertices, body.helper_faces["helper-tongue"], tongue, {"rough": 0.3, "specular": 0.6}))
        normals = normals_of(points, body.faces)
        hairs = [Hair(look.brow, 700, 0.007, 0.00025, self.brow, hanging=False, curl=self.curl)]
        lies = {"curl": self.curl, "parting": self.parting, "fringe": self.fringe}
        if not self.bald:
            count = 5000 if self.length > 0.07 else 7000
            hairs.insert(0, Hair(look.scalp, count, self.length, 0.0007, self.hair, **lies))
        if self.beard:
            where = np.maximum(look.beard, look.moustache)
            hairs.append(Hair(where, 3000, 0.008 * self.beard, 0.0003, self.hair, **lies))
        elif self.moustache:
            hairs.append(Hair(look.moustache, 1200, 0.009, 0.0003, self.hair, **lies))
        meshes += [strands(hair, own, points, normals, body.neutral) for hair in hairs]
        return meshes, {**features, **self._features(points)}

    def _features(self, points: Points) -> dict[str, Points]:
        """Places on the skin that landmarks are known by, found on the neutral head once."""
        neutral = self._body.neutral
        wanted = {
            "corner_l_out": (0.0455, -0.008, 0.001), "corner_l_in": (0.0165, -0.003, -0.003),
            "corner_r_out": (-0.0455, -0.008, 0.001), "corner_r_in": (-0.0165, -0.003, -0.003),
            "nose": (0, 0.040, -0.045), "mouth_l": (0.0253, 0.006, -0.078), "mouth_r": (-0.0253, 0.006, -0.078),
            "lip_up": (0, 0.027, -0.0675), "lip_down": (0, 0.024, -0.0895), "chin": (0, 0.018, -0.122),
            "brow_l": (0.034, 0.005, 0.024), "brow_r": (-0.034, 0.005, 0.024),
            "jaw_l": (0.058, -0.05, -0.085), "jaw_r": (-0.058, -0.05, -0.085),
            "temple_l": (0.070, -0.05, 0.01), "temple_r": (-0.070, -0.05, 0.01), "hair": (0, 0.0, 0.066),
        }  # fmt: skip
        return {name: points[((neutral - at) ** 2).sum(1).argmin()] for name, at in wanted.items()}

    def _painted(self, own: np.random.Generator) -> tuple[Points, np.ndarray]:
        """Colours of the skin and how far it stands out, metres; by place on the neutral head."""
        look, at = self._look, self._body.neutral
        blotches = sum(
            Noise(own, grain)(at) * weight
            for grain, weight in ((0.05, 0.05), (0.02, 0.035), (0.006, 0.02), (0.0025, 0.02))
        )
        red = 0.35 * look.cheek + 0.25 * look.nose + 0.12 * look.lids + 0.08 * Noise(own, 0.03)(at)
        colours = self.skin * np.exp(blotches[:, None] * [0.8, 1.0, 1.1] - red[:, None] * [0.02, 0.45, 0.40])
        if self.freckles or self.old:
            spots = step(Noise(own, 0.004)(at) + 0.6 * Noise(own, 0.02)(at), 1.4, 2.0)
            colours *= (
                1
                - np.clip(spots * (0.5 * self.freckles * (0.3 + look.cheek + look.nose) + 0.3 * self.old), 0, 0.6)[
                    :, None
                ]
            )
        lips = np.clip(self._body.lips, 0, 1)[:, None]
        own_lips = self.skin * [0.80, 0.48, 0.48] if self.lip_tint is None else self.lip_tint
        own_lips = own_lips * np.exp(0.12 * Noise(own, 0.003)(at * [1, 0.3, 0.15]))[:, None]
        colours = colours * (1 - 0.85 * lips) + own_lips * 0.85 * lips
        inside = np.clip(self._body.inside, 0, 1)[:, None]
        colours = colours * (1 - inside) + np.array([0.14, 0.03, 0.03]) * inside
        hairy = 0.55 * look.brow + self.stubble * np.maximum(look.beard, look.moustache) * (
            0.7 + 0.3 * Noise(own, 0.002)(at)
        )
        hairy = np.maximum(hairy, 0.92 * look.scalp if not self.bald else 0.12 * look.scalp)
        hairy = np.maximum(
            hairy, (0.85 if self.beard > 0.5 else 0.6 if self.beard else 0) * np.maximum(look.beard, look.moustache)
        )
        if self.made_up:
            hairy = np.maximum(hairy, 0.15 * look.lids)
        colours = colours + (self.hair - colours) * np.clip(hairy, 0, 1)[:, None]
        cloth_colour = own.uniform(0.02, 0.7, 3) ** 1.5
        weave = np.exp(0.15 * Noise(own, 0.02)(at) + 0.2 * Noise(own, 0.004)(at))[:, None]
        colours = colours + (cloth_colour * weave - colours) * look.cloth[:, None]
        x, _, z = at.T
        relief = sum(
            Noise(own, grain)(at) * depth for grain, depth in ((0.0018, 0.000018), (0.004, 0.00003), (0.012, 0.0001))
        )
        wavy = Noise(own, 0.03)(at)
        forehead = np.sin(2 * np.pi * (z + 0.002 * wavy) / own.uniform(0.007, 0.011)) * look.forehead
        crow = np.sin(2 * np.pi * (z * 1.4 + 0.5 * np.abs(x) * np.sign(z) * 0.4) / 0.0045) * look.crow
        relief = (
            relief
            - self.old * (0.0005 * forehead + 0.0004 * crow)
            - 0.00025 * lips[:, 0] * np.sin(2 * np.pi * x / 0.0022)
        )
        hair_depth = 0.0 if self.bald else min(0.02, 0.35 * self.length) * (0.8 + 0.2 * Noise(own, 0.03)(at))
        relief = (
            relief * (1 - look.scalp) + look.deep * hair_depth + look.cloth * 0.006 * (1 + 0.4 * Noise(own, 0.05)(at))
        )
        return np.clip(colours, 0.003, 0.9), relief
