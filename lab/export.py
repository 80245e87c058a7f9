"""Put the trained Faithful network on the shelf: ONNX file and manifest in core/kitecore/engines/faithful.

The weights are the running average of the checkpoint. ``python lab/judge.py --write`` then measures and records quality.
"""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

import onnx
import torch
from network import FACTORS, EnlargingNetwork
from torch import Tensor, nn

HERE = Path(__file__).parent
ENGINE = HERE.parent / "core/kitecore/engines/faithful"


class AllHeads(nn.Module):
    """Every head as an output; the runtime computes only those it is asked for."""

    def __init__(self, network: EnlargingNetwork) -> None:
        super().__init__()
        self.network = network

    def forward(self, picture: Tensor) -> tuple[Tensor, ...]:
        features = self.network.features(picture)
        return tuple(self.network.heads[str(factor)](features, picture) for factor in FACTORS)


def operations_per_pixel(network: EnlargingNetwork, factor: int) -> float:
    """Multiplications and additions per source pixel: backbone and one head."""
    width = network.width
    weights = 3 * width + 2 * network.pairs * width * width + (width + 3) * 3 * factor * factor
    return 2.0 * 9 * weights


def main() -> None:
    state = torch.load(HERE / "runs/faithful/checkpoint.pt", weights_only=True)
    width = state["average"]["entry.weight"].shape[0]
    pairs = sum(1 for name in state["average"] if name.endswith("first.weight"))
    network = EnlargingNetwork(width, pairs)
    network.load_state_dict(state["average"])
    network.eval()
    path = ENGINE / "faithful.onnx"
    names = [f"x{factor}" for factor in FACTORS]
    torch.onnx.export(
        AllHeads(network), (torch.rand(1, 3, 48, 40),), str(path), input_names=["picture"], output_names=names,
        dynamic_axes={name: {0: "n", 2: f"h_{name}", 3: f"w_{name}"} for name in ["picture", *names]},
        opset_version=17, dynamo=False,
    )  # fmt: skip
    onnx.checker.check_model(str(path))
    manifest = {
        "id": "faithful",
        "name": "Faithful",
        "order": 10,
        "purpose": "Closest to the source: sharpens what is there and invents nothing. For most photographs.",
        "kind": "enlarge",
        "network": {
            "file": path.name,
            "sha256": hashlib.sha256(path.read_bytes()).hexdigest(),
            "input": "picture",
            "outputs": {str(factor): f"x{factor}" for factor in FACTORS},
            "range": [0.0, 1.0],
            "reach": network.reach,
            "operations_per_pixel": {str(factor): operations_per_pixel(network, factor) for factor in FACTORS},
        },
        "licence": "Part of Kite Glass; trained from scratch on the openly licensed photographs of lab/provenance.json.",
        "training": {
            "script": "lab/train_faithful.py",
            "pictures": "lab/provenance.json",
            "steps": state["step"],
            "minutes_on_two_cores": round(state["spent"] / 60),
            "width": width,
            "residual_pairs": pairs,
        },
    }
    (ENGINE / "engine.json").write_text(json.dumps(manifest, indent=2, ensure_ascii=False) + "\n")
    print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB, step {state['step']}")


if __name__ == "__main__":
    main()
