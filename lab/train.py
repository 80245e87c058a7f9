"""Train one engine; resumable, made to run in the background.

    PYTHONPATH=core nice -n 19 .venv-lab/bin/python lab/train.py denoise --minutes 40

A later session has no checkpoint: ``--go-on`` starts from the shipped weights. Stops when the given minutes of computing
(over all resumed runs) are spent. The learning rate falls by a cosine over that budget. Every few minutes
a checkpoint is written to ``lab/runs`` and the reserved pictures are measured.
"""

from __future__ import annotations

import argparse
import json
import math
import time
from pathlib import Path

import numpy as np
import onnx
import torch
from optimiser import optimiser_for
from recipe import recipe_named
from storage import weights_of
from torch import nn

HERE = Path(__file__).parent
ENGINES = HERE.parent / "core/kitecore/engines"
FINDERS = HERE.parent / "core/kitecore/reading"
CHECK_EVERY = 240.0
#: A step that takes longer than this was interrupted; the rest of it is not counted as training.
LONGEST_STEP = 5.0


def weights_in(path: Path) -> dict[str, np.ndarray]:
    """The weights of an ONNX file by the names the network has for them."""
    model = onnx.load(str(path))
    arrays = weights_of(model)
    named = {name.removeprefix("network."): array for name, array in arrays.items()}
    for node in model.graph.node:
        # The exporter names slopes of PReLU anew; whose they are, it says in the node's name: /body/body.0/bend/PRelu.
        if node.op_type == "PRelu":
            place: list[str] = []
            for part in node.name.strip("/").split("/")[:-1]:
                if place and part.startswith(f"{place[-1]}."):
                    place.pop()
                place.append(part)
            named[".".join([*place, "weight"]).removeprefix("network.")] = arrays[node.input[1]].reshape(-1)
    return named


def shipped(name: str) -> Path:
    """The ONNX file of an engine, or of what finds something and lies beside what reads pictures."""
    engine = ENGINES / name / f"{name}.onnx"
    return engine if engine.exists() else FINDERS / f"{name}.onnx"


@torch.no_grad()
def start_from(network: nn.Module, engine: str, place: int = 0) -> None:
    """Give a network the weights inside the ONNX file of a shipped engine.

    A network that is wider or deeper than the engine, or has a branch it has not, begins as the same function: old
    channels take nothing from new ones, new residual pairs add nothing. A first convolution that is given more channels
    gets the shipped weights from channel ``place`` on.
    """
    named = weights_in(shipped(engine))
    state = network.state_dict()
    for name, tensor in state.items():
        parts = name.split(".")
        if name.removeprefix("network.") not in named:
            if parts[-2] == "second":
                tensor.zero_()
            continue
        weights = torch.from_numpy(named[name.removeprefix("network.")].copy())
        count = weights.shape[0]
        if weights.dim() == 4:
            tensor[:count] = 0
            offset = place if parts[-2] == "entry" else 0
            tensor[:count, offset : offset + weights.shape[1]] = weights
        else:
            tensor[:count] = weights
    network.load_state_dict(state)


def already_spent(engine: str) -> tuple[int, float]:
    """Steps and minutes the shipped engine was trained, as its manifest has them; what finds something has none."""
    if not (ENGINES / engine / "engine.json").exists():
        return 0, 0.0
    training = json.loads((ENGINES / engine / "engine.json").read_text())["training"]
    return training["steps"], training["minutes_on_two_cores"]


def train(name: str, minutes: float | None, goes_on: bool, rate: float | None) -> None:
    """Train until ``minutes`` are spent; ``goes_on`` starts from the engine's own shipped weights."""
    recipe = recipe_named(name)
    highest = rate or recipe.rate
    torch.manual_seed(7)
    random = np.random.default_rng(time.time_ns())
    run = HERE / "runs" / name
    run.mkdir(parents=True, exist_ok=True)
    network, average = recipe.network().to(memory_format=torch.channels_last), recipe.network()
    earlier = (0, 0.0)
    if goes_on:
        start_from(network, name)
        earlier = already_spent(name)
    elif recipe.start:
        start_from(network, recipe.start, recipe.start_place)
    average.load_state_dict(network.state_dict())
    optimiser = optimiser_for(network, highest)
    step, spent = 0, 0.0
    checkpoint = run / "checkpoint.pt"
    if checkpoint.exists():
        state = torch.load(checkpoint, weights_only=True)
        network.load_state_dict(state["network"])
        average.load_state_dict(state["average"])
        optimiser.load_state_dict(state["optimiser"])
        step, spent, earlier = state["step"], state["spent"], state.get("earlier", (0, 0.0))

    budget = 60 * (minutes or recipe.minutes)
    last_check, recent = spent, []
    while spent < budget:
        began = time.monotonic()
        fraction = min(1.0, spent / budget)
        for group in optimiser.param_groups:
            group["lr"] = 1e-6 + highest * 0.5 * (1 + math.cos(math.pi * fraction)) * min(1, (step + 1) / 100)
        loss = recipe.loss(network, step, random)
        optimiser.zero_grad(set_to_none=True)
        loss.backward()
        torch.nn.utils.clip_grad_norm_(network.parameters(), 0.5)
        optimiser.step()
        keep = min(0.997, 0.9 + step / 8000)
        with torch.no_grad():
            for slow, fast in zip(average.parameters(), network.parameters(), strict=True):
                slow.lerp_(fast, 1 - keep)
        recent.append(loss.item())
        step += 1
        spent += min(LONGEST_STEP, time.monotonic() - began)
        if spent - last_check >= CHECK_EVERY or spent >= budget:
            last_check = spent
            state = {"network": network.state_dict(), "average": average.state_dict(),
                     "optimiser": optimiser.state_dict(), "step": step, "spent": spent,
                     "earlier": earlier}  # fmt: skip
            torch.save(state, checkpoint.with_suffix(".part"))
            checkpoint.with_suffix(".part").replace(checkpoint)
            with torch.no_grad():
                measured = recipe.measure(average)
            line = {"step": step, "minutes": round(spent / 60, 1), "loss": round(float(np.mean(recent)), 5), **measured}
            recent.clear()
            print(json.dumps(line), flush=True)
            with (run / "log.jsonl").open("a") as log:
                log.write(json.dumps(line) + "\n")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("engine")
    parser.add_argument("--minutes", type=float, help="of computing, over all runs; the recipe's own unless given")
    parser.add_argument("--rate", type=float, help="highest learning rate; the recipe's own unless given")
    parser.add_argument("--go-on", action="store_true", help="start from the engine's own shipped weights")
    options = parser.parse_args()
    train(options.engine, options.minutes, options.go_on, options.rate)


if __name__ == "__main__":
    main()
