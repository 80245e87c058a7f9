"""How weights are stored in the ONNX files that ship: whole, or in fewer bytes where a file would be too large.

Only storage is reduced. The graph begins by making float32 of them again, the runtime folds that away while it loads,
and everything is computed in float32.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import onnx
from onnx import numpy_helper

#: Bytes; larger files keep their weights as float16, and if need be the largest tensors as int8.
LARGEST_FILE = 4 << 20
#: Tensors with fewer weights stay as they are, and those with fewer stay float16.
_LARGE, _LARGEST = 1_000, 140_000
#: End the names of tensors stored as float16, as int8, of the steps the latter count in, and of both before they meet.
_HALF, _BYTES, _STEPS, _COUNTED = ".half", ".bytes", ".steps", ".counted"

#: Tensors to store, and the nodes that make the weights of them.
_Stored = tuple[list[onnx.TensorProto], list[onnx.NodeProto]]


def packed(model: onnx.ModelProto) -> onnx.ModelProto:
    """``model`` with its weights stored as exactly as :data:`LARGEST_FILE` has room for."""
    plain = unpacked(model)
    for way in (_as_halves, _as_bytes):
        if plain.ByteSize() <= LARGEST_FILE:
            return plain
        if (smaller := _stored(plain, way)).ByteSize() <= LARGEST_FILE:
            return smaller
    raise ValueError(f"the network does not fit into {LARGEST_FILE:,} bytes")


def unpacked(model: onnx.ModelProto) -> onnx.ModelProto:
    """The same model with all weights in float32, by their plain names."""
    return _rebuilt(model, [numpy_helper.from_array(array, name) for name, array in weights_of(model).items()], [])


def weights_of(model: onnx.ModelProto) -> dict[str, np.ndarray]:
    """Weights by their plain names, as the runtime computes with them."""
    arrays = {tensor.name: numpy_helper.to_array(tensor) for tensor in model.graph.initializer}
    weights: dict[str, np.ndarray] = {}
    for name, array in arrays.items():
        if name.endswith(_HALF):
            weights[name.removesuffix(_HALF)] = array.astype(np.float32)
        elif name.endswith(_BYTES):
            plain = name.removesuffix(_BYTES)
            weights[plain] = array.astype(np.float32) * arrays[plain + _STEPS]
        elif not name.endswith(_STEPS):
            weights[name] = array
    return weights


def _as_halves(name: str, weights: np.ndarray) -> _Stored:
    if weights.dtype != np.float32 or weights.size < _LARGE:
        return [numpy_helper.from_array(weights, name)], []
    half = numpy_helper.from_array(weights.astype(np.float16), name + _HALF)
    return [half], [onnx.helper.make_node("Cast", [half.name], [name], to=onnx.TensorProto.FLOAT)]


def _as_bytes(name: str, weights: np.ndarray) -> _Stored:
    """The largest counted in steps of 1/127 of their output channel's largest weight."""
    if weights.dtype != np.float32 or weights.size < _LARGEST:
        return _as_halves(name, weights)
    steps = np.abs(weights).max(axis=tuple(range(1, weights.ndim)), keepdims=True) / np.float32(127)
    counts = np.rint(weights / np.where(steps > 0, steps, 1)).astype(np.int8)
    tensors = [numpy_helper.from_array(counts, name + _BYTES), numpy_helper.from_array(steps, name + _STEPS)]
    cast = onnx.helper.make_node("Cast", [name + _BYTES], [name + _COUNTED], to=onnx.TensorProto.FLOAT)
    return tensors, [cast, onnx.helper.make_node("Mul", [name + _COUNTED, name + _STEPS], [name])]


def _stored(model: onnx.ModelProto, way: Callable[[str, np.ndarray], _Stored]) -> onnx.ModelProto:
    tensors: list[onnx.TensorProto] = []
    nodes: list[onnx.NodeProto] = []
    for name, weights in weights_of(model).items():
        stored, makers = way(name, weights)
        tensors += stored
        nodes += makers
    return _rebuilt(model, tensors, nodes)


def _rebuilt(
    model: onnx.ModelProto, tensors: list[onnx.TensorProto], makers: list[onnx.NodeProto]
) -> onnx.ModelProto:  # fmt: skip
    """A copy of ``model`` with other initialisers, made into its weights by other nodes."""
    made = weights_of(model).keys()
    made |= {name + _COUNTED for name in made}
    nodes = [node for node in model.graph.node if not made & set(node.output)]
    new = onnx.ModelProto.FromString(model.SerializeToString())
    del new.graph.initializer[:], new.graph.node[:]
    new.graph.initializer.extend(tensors)
    new.graph.node.extend([*makers, *nodes])
    return new
