"""The networks of this folder that are kept as TensorFlow Lite files: a square picture in, numbers out."""

from __future__ import annotations

import threading
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from kitecore.pipeline.pixels import Pixels

_FOLDER = Path(__file__).parent


class LiteNetwork:
    """A network: a square S×S×3 of the size it wants (``side``), in the range it was made for, to its outputs, longest first."""

    def __init__(self, name: str) -> None:
        from ai_edge_litert.interpreter import Interpreter

        self._network: Any = Interpreter(model_path=str(_FOLDER / f"{name}.tflite"), num_threads=1)
        self._network.allocate_tensors()
        given = self._network.get_input_details()[0]
        self._input, self.side = given["index"], int(given["shape"][1])
        outputs = sorted(self._network.get_output_details(), key=lambda one: -int(np.prod(one["shape"])))
        self._outputs = [one["index"] for one in outputs]
        self._alone = threading.Lock()

    def __call__(self, square: Pixels) -> list[npt.NDArray[np.float32]]:
        with self._alone:
            self._network.set_tensor(self._input, np.ascontiguousarray(square[None], np.float32))
            self._network.invoke()
            return [np.array(self._network.get_tensor(index)) for index in self._outputs]


@cache
def lite_network(name: str) -> LiteNetwork:
    """The network of this name, loaded once."""
    return LiteNetwork(name)
