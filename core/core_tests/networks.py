"""Small ONNX networks made on the spot: good ones, and ones that are wrong in one way."""

from __future__ import annotations

from typing import Any

import numpy as np
import onnx
from onnx import TensorProto, helper, numpy_helper

Shape = list[int | str]


def _model(
    nodes: list[onnx.NodeProto], weights: dict[str, np.ndarray], given: Shape, made: Shape, **options: Any
) -> bytes:
    graph = helper.make_graph(
        nodes, "network",
        [helper.make_tensor_value_info("picture", TensorProto.FLOAT, given)],
        [helper.make_tensor_value_info("result", TensorProto.FLOAT, made)],
        [numpy_helper.from_array(array, name) for name, array in weights.items()],
    )  # fmt: skip
    domains = [helper.make_opsetid("", 17), *(helper.make_opsetid(name, 1) for name in options.get("domains", []))]
    model = helper.make_model(graph, opset_imports=domains)
    model.ir_version = 8
    content: bytes = model.SerializeToString()
    return content


def nearest(factor: int = 2, given: Shape | None = None, gain: float = 1.0) -> bytes:
    """Every pixel repeated ``factor``×``factor`` times, by a 1×1 convolution and a pixel shuffle; times ``gain``."""
    weight = np.zeros((3 * factor * factor, 3, 1, 1), np.float32)
    for output in range(3 * factor * factor):
        weight[output, output // (factor * factor)] = gain
    nodes = [
        helper.make_node("Conv", ["picture", "weight"], ["cells"]),
        helper.make_node("DepthToSpace", ["cells"], ["result"], blocksize=factor, mode="CRD"),
    ]
    return _model(nodes, {"weight": weight}, given or ["n", 3, "h", "w"], ["n", 3, "hh", "ww"])


def half_size_means() -> bytes:
    """Twice the size, every 2×2 cell of the *source* its mean: sides must be even, and cells begin at even pixels."""
    weight = np.zeros((3, 3, 2, 2), np.float32)
    for channel in range(3):
        weight[channel, channel] = 1 / 4
    nodes = [
        helper.make_node("Conv", ["picture", "weight"], ["means"], strides=[2, 2]),
        helper.make_node("Resize", ["means", "", "fourfold"], ["result"], mode="nearest", nearest_mode="floor",
                         coordinate_transformation_mode="asymmetric"),
    ]  # fmt: skip
    weights = {"weight": weight, "fourfold": np.array([1, 1, 4, 4], np.float32)}
    return _model(nodes, weights, ["n", 3, "h", "w"], ["n", 3, "hh", "ww"])


def box_blur(side: int) -> bytes:
    """The same size, every channel averaged over ``side``×``side`` pixels: its reach is half of that."""
    weight = np.zeros((3, 3, side, side), np.float32)
    for channel in range(3):
        weight[channel, channel] = 1 / (side * side)
    node = helper.make_node("Conv", ["picture", "weight"], ["result"], pads=[side // 2] * 4)
    return _model([node], {"weight": weight}, ["n", 3, "h", "w"], ["n", 3, "h", "w"])


def foreign_operator() -> bytes:
    node = helper.make_node("Fog", ["picture"], ["result"], domain="elsewhere")
    return _model([node], {}, ["n", 3, "h", "w"], ["n", 3, "h", "w"], domains=["elsewhere"])


def hungry() -> bytes:
    """Wants some hundred gigabytes for one picture."""
    shape = np.array([3, 200_000, 200_000], np.int64)
    nodes = [
        helper.make_node("ReduceMean", ["picture"], ["mean"], axes=[0, 1, 2, 3], keepdims=0),
        helper.make_node("Expand", ["mean", "shape"], ["vast"]),
        helper.make_node("ReduceMax", ["vast"], ["most"], keepdims=0),
        helper.make_node("Add", ["picture", "most"], ["result"]),
    ]
    return _model(nodes, {"shape": shape}, ["n", 3, "h", "w"], ["n", 3, "h", "w"])


def endless() -> bytes:
    """Goes on for hours over a small picture."""
    body = helper.make_graph(
        [
            helper.make_node("Identity", ["go_in"], ["go_out"]),
            helper.make_node("Softmax", ["value_in"], ["softer"], axis=3),
            helper.make_node("Add", ["softer", "value_in"], ["value_out"]),
        ],
        "body",
        [
            helper.make_tensor_value_info("turn", TensorProto.INT64, []),
            helper.make_tensor_value_info("go_in", TensorProto.BOOL, []),
            helper.make_tensor_value_info("value_in", TensorProto.FLOAT, ["n", 3, "h", "w"]),
        ],
        [
            helper.make_tensor_value_info("go_out", TensorProto.BOOL, []),
            helper.make_tensor_value_info("value_out", TensorProto.FLOAT, ["n", 3, "h", "w"]),
        ],
    )
    nodes = [helper.make_node("Loop", ["turns", "", "picture"], ["result"], body=body)]
    return _model(nodes, {"turns": np.array(1_000_000_000, np.int64)}, ["n", 3, "h", "w"], ["n", 3, "h", "w"])


def another_when_large() -> bytes:
    """The picture as it is, and black from half a million values on; without deciding anything."""
    nodes = [
        helper.make_node("Size", ["picture"], ["count"]),
        helper.make_node("Cast", ["count"], ["size"], to=TensorProto.FLOAT),
        helper.make_node("Sub", ["most", "size"], ["left"]),
        helper.make_node("Clip", ["left", "none", "all"], ["share"]),
        helper.make_node("Mul", ["picture", "share"], ["result"]),
    ]
    weights = {name: np.array(value, np.float32) for name, value in (("most", 500_000), ("none", 0), ("all", 1))}
    return _model(nodes, weights, ["n", 3, "h", "w"], ["n", 3, "h", "w"])


def hungry_when_large() -> bytes:
    """The picture as it is, once every pixel was compared with every other: the square of their number in memory."""
    nodes = [
        helper.make_node("Reshape", ["picture", "flat"], ["pixels"]),
        helper.make_node("Transpose", ["pixels"], ["turned"], perm=[0, 2, 1]),
        helper.make_node("MatMul", ["turned", "pixels"], ["alike"]),
        helper.make_node("ReduceMax", ["alike"], ["most"], keepdims=0),
        helper.make_node("Mul", ["most", "nothing"], ["none"]),
        helper.make_node("Add", ["picture", "none"], ["result"]),
    ]
    weights = {"flat": np.array([0, 3, -1]), "nothing": np.array(0, np.float32)}
    return _model(nodes, weights, ["n", 3, "h", "w"], ["n", 3, "h", "w"])


def undecided() -> bytes:
    """The picture as it is, unless it is larger than what anybody tries: then something else."""
    branches = [
        helper.make_graph(
            [helper.make_node("Identity", ["picture"], [name])], name, [],
            [helper.make_tensor_value_info(name, TensorProto.FLOAT, ["n", 3, "h", "w"])],
        )
        for name in ("small", "large")
    ]  # fmt: skip
    nodes = [
        helper.make_node("Size", ["picture"], ["count"]),
        helper.make_node("Less", ["count", "most"], ["is_small"]),
        helper.make_node("If", ["is_small"], ["result"], then_branch=branches[0], else_branch=branches[1]),
    ]
    return _model(nodes, {"most": np.array(1_000_000)}, ["n", 3, "h", "w"], ["n", 3, "h", "w"])
