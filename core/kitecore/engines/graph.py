"""ONNX graphs cut down to what one output needs.

A runtime that is asked for one of several outputs may compute the others all the same: onnxruntime does.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

import onnx


def reads(node: onnx.NodeProto) -> Iterator[str]:
    """Names of the values a node reads, with those that graphs inside it (loops, branches) take from around them."""
    yield from node.input
    for attribute in node.attribute:
        for inner in ([attribute.g] if attribute.HasField("g") else []) + list(attribute.graphs):
            yield from (name for each in inner.node for name in reads(each))
            yield from (value.name for value in inner.output)


def decisions(model: bytes) -> list[str]:
    """Operators of a serialised model that decide while it runs what is computed, and how often: branches, loops, scans."""
    proto = onnx.load_model_from_string(model)
    nodes = [*proto.graph.node, *(node for function in proto.functions for node in function.node)]
    return sorted({node.op_type for node in nodes if any(each.HasField("g") or each.graphs for each in node.attribute)})


def pruned(model: bytes, outputs: Iterable[str]) -> bytes:
    """A serialised ONNX model with only these of its outputs, and only the nodes and weights they depend on."""
    proto = onnx.load_model_from_string(model)
    graph, needed = proto.graph, set(outputs)
    kept_outputs = [value for value in graph.output if value.name in needed]
    nodes: list[onnx.NodeProto] = []
    # Nodes stand in the order in which they can run: what a node reads is made before it.
    for node in reversed(graph.node):
        if needed.intersection(node.output):
            needed.update(reads(node))
            nodes.append(node)
    weights = [tensor for tensor in graph.initializer if tensor.name in needed]
    for field, kept in ((graph.node, nodes[::-1]), (graph.initializer, weights), (graph.output, kept_outputs)):
        held = [type(each).FromString(each.SerializeToString()) for each in kept]
        del field[:]
        field.extend(held)
    content: bytes = proto.SerializeToString()
    return content


def widest(model: bytes, side: int = 64) -> float:
    """The most values per pixel of the first input that any node of a serialised model writes; 0 if shapes are not known.

    ``side`` is that of the square it is tried with, in pixels; sides that a network takes must be able to be that.
    """
    proto = onnx.load_model_from_string(model)
    for value in proto.graph.input:
        for axis, dimension in enumerate(value.type.tensor_type.shape.dim):
            if not dimension.dim_value:
                dimension.dim_value = 1 if axis == 0 else side
    shaped = onnx.shape_inference.infer_shapes(proto).graph
    most = 0
    for value in (*shaped.value_info, *shaped.output):
        lengths = [dimension.dim_value for dimension in value.type.tensor_type.shape.dim]
        most = max(most, math.prod(lengths)) if lengths else most
    return most / side**2
