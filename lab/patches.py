"""Training patches: cut where there is something to learn, turned and mirrored at random."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import cv2
import numpy as np
import torch
from PIL import Image
from torch import Tensor

HERE = Path(__file__).parent


@cache
def photographs() -> tuple[np.ndarray, ...]:
    """The photographs of :mod:`pictures`, H×W×3 uint8."""
    return _pictures_in(HERE / "pictures", "lab/pictures.py")


@cache
def drawings() -> tuple[np.ndarray, ...]:
    """The drawings, lettering and renders of :mod:`drawings`, H×W×3 uint8."""
    return _pictures_in(HERE / "drawings", "lab/drawings.py", "[dr]*.png")


@cache
def book_pages() -> tuple[np.ndarray, ...]:
    """The pages of small print of :mod:`drawings`, H×W×3 uint8."""
    return _pictures_in(HERE / "drawings", "lab/drawings.py", "page-*.png")


@cache
def notes() -> tuple[np.ndarray, ...]:
    """The handwritten notes of :mod:`drawings`, H×W×3 uint8."""
    return _pictures_in(HERE / "drawings", "lab/drawings.py", "note-*.png")


def _pictures_in(folder: Path, maker: str, pattern: str = "*.png") -> tuple[np.ndarray, ...]:
    paths = sorted(folder.glob(pattern))
    if not paths:
        raise SystemExit(f"There are no training pictures in {folder.name} yet: run {maker} first.")
    return tuple(np.asarray(Image.open(path).convert("RGB")) for path in paths)


def cut(
    pictures: tuple[np.ndarray, ...], side: int, random: np.random.Generator, candidates: int = 3
) -> np.ndarray:  # fmt: skip
    """The candidate with most gradient of several, side×side×3 uint8, turned and mirrored at random."""
    best, most = None, -1.0
    for _ in range(candidates):
        picture = pictures[random.integers(len(pictures))]
        top = random.integers(picture.shape[0] - side + 1)
        left = random.integers(picture.shape[1] - side + 1)
        patch = picture[top : top + side, left : left + side]
        grey = patch[::2, ::2, 1].astype(np.float32)
        texture = float(np.abs(np.diff(grey, axis=0)).mean() + np.abs(np.diff(grey, axis=1)).mean())
        if texture > most:
            best, most = patch, texture
    assert best is not None
    if random.random() < 0.5:
        best = best[:, ::-1]
    return np.ascontiguousarray(np.rot90(best, int(random.integers(4))))


def cut_dense(
    pictures: tuple[np.ndarray, ...], side: int, random: np.random.Generator, candidates: int = 6
) -> np.ndarray:
    """Like :func:`cut`, every other patch from twice the area, shrunk.

    Large photographs hold much that is smooth; small ones, as people bring them, show more in every pixel.
    """
    if random.random() < 0.5:
        return cut(pictures, side, random, candidates)
    wide = cut(pictures, 2 * side, random, candidates)
    return cv2.resize(wide, (side, side), interpolation=cv2.INTER_AREA)


def without_colour(patch: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """Most patches as they are; an eighth grey, half of those toned as old prints are. H×W×3 uint8.

    What is learnt of grey pictures must not be taken from coloured ones.
    """
    if random.random() >= 0.125:
        return patch
    grey = cv2.cvtColor(patch, cv2.COLOR_RGB2GRAY)[..., None].repeat(3, axis=2)
    if random.random() < 0.5:
        return grey
    # Warm in the lights, less so in the darks.
    tone = np.array([1.0, random.uniform(0.85, 0.97), random.uniform(0.65, 0.9)])
    return np.rint(255 * (grey / 255) ** (1 / tone) * tone**0.3).clip(0, 255).astype(np.uint8)


def laid_down(
    pages: tuple[np.ndarray, ...],
    side: int,
    scales: tuple[float, float],
    squeeze: float,
    turn: float,
    random: np.random.Generator,
) -> np.ndarray:
    """A part of a page as it lies under a camera, side×side×3 uint8: never mirrored, upright but for a little.

    Letters are known by their shapes only if they stand as letters do. The page is scaled by something between the
    ``scales``, its height by down to ``squeeze`` of that, and turned by up to ``turn`` degrees; antialiased.
    """  # fmt: skip
    page = pages[random.integers(len(pages))]
    scale = float(np.exp(random.uniform(*np.log(scales))))
    across, down = scale, scale * random.uniform(squeeze, 1)
    angle = np.deg2rad(random.uniform(-turn, turn))
    matrix = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]]) @ np.diag([across, down])
    # Some point well inside the page comes to lie in the middle of the patch; only what is around it is looked at.
    middle = random.uniform(0.3, 0.7, 2) * page.shape[1::-1]
    around = int(0.75 * side / min(across, down)) + 8
    left, top = (max(0, int(place) - around) for place in middle)
    page = page[top : top + 2 * around, left : left + 2 * around]
    soft = cv2.GaussianBlur(page, (0, 0), sigmaX=0.45 / across, sigmaY=0.45 / down)
    shift = side / 2 - matrix @ (middle - (left, top))
    return cv2.warpAffine(
        soft, np.hstack([matrix, shift[:, None]]), (side, side), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
    )


def bent(patch: np.ndarray, random: np.random.Generator) -> np.ndarray:
    """A patch whose parts are moved by a few pixels, smoothly: no two hands draw a letter alike. H×W×3 uint8."""
    height, width = patch.shape[:2]
    period, strength = random.uniform(12, 40), random.uniform(0, 2.5)
    coarse = (2, max(2, round(height / period)), max(2, round(width / period)))
    moved = [cv2.resize(one, (width, height), interpolation=cv2.INTER_CUBIC) * strength
             for one in random.standard_normal(coarse, np.float32)]  # fmt: skip
    columns, rows = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))
    return cv2.remap(patch, columns + moved[0], rows + moved[1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)


def tensor(patches: list[np.ndarray]) -> Tensor:
    """N×C×H×W float32, channels last, from H×W×C patches; uint8 becomes 0..1, floats are kept."""
    stack = torch.from_numpy(np.stack(patches)).permute(0, 3, 1, 2)
    stack = stack.float().div_(255) if stack.dtype == torch.uint8 else stack.float()
    return stack.contiguous(memory_format=torch.channels_last)
