"""Losses of the networks that restore."""

from __future__ import annotations

import torch
from network import LUMA
from torch import Tensor

#: Brings the logarithm to about the size of a mean absolute error, so that learning rates stay what they are.
_SCALE = 0.015


def log_error(result: Tensor, truth: Tensor) -> Tensor:
    """Mean over the patches of the logarithm of their mean squared error: PSNR itself.

    Every patch counts by how much better it could still be, lightly damaged ones as much as ruined ones.
    """
    squares = ((result - truth) ** 2).mean(dim=(1, 2, 3))
    return _SCALE * torch.log(squares + 1e-6).mean()


def log_luma_and_colour_error(result: Tensor, truth: Tensor) -> Tensor:
    """The same of luma, and at half the weight of colour, each by itself.

    Files hold colour at half the size; in RGB its error would drown that of luma, which is what eyes see.
    """
    error = result - truth
    luma = (error * torch.tensor(LUMA).reshape(1, 3, 1, 1)).sum(dim=1, keepdim=True)
    parts = [(luma**2).mean(dim=(1, 2, 3)), ((error - luma) ** 2).mean(dim=(1, 2, 3))]
    return _SCALE * sum(share * torch.log(part + 1e-6).mean() for share, part in zip((1.0, 0.5), parts, strict=True))
