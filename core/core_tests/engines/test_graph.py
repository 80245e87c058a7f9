from __future__ import annotations

from unittest import TestCase

import numpy as np
import onnx
import onnxruntime
from onnx import TensorProto, helper, numpy_helper

from core_tests.pictures import smooth
from kitecore.engines import engines
from kitecore.engines.graph import pruned


def value(name: str, shape: list[int | str] | None = None, kind: int = TensorProto.FLOAT) -> onnx.ValueInfoProto:
    return helper.make_tensor_value_info(name, kind, shape)


def two_outputs() -> bytes:
    """``doubled`` = 2·x and ``looped`` = x + 3 turns of ``step``, which only the inside of a loop reads."""
    body = helper.make_graph(
        [
            helper.make_node("Identity", ["go_in"], ["go_out"]),
            helper.make_node("Add", ["so_far", "step"], ["further"]),
        ],
        "body",
        [value("turn", [], TensorProto.INT64), value("go_in", [], TensorProto.BOOL), value("so_far", ["n"])],
        [value("go_out", [], TensorProto.BOOL), value("further", ["n"])],
    )
    nodes = [
        helper.make_node("Identity", ["x"], ["shared"]),
        helper.make_node("Mul", ["shared", "two"], ["doubled"]),
        helper.make_node("Loop", ["turns", "", "shared"], ["looped"], body=body),
    ]
    weights = {
        "two": np.float32(2), "step": np.float32(5), "turns": np.int64(3),
    }  # fmt: skip
    graph = helper.make_graph(
        nodes, "network", [value("x", ["n"])], [value("doubled", ["n"]), value("looped", ["n"])],
        [numpy_helper.from_array(np.asarray(array), name) for name, array in weights.items()],
    )  # fmt: skip
    model = helper.make_model(graph, opset_imports=[helper.make_opsetid("", 17)])
    model.ir_version = 8
    content: bytes = model.SerializeToString()
    return content


def run(content: bytes, output: str, fed: dict[str, np.ndarray]) -> np.ndarray:
    session = onnxruntime.InferenceSession(content, providers=["CPUExecutionProvider"])
    result: np.ndarray = session.run([output], fed)[0]
    return result


class PrunedTest(TestCase):
    def test_only_what_an_output_depends_on_is_left(self) -> None:
        graph = onnx.load_model_from_string(pruned(two_outputs(), ["doubled"])).graph
        self.assertEqual([node.op_type for node in graph.node], ["Identity", "Mul"])
        self.assertEqual([tensor.name for tensor in graph.initializer], ["two"])
        self.assertEqual([each.name for each in graph.output], ["doubled"])

    def test_what_the_inside_of_a_loop_reads_stays(self) -> None:
        content = pruned(two_outputs(), ["looped"])
        result = run(content, "looped", {"x": np.array([1, 2], np.float32)})
        np.testing.assert_array_equal(result, [16, 17])
        self.assertNotIn("two", [tensor.name for tensor in onnx.load_model_from_string(content).graph.initializer])

    def test_the_heads_of_an_engine_give_what_the_whole_network_gives(self) -> None:
        engine = engines()["faithful"]
        picture = smooth(24, 20)
        whole = engine.content()
        for factor in engine.manifest.factors:
            with self.subTest(factor=factor):
                planes = picture.transpose(2, 0, 1)[None]
                expected = run(whole, f"x{factor}", {"picture": planes})[0].transpose(1, 2, 0)
                np.testing.assert_allclose(engine.enlarge(picture, factor), expected, atol=1e-5)
                self.assertEqual([each.name for each in engine.session(factor).get_outputs()], [f"x{factor}"])
