"""The optimiser: orthogonalised momentum for convolutions, Adam for everything else.

References
----------
K. Jordan and others, "Muon: an optimizer for hidden layers in neural networks", 2024; updates are scaled to the size
Adam's would have, as in J. Liu and others, "Muon is scalable for LLM training", 2025.
"""

from __future__ import annotations

from collections.abc import Callable

import torch
from torch import Tensor, nn

_MOMENTUM = 0.95
_ADAM_BETAS, _ADAM_EPSILON = (0.9, 0.99), 1e-8


@torch.no_grad()
def orthogonalised(matrix: Tensor) -> Tensor:
    """The nearest matrix with singular values of about 1, by five Newton–Schulz steps."""
    a, b, c = 3.4445, -4.7750, 2.0315
    tall = matrix.shape[0] > matrix.shape[1]
    x = matrix.T if tall else matrix
    x = x / (x.norm() + 1e-7)
    for _ in range(5):
        square = x @ x.T
        x = a * x + (b * square + c * square @ square) @ x
    return x.T if tall else x


class Muon(torch.optim.Optimizer):
    """``hidden`` weights move by orthogonalised momentum, ``others`` by Adam; one learning rate for both."""

    def __init__(self, hidden: list[nn.Parameter], others: list[nn.Parameter], lr: float) -> None:
        super().__init__([{"params": hidden, "hidden": True}, {"params": others, "hidden": False}], {"lr": lr})

    @torch.no_grad()
    def step(self, closure: Callable[[], float] | None = None) -> None:  # type: ignore[override]
        for group in self.param_groups:
            for weight in group["params"]:
                if weight.grad is None:
                    continue
                state = self.state[weight]
                if not state:
                    state["step"] = 0
                    state["mean"] = torch.zeros_like(weight)
                    if not group["hidden"]:
                        state["square"] = torch.zeros_like(weight)
                state["step"] += 1
                update = self._orthogonal if group["hidden"] else self._adam
                weight.add_(update(weight.grad, state), alpha=-group["lr"])

    @staticmethod
    def _orthogonal(gradient: Tensor, state: dict[str, Tensor]) -> Tensor:
        state["mean"].lerp_(gradient, 1 - _MOMENTUM)
        ahead = gradient.lerp(state["mean"], _MOMENTUM).flatten(1)
        size = 0.2 * max(ahead.shape) ** 0.5
        return (orthogonalised(ahead) * size).reshape(gradient.shape)

    @staticmethod
    def _adam(gradient: Tensor, state: dict[str, Tensor]) -> Tensor:
        first, second = _ADAM_BETAS
        state["mean"].lerp_(gradient, 1 - first)
        state["square"].lerp_(gradient * gradient, 1 - second)
        mean = state["mean"] / (1 - first ** state["step"])
        return mean / ((state["square"] / (1 - second ** state["step"])).sqrt() + _ADAM_EPSILON)


def optimiser_for(network: nn.Module, lr: float) -> Muon:
    """Inner convolutions are hidden; the first, the last, biases and slopes are not."""
    hidden, others = [], []
    for weight in network.parameters():
        inner = weight.dim() == 4 and min(weight.shape[:2]) >= 32
        (hidden if inner else others).append(weight)
    return Muon(hidden, others, lr)
