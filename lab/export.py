"""Put a trained network on the shelf: ONNX file and manifest in ``core/kitecore/engines``.

    PYTHONPATH=core .venv-lab/bin/python lab/export.py denoise

The weights are the running average of the checkpoint. ``lab/judge.py --write`` then measures and records quality.
"""

from __future__ import annotations

import argparse
import hashlib
import json
from pathlib import Path

import onnx
import torch
from network import FACTORS, EnlargingNetwork
from recipe import all_recipes, recipe_named
from storage import packed
from torch import Tensor, nn

HERE = Path(__file__).parent
ENGINES = HERE.parent / "core/kitecore/engines"
FINDERS = HERE.parent / "core/kitecore/reading"


class AllHeads(nn.Module):
    """Every head as an output; the runtime computes only those it is asked for."""

    def __init__(self, network: EnlargingNetwork) -> None:
        super().__init__()
        self.network = network

    def forward(self, picture: Tensor) -> tuple[Tensor, ...]:
        features = self.network.features(picture)
        return tuple(self.network.heads[str(factor)](features, picture) for factor in FACTORS)


def write_enlarging(network: EnlargingNetwork, path: Path) -> dict[str, object]:
    names = [f"x{factor}" for factor in FACTORS]
    torch.onnx.export(
        AllHeads(network), (torch.rand(1, 3, 48, 40),), str(path), input_names=["picture"], output_names=names,
        dynamic_axes={name: {0: "n", 2: f"h_{name}", 3: f"w_{name}"} for name in ["picture", *names]},
        opset_version=17, dynamo=False,
    )  # fmt: skip
    return {
        "input": "picture",
        "outputs": {str(factor): f"x{factor}" for factor in FACTORS},
        "reach": network.reach,
        "stride": network.stride,
        "operations_per_pixel": {str(factor): network.operations_per_pixel(factor) for factor in FACTORS},
    }


def write_restoring(module: nn.Module, path: Path) -> dict[str, object]:
    network = module.network
    given = (torch.rand(1, 3 * network.pictures, 64, 48), torch.rand(1, len(module.MAPS), 64, 48))
    axes = {name: {0: "n", 2: "h", 3: "w"} for name in ("picture", "maps", "restored")}
    torch.onnx.export(
        module, given, str(path), input_names=["picture", "maps"], output_names=["restored"], dynamic_axes=axes,
        opset_version=17, dynamo=False,
    )  # fmt: skip
    return {
        "input": "picture",
        "maps": "maps",
        "outputs": {"1": "restored"},
        "reach": network.reach,
        "stride": network.STRIDE,
        "operations_per_pixel": {"1": network.operations_per_pixel},
    }


def write_finding(network: nn.Module, path: Path) -> None:
    torch.onnx.export(
        network, (torch.rand(1, 3, 64, 48),), str(path), input_names=["picture"], output_names=["chance"],
        dynamic_axes={name: {0: "n", 2: "h", 3: "w"} for name in ("picture", "chance")}, opset_version=17, dynamo=False,
    )  # fmt: skip
    onnx.save(packed(onnx.load(str(path))), str(path))
    onnx.checker.check_model(str(path))


def export_finder(name: str) -> None:
    """What finds something is no engine: its network lies beside what reads pictures."""
    state = torch.load(HERE / "runs" / name / "checkpoint.pt", weights_only=True)
    network = recipe_named(name).network()
    network.load_state_dict(state["average"])
    network.eval()
    path = FINDERS / f"{name}.onnx"
    write_finding(network, path)
    print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB, step {state['step']}, {state['spent'] / 60:.0f} minutes")


def weaker(module: nn.Module, share: float) -> None:
    """What the heads of a network that enlarges add to plain enlarging, times ``share``: where flats must stay calmer."""
    with torch.no_grad():
        for name, weight in module.named_parameters():
            if name.startswith("heads.") and ".detail." in name:
                weight.mul_(share)


def export(name: str, detail: float = 1.0) -> None:
    recipe = recipe_named(name)
    shelf = recipe.shelf
    state = torch.load(HERE / "runs" / name / "checkpoint.pt", weights_only=True)
    earlier_steps, earlier_minutes = state.get("earlier", (0, 0.0))
    module = recipe.network()
    module.load_state_dict(state["average"])
    module.eval()
    weaker(module, detail)
    folder = ENGINES / name
    folder.mkdir(exist_ok=True)
    # Written by hand, of what the judge measured.
    earlier = folder / "engine.json"
    for_print = json.loads(earlier.read_text()).get("print", "") if earlier.exists() else ""
    path = folder / f"{name}.onnx"
    description = (write_enlarging if shelf.kind == "enlarge" else write_restoring)(module, path)
    onnx.save(packed(onnx.load(str(path))), str(path))
    onnx.checker.check_model(str(path))
    manifest = {
        "id": name, "name": shelf.title, "order": shelf.order, "purpose": shelf.purpose, "print": for_print,
        "kind": shelf.kind,
        "network": {
            "file": path.name, "sha256": hashlib.sha256(path.read_bytes()).hexdigest(), "range": [0.0, 1.0],
            **description,
        },
        **({"sample": shelf.sample} if shelf.sample else {}),
        "licence": "Part of Kite Glass; trained from scratch on openly licensed and drawn pictures.",
        "training": {
            "script": f"lab/train.py {name}",
            "pictures": shelf.pictures,
            "started_from": recipe.start or "random weights",
            "steps": state["step"] + earlier_steps,
            "minutes_on_two_cores": round(state["spent"] / 60 + earlier_minutes),
            "weights": sum(weight.numel() for weight in module.parameters()),
        },
    }  # fmt: skip
    (folder / "engine.json").write_text(json.dumps(manifest, indent=2, ensure_ascii=False) + "\n")
    print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB, step {state['step']}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("engines", nargs="+", choices=list(all_recipes()))
    parser.add_argument("--detail", type=float, default=1.0, help="share of what the heads add; Salvage has 0.985")
    options = parser.parse_args()
    for name in options.engines:
        if recipe_named(name).shelf.kind == "find":
            export_finder(name)
        else:
            export(name, options.detail)


if __name__ == "__main__":
    main()
