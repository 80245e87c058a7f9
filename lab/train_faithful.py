"""Train the Faithful engine; resumable, made to run in the background.

    nice -n 19 python lab/train_faithful.py --minutes 105

Stops when the given minutes of training (over all resumed runs) are spent. The learning rate falls by a
cosine over that budget. Every five minutes a checkpoint is written and the reserved pictures are measured.
"""

from __future__ import annotations

import argparse
import json
import math
import time
from pathlib import Path

import numpy as np
import torch
from damage import faithful_source
from judge import psnr_table
from network import EnlargingNetwork
from PIL import Image
from torch import Tensor
from torch.nn import functional

HERE = Path(__file__).parent
RUN = HERE / "runs" / "faithful"
FACTORS = (2, 3, 4, 4, 4, 6, 8)
PATCH = {2: 40, 3: 40, 4: 36, 6: 28, 8: 24}
BATCH = 12
CHECK_EVERY = 300.0


def load_pictures() -> list[np.ndarray]:
    paths = sorted((HERE / "pictures").glob("*.png"))
    if not paths:
        raise SystemExit("No training pictures yet: run lab/pictures.py first.")
    return [np.asarray(Image.open(path).convert("RGB")) for path in paths]


def most_textured_patch(pictures: list[np.ndarray], side: int, random: np.random.Generator) -> np.ndarray:
    """The candidate with most gradient of three, flipped and turned at random; uint8, side×side×3."""
    best, most = None, -1.0
    for _ in range(3):
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


def batch(pictures: list[np.ndarray], factor: int, random: np.random.Generator) -> tuple[Tensor, Tensor]:
    """(small N×3×p×p, sharp N×3×fp×fp), RGB 0..1, channels last."""
    side = PATCH[factor] * factor
    sharp = [most_textured_patch(pictures, side, random) for _ in range(BATCH)]
    small = [faithful_source(patch, factor, random) for patch in sharp]

    def tensor(patches: list[np.ndarray]) -> Tensor:
        stack = torch.from_numpy(np.stack(patches)).permute(0, 3, 1, 2).float().div_(255)
        return stack.contiguous(memory_format=torch.channels_last)

    return tensor(small), tensor(sharp)


def loss_between(result: Tensor, truth: Tensor, with_spectrum: bool) -> Tensor:
    loss = functional.l1_loss(result, truth)
    if with_spectrum:
        difference = torch.fft.rfft2(result, norm="ortho") - torch.fft.rfft2(truth, norm="ortho")
        loss = loss + 0.02 * torch.view_as_real(difference).abs().mean()
    return loss


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=105)
    parser.add_argument("--width", type=int, default=64)
    parser.add_argument("--pairs", type=int, default=5)
    parser.add_argument("--rate", type=float, default=8e-4)
    options = parser.parse_args()

    torch.manual_seed(7)
    random = np.random.default_rng(time.time_ns())
    RUN.mkdir(parents=True, exist_ok=True)
    pictures = load_pictures()
    network = EnlargingNetwork(options.width, options.pairs).to(memory_format=torch.channels_last)
    average = EnlargingNetwork(options.width, options.pairs)
    average.load_state_dict(network.state_dict())
    optimiser = torch.optim.Adam(network.parameters(), lr=options.rate, betas=(0.9, 0.99))
    step, spent = 0, 0.0
    checkpoint = RUN / "checkpoint.pt"
    if checkpoint.exists():
        state = torch.load(checkpoint, weights_only=True)
        network.load_state_dict(state["network"])
        average.load_state_dict(state["average"])
        optimiser.load_state_dict(state["optimiser"])
        step, spent = state["step"], state["spent"]

    budget = options.minutes * 60
    last_check, recent, started = spent, [], time.monotonic() - spent
    while spent < budget:
        fraction = min(1.0, spent / budget)
        for group in optimiser.param_groups:
            group["lr"] = 1e-6 + options.rate * 0.5 * (1 + math.cos(math.pi * fraction)) * min(1, (step + 1) / 200)
        small, sharp = batch(pictures, int(random.choice(FACTORS)), random)
        factor = sharp.shape[-1] // small.shape[-1]
        loss = loss_between(network(small, factor), sharp, step % 2 == 0)
        optimiser.zero_grad(set_to_none=True)
        loss.backward()
        torch.nn.utils.clip_grad_norm_(network.parameters(), 0.5)
        optimiser.step()
        keep = min(0.998, 0.9 + step / 20000)
        with torch.no_grad():
            for slow, fast in zip(average.parameters(), network.parameters(), strict=True):
                slow.lerp_(fast, 1 - keep)
        recent.append(loss.item())
        step += 1
        spent = time.monotonic() - started
        if spent - last_check >= CHECK_EVERY or spent >= budget:
            last_check = spent
            state = {"network": network.state_dict(), "average": average.state_dict(),
                     "optimiser": optimiser.state_dict(), "step": step, "spent": spent}  # fmt: skip
            torch.save(state, checkpoint.with_suffix(".part"))
            checkpoint.with_suffix(".part").replace(checkpoint)
            table = psnr_table(lambda picture, f: average(picture, f), factors=(2, 4))
            line = {"step": step, "minutes": round(spent / 60, 1), "loss": round(float(np.mean(recent)), 5), **table}
            recent.clear()
            print(json.dumps(line), flush=True)
            with (RUN / "log.jsonl").open("a") as log:
                log.write(json.dumps(line) + "\n")


if __name__ == "__main__":
    main()
