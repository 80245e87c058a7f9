"""What is fast on this machine's processor: width and depth, tile size, memory layout, threads, eight-bit weights.

    PYTHONPATH=core .venv-lab/bin/python lab/speed.py

Wants an otherwise idle machine. Speeds do not depend on what a network has learnt, so designs are timed with random
weights; eight bits are tried on Faithful itself, because there the picture counts as well.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import damage
import numpy as np
import onnxruntime
import torch
from export import AllHeads, write_enlarging
from judge import peak_arithmetic
from measures import psnr_y
from network import EnlargingNetwork
from onnxruntime.quantization import CalibrationDataReader, QuantFormat, QuantType, quantize_static
from patches import photographs
from reserved import reserved_pictures
from torch import nn

from kitecore.engines.graph import pruned

ENGINES = Path(__file__).parent.parent / "core/kitecore/engines"
FACTOR, REACH = 4, 12


def session(path: Path, threads: int = 0, layout: bool = True) -> onnxruntime.InferenceSession:
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = threads
    options.log_severity_level = 3
    if not layout:
        # Everything but the blocked layout that suits the vector registers.
        options.graph_optimization_level = onnxruntime.GraphOptimizationLevel.ORT_ENABLE_EXTENDED
    content = pruned(path.read_bytes(), [f"x{FACTOR}"])
    return onnxruntime.InferenceSession(content, options, providers=["CPUExecutionProvider"])


def seconds(run: onnxruntime.InferenceSession, side: int) -> float:
    """Of the ×4 output for one tile of ``side`` source pixels with its surroundings: the best of several."""
    given = np.random.default_rng(1).random((1, 3, side + 2 * REACH, side + 2 * REACH), np.float32)
    best = float("inf")
    for _ in range(8):
        began = time.perf_counter()
        run.run([f"x{FACTOR}"], {"picture": given})
        best = min(best, time.perf_counter() - began)
    return best


def line(what: str, run: onnxruntime.InferenceSession, operations: float, peak: float, side: int = 256) -> None:
    spent = seconds(run, side)
    worked = (side + 2 * REACH) ** 2 * operations / spent
    megapixels = (side * FACTOR) ** 2 / 1e6 / spent
    print(
        f"{what:44} {megapixels:6.2f} output MP/s  {worked / 1e9:5.0f} GFLOP/s  {worked / peak:4.0%} of the peak",
        flush=True,
    )


class Calibration(CalibrationDataReader):  # type: ignore[misc]
    """Pieces of training photographs, shrunk, from which ranges of values are learnt."""

    def __init__(self) -> None:
        pieces = [damage.shrink(picture[200:584, 200:584], FACTOR) for picture in photographs()[::5]]
        self._pieces: Iterator[np.ndarray] = iter(pieces)

    def get_next(self) -> dict[str, np.ndarray] | None:
        piece = next(self._pieces, None)
        return None if piece is None else {"picture": piece.transpose(2, 0, 1)[None].astype(np.float32) / 255}


class OneHead(nn.Module):
    """Only the ×4 head, for quantising: what is not calibrated cannot be quantised."""

    def __init__(self, network: EnlargingNetwork) -> None:
        super().__init__()
        self.all = AllHeads(network)

    def forward(self, picture: torch.Tensor) -> torch.Tensor:
        return self.all(picture)[2]


def quality(run: onnxruntime.InferenceSession) -> float:
    values = []
    for truth in reserved_pictures().values():
        small = damage.shrink(truth, FACTOR).transpose(2, 0, 1)[None].astype(np.float32) / 255
        result = run.run([f"x{FACTOR}"], {"picture": small})[0][0].transpose(1, 2, 0) * 255
        values.append(psnr_y(result, truth, FACTOR))
    return float(np.mean(values))


def on_a_smooth_sky(run: onnxruntime.InferenceSession) -> np.ndarray:
    """The ×4 output, 0..255, for a ramp that rises by 0.14 of 255 from one source pixel to the next."""
    ramp = np.linspace(0.55, 0.62, 128, dtype=np.float32)
    sky = np.broadcast_to(ramp[:, None], (1, 3, 128, 128)).copy()
    result: np.ndarray = run.run([f"x{FACTOR}"], {"picture": sky})[0][0, :, 64:-64, 64:-64] * 255
    return result


def eight_bits(folder: Path, peak: float) -> None:
    from train import start_from

    network = EnlargingNetwork()
    start_from(network, "faithful")
    network.eval()
    whole, eight = folder / "whole.onnx", folder / "eight.onnx"
    torch.onnx.export(
        OneHead(network), (torch.rand(1, 3, 48, 40),), str(whole), input_names=["picture"], output_names=["x4"],
        dynamic_axes={"picture": {2: "h", 3: "w"}, "x4": {2: "hh", 3: "ww"}}, opset_version=17, dynamo=False,
    )  # fmt: skip
    quantize_static(
        str(whole), str(eight), Calibration(), quant_format=QuantFormat.QDQ, per_channel=True,
        activation_type=QuantType.QUInt8, weight_type=QuantType.QInt8, op_types_to_quantize=["Conv"],
    )  # fmt: skip
    operations = network.operations_per_pixel(FACTOR)
    skies = []
    for name, path in (("float32", whole), ("8 bit, convolutions", eight)):
        run = session(path)
        line(f"Faithful, {name}", run, operations, peak)
        skies.append(on_a_smooth_sky(run))
        steps = np.abs(np.diff(skies[-1], axis=1)).max()
        print(f"{'':44} {quality(run):.2f} dB PSNR-Y ×4; largest step on a smooth sky {steps:.2f} of 255")
    print(f"{'':44} 8 bits differ by up to {np.abs(skies[1] - skies[0]).max():.2f} of 255 there")


def main() -> None:
    peak = peak_arithmetic()
    print(f"matrix product {peak / 1e9:.0f} GFLOP/s: the peak that shares refer to")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for width, pairs in ((32, 5), (48, 5), (64, 3), (64, 5), (64, 8), (96, 3), (96, 5)):
            network = EnlargingNetwork(width, pairs)
            path = folder / f"{width}x{pairs}.onnx"
            write_enlarging(network, path)
            line(f"{width} wide, {pairs} pairs", session(path), network.operations_per_pixel(FACTOR), peak)
        for inner, pairs in ((128, 2), (192, 2)):
            network = EnlargingNetwork(64, 5, half=(inner, pairs))
            path = folder / f"half-{inner}x{pairs}.onnx"
            write_enlarging(network, path)
            line(
                f"64 wide, 5 pairs; half size {inner} wide, {pairs}",
                session(path),
                network.operations_per_pixel(FACTOR),
                peak,
            )
        chosen, operations = folder / "64x5.onnx", EnlargingNetwork(64, 5).operations_per_pixel(FACTOR)
        for side in (64, 128, 256, 384, 512):
            line(f"64 × 5, tiles of {side} px and surroundings", session(chosen), operations, peak, side)
        for threads in (1, 2):
            line(f"64 × 5, {threads} thread{'s' * (threads > 1)}", session(chosen, threads), operations, peak)
        line("64 × 5, plain memory layout", session(chosen, layout=False), operations, peak)
        eight_bits(folder, peak)


if __name__ == "__main__":
    main()
