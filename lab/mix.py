"""Mix the weights of an engine with earlier ones of its own: two ends of one training have a good middle.

    PYTHONPATH=core .venv-lab/bin/python lab/mix.py salvage earlier.onnx 0.4     # two fifths of the earlier weights

Both must come from one training (the later went on from the earlier), or the middle is worth nothing.
``lab/judge.py --write`` measures what came of it.
"""

from __future__ import annotations

import argparse
import hashlib
import json
from pathlib import Path

import numpy as np
import onnx
from storage import packed, unpacked, weights_of

ENGINES = Path(__file__).parent.parent / "core/kitecore/engines"


def mixed(own: onnx.ModelProto, earlier: onnx.ModelProto, share: float) -> onnx.ModelProto:
    """``own`` with every weight moved by ``share`` towards ``earlier``'s. Raises ValueError if they differ in shape."""
    own, arrays = unpacked(own), weights_of(earlier)
    for tensor in own.graph.initializer:
        mine, its = onnx.numpy_helper.to_array(tensor), arrays.get(tensor.name)
        if its is None or its.shape != mine.shape:
            raise ValueError(f"the networks differ in {tensor.name}")
        if mine.dtype == np.float32:
            tensor.CopyFrom(onnx.numpy_helper.from_array((1 - share) * mine + share * its, tensor.name))
    return packed(own)


def main() -> None:
    parser = argparse.ArgumentParser(description=(__doc__ or "").splitlines()[0])
    parser.add_argument("engine")
    parser.add_argument("earlier", type=Path)
    parser.add_argument("share", type=float)
    options = parser.parse_args()
    folder = ENGINES / options.engine
    path, about = folder / f"{options.engine}.onnx", folder / "engine.json"
    onnx.save(mixed(onnx.load(str(path)), onnx.load(str(options.earlier)), options.share), str(path))
    manifest = json.loads(about.read_text())
    manifest["network"]["sha256"] = hashlib.sha256(path.read_bytes()).hexdigest()
    manifest["training"]["mixed"] = f"{options.share:g} of earlier weights, lab/mix.py"
    about.write_text(json.dumps(manifest, indent=2, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main()
