"""Bring the networks of a cascaded face detector into the core: ``python lab/convert_faces.py facenet_pytorch-2.6.0-….whl``.

The weights lie inside the wheel of facenet-pytorch 2.6.0 (MIT); get it with ``pip download --no-deps``. The networks are those of
K. Zhang and others, "Joint Face Detection and Alignment Using Multitask Cascaded Convolutional Networks", 2016.
"""

from __future__ import annotations

import argparse
import io
import zipfile
from pathlib import Path

import torch
from torch import Tensor, nn
from torch.nn import functional

FACES = Path(__file__).parent.parent / "core/kitecore/faces"


def _trunk(widths: tuple[int, ...], kernels: tuple[int, ...], pools: tuple[int, ...]) -> nn.ModuleDict:
    """Convolutions, each bent and pooled (0: not), by the names that the weights have."""
    layers, before = nn.ModuleDict(), 3
    for index, (width, kernel, pool) in enumerate(zip(widths, kernels, pools, strict=True), 1):
        layers[f"conv{index}"] = nn.Conv2d(before, width, kernel)
        layers[f"prelu{index}"] = nn.PReLU(width)
        if pool:
            layers[f"pool{index}"] = nn.MaxPool2d(pool, 2, ceil_mode=True)
        before = width
    return layers


class Propose(nn.Module):
    """N×3×H×W, -1..1, to how sure a face is and four corrections of its box, every two pixels, of 12×12 px windows."""

    def __init__(self) -> None:
        super().__init__()
        self.trunk = _trunk((10, 16, 32), (3, 3, 3), (2, 0, 0))
        self.conv4_1, self.conv4_2 = nn.Conv2d(32, 2, 1), nn.Conv2d(32, 4, 1)

    def forward(self, picture: Tensor) -> tuple[Tensor, ...]:
        x = picture
        for layer in self.trunk.values():
            x = layer(x)
        return functional.softmax(self.conv4_1(x), dim=1)[:, 1], self.conv4_2(x)


class Look(nn.Module):
    """Windows N×3×S×S, -1..1, to how sure a face is, corrections of its box and, in the last stage, five places in it."""

    def __init__(self, last: bool) -> None:
        super().__init__()
        if last:
            self.trunk = _trunk((32, 64, 64, 128), (3, 3, 3, 2), (3, 3, 2, 0))
            sizes, names = (1152, 256), ("dense5", "prelu5", "dense6_1", "dense6_2", "dense6_3")
        else:
            self.trunk = _trunk((28, 48, 64), (3, 3, 2), (3, 3, 0))
            sizes, names = (576, 128), ("dense4", "prelu4", "dense5_1", "dense5_2")
        outputs = (2, 4, 10)[: len(names) - 2]
        self.dense = nn.ModuleDict({names[0]: nn.Linear(*sizes), names[1]: nn.PReLU(sizes[1])})
        self.heads = nn.ModuleDict({
            name: nn.Linear(sizes[1], count) for name, count in zip(names[2:], outputs, strict=True)
        })  # fmt: skip

    def forward(self, windows: Tensor) -> tuple[Tensor, ...]:
        x = windows
        for layer in self.trunk.values():
            x = layer(x)
        x = x.permute(0, 3, 2, 1).flatten(1)
        for layer in self.dense.values():
            x = layer(x)
        sure, *others = (head(x) for head in self.heads.values())
        return functional.softmax(sure, dim=1)[:, 1], *others


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("wheel", type=Path)
    with zipfile.ZipFile(parser.parse_args().wheel) as wheel:
        for name, file, network, side in (
            ("propose", "pnet", Propose(), 12), ("refine", "rnet", Look(last=False), 24), ("decide", "onet", Look(last=True), 48),
        ):  # fmt: skip
            weights = torch.load(io.BytesIO(wheel.read(f"facenet_pytorch/data/{file}.pt")), weights_only=True)
            state = {
                place.split(".", 1)[1] if place.startswith(("trunk", "dense.", "heads")) else place: place
                for place in network.state_dict()
            }
            network.load_state_dict({place: weights[old] for old, place in state.items()})
            outputs = ["sure", "box", "places"][: 3 if name == "decide" else 2]
            axes = {"picture": {0: "n", **({2: "h", 3: "w"} if name == "propose" else {})}}
            axes |= {
                output: {
                    0: "n",
                    **(
                        {1 if output == "sure" else 2: "y", 2 if output == "sure" else 3: "x"}
                        if name == "propose"
                        else {}
                    ),
                }
                for output in outputs
            }
            torch.onnx.export(
                network.eval(), (torch.rand(1, 3, side, side),), str(FACES / f"{name}.onnx"), input_names=["picture"],
                output_names=outputs, dynamic_axes=axes, opset_version=17, dynamo=False,
            )  # fmt: skip
        licence = next(entry for entry in wheel.namelist() if "LICENSE" in entry)
        (FACES / "LICENSE-cascade").write_bytes(wheel.read(licence))


if __name__ == "__main__":
    main()
