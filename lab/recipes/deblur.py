"""Deblur: movement, missed focus and softness, from Wiener-deconvolved versions of the picture.

The blur the network is told of is seldom quite the blur there was, as with a person who sets it by eye.
"""

from __future__ import annotations

import cv2
import damage
import numpy as np
import torch
from losses import log_error
from measures import psnr_rgb
from network import Deblurrer
from patches import cut_dense, photographs, tensor
from recipe import Recipe, Shelf, Table, line
from reserved import reserved_pictures
from torch import Tensor, nn

from kitecore.filters.deconvolution import REACH, REGULARISATIONS, deconvolved, wiener_kernel
from kitecore.steps.deblur import Blur, FocusBlur, MotionBlur, SoftBlur

SIDE, BATCH = 96, 4
MARGIN = REACH


def any_blur(random: np.random.Generator) -> tuple[Blur, Blur]:
    """A blur, and what a person would take it for."""
    wrong = random.uniform(0.75, 1.3) if random.random() < 0.4 else random.uniform(0.93, 1.07)
    draw = random.random()
    if draw < 0.4:
        radius = 0.6 + 7.4 * random.random() ** 1.5
        return FocusBlur(radius=radius), FocusBlur(radius=min(10, radius * wrong))
    if draw < 0.82:
        length, angle = 2 + 22 * random.random() ** 0.9, random.uniform(0, 180)
        taken = MotionBlur(length=min(30, length * wrong), angle=angle + random.normal(0, 3))
        return MotionBlur(length=length, angle=angle), taken
    sigma = 0.5 + 3 * random.random() ** 1.5
    return SoftBlur(sigma=sigma), SoftBlur(sigma=min(5, sigma * wrong))


def softened(sharp: np.ndarray, psf: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """A uint8 patch blurred in light or, as most tests do it, in coded values; with noise, as a file holds it."""
    if random.random() < 0.3:
        picture = damage.coded(damage.blurred(damage.linear(sharp), psf))
    else:
        picture = damage.blurred(sharp, psf)
    noise = 1.5 * random.random() if random.random() < 0.6 else 6 * random.random() ** 2
    picture = damage.add_noise(picture, noise, random)
    return damage.jpeg(picture, int(random.integers(85, 99)), 0) if random.random() < 0.15 else picture


def versions(picture: np.ndarray, blur: Blur) -> np.ndarray:
    """The picture and its deconvolved versions, H×W×12 float32 0..1, as the step hands them to the engine."""
    pixels = picture.astype(np.float32) / 255
    kernels = [wiener_kernel(blur.psf(), regularisation) for regularisation in REGULARISATIONS]
    return np.concatenate([pixels, *deconvolved(pixels, kernels)], axis=2)


def maps_of(blur: Blur, height: int, width: int) -> Tensor:
    """Maps 5×H×W with the strength at 1."""
    values = torch.tensor([1.0, *blur.description()])
    return values[:, None, None].expand(5, height, width)


class Deblur(Recipe):
    shelf = Shelf("deblur", "Deblur", 130, "Undoes movement, missed focus and softness of the kind and size you name.")
    start = "denoise"
    #: The medium deconvolution is the picture to be cleaned: channels 6 to 8, four each once unshuffled.
    start_place = 24
    minutes = 26.0
    rate = 6e-4

    def network(self) -> nn.Module:
        return Deblurrer()

    def loss(self, network: nn.Module, step: int, random: np.random.Generator) -> Tensor:
        inner = slice(MARGIN, MARGIN + SIDE)
        truths, givens, maps = [], [], []
        for _ in range(BATCH):
            sharp = cut_dense(photographs(), SIDE + 2 * MARGIN, random)
            blur, taken = any_blur(random)
            given = versions(softened(sharp, blur.psf(), random), taken)
            truths.append(sharp[inner, inner])
            givens.append(given[inner, inner])
            maps.append(maps_of(taken, SIDE, SIDE))
        return log_error(network(tensor(givens), torch.stack(maps)), tensor(truths))

    def measure(self, network: nn.Module) -> dict[str, float]:
        random = np.random.default_rng(3)
        table = {}
        blurs: dict[str, Blur] = {f"focus {radius}": FocusBlur(radius=radius) for radius in (1.5, 2.5, 4)}
        blurs |= {f"motion {length}": MotionBlur(length=length, angle=30) for length in (5, 15)}
        for name, blur in blurs.items():
            scores = []
            for truth in reserved_pictures().values():
                given = damage.add_noise(damage.blurred(truth, blur.psf()), 1.5, random)
                framed = cv2.copyMakeBorder(given, 64, 64, 64, 64, cv2.BORDER_REFLECT_101)
                height, width = framed.shape[:2]
                result = network(tensor([versions(framed, blur)]), maps_of(blur, height, width)[None])
                inner = result[0, :, 64:-64, 64:-64].permute(1, 2, 0).numpy() * 255
                scores.append(psnr_rgb(inner, truth))
            table[name] = round(float(np.mean(scores)), 2)
        return table

    def bars(self, table: Table, plain: Table) -> dict[str, bool]:
        rows = table["blur"].items()
        over = {
            f"{kind}: 1.0 dB over Richardson–Lucy": row["deblur"] >= row["richardson_lucy"] + 1 for kind, row in rows
        }
        return over | {
            f"{kind}: no worse than the input when told wrong": min(row["told 0.8"], row["told 1.2"]) >= row["as_it_is"]
            for kind, row in rows
        }

    def lines(self, table: Table, plain: Table) -> list[dict[str, str]]:
        names = {"focus 1.5": "focus, radius 1.5 px", "focus 4": "focus, radius 4 px", "motion 10": "movement of 10 px"}
        rows = {name: table["blur"][kind] for kind, name in names.items()}
        return [
            line(name, f"{row['deblur']:.1f} dB", f"classic {row['richardson_lucy']:.1f}") for name, row in rows.items()
        ]


RECIPE = Deblur()
