"""Try an engine of unknown origin: ``python -m kitecore.engines.probe FOLDER``, run in a process of its own.

Prints one line of JSON: ``{"speed": …}`` (source pixels per second) if the engine does what its manifest says, or
``{"refusal": "a sentence"}``. The process limits its own memory and computing time before it reads the network.
"""

from __future__ import annotations

import json
import math
import os
import re
import resource
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

import numpy as np

from kitecore.pipeline.stage_cache import LARGEST_BLOCK
from kitecore.pipeline.strips import WORKING_BYTES

Result = TypeVar("Result")
_Run = Callable[[np.ndarray], np.ndarray]

MOST_MEMORY_BYTES = 6 * 1024**3
#: Of all processors together; the time on the clock is bounded by whoever has it tried.
MOST_CPU_SECONDS = 60 + 60 * (os.cpu_count() or 1)
#: Slower engines would take more than a minute for a megapixel.
LEAST_SPEED = 17_000
#: So often one that seems slower is tried again.
_MORE_TRIES = 3
_INNER = 32
#: The largest region is tried if it takes no longer than that; else one that does.
_LARGEST_SECONDS = 20.0
_TOO_HUNGRY_WHEN_LARGE = (
    f"The network needs too much memory for the regions that pictures are rendered in; it may take "
    f"{MOST_MEMORY_BYTES // 1024**3} GB."
)
_TOO_HUNGRY = f"The network needs too much memory; it may take {MOST_MEMORY_BYTES // 1024**3} GB."


class Refusal(Exception):
    """Why the engine is not taken, as a sentence."""


def _limit_this_process() -> None:
    for limit, value in (
        (resource.RLIMIT_AS, MOST_MEMORY_BYTES), (resource.RLIMIT_CPU, MOST_CPU_SECONDS), (resource.RLIMIT_CORE, 0),
    ):  # fmt: skip
        _, hard = resource.getrlimit(limit)
        wanted = value if hard == resource.RLIM_INFINITY else min(value, hard)
        resource.setrlimit(limit, (wanted, wanted))


def _picture(height: int, width: int, planes: int, seed: int = 1) -> np.ndarray:
    """Soft shapes with some texture, H×W×planes, 0.1..0.9; three planes differ, further ones repeat them."""
    random = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width]
    tones = [0.5 + 0.25 * np.sin(x / (9 + k) + k) + 0.1 * np.cos(y / 7 - k) for k in range(3)]
    colours = np.stack(tones, axis=2) + random.normal(0, 0.01, (height, width, 3))
    return np.tile(colours, (1, 1, planes // 3)).astype(np.float32)


def _check_interface(engine: object) -> None:
    from kitecore.engines.engine import Engine, session_of
    from kitecore.engines.graph import decisions

    assert isinstance(engine, Engine)
    manifest, network = engine.manifest, engine.manifest.network
    assert network is not None
    session = session_of(engine.content())
    if found := decisions(engine.content()):
        raise Refusal(
            f"The network decides while it runs what it computes ({', '.join(found)}), so nobody can tell how long that takes "
            "and how much memory. Export it without branches and loops."
        )
    inputs = {each.name: each for each in session.get_inputs()}
    outputs = {each.name: each for each in session.get_outputs()}
    wanted = {network.input: manifest.does.planes}
    if network.maps:
        wanted[network.maps] = len(manifest.does.maps)
    for name, planes in wanted.items():
        if name not in inputs:
            raise Refusal(f"The network has no input “{name}”; it has {', '.join(inputs)}. Name it in the manifest.")
        shape, kind = inputs[name].shape, inputs[name].type
        if kind != "tensor(float)":
            raise Refusal(f"The input “{name}” takes {kind}; it must take 32-bit floats.")
        if len(shape) != 4:
            raise Refusal(f"The input “{name}” has {len(shape)} dimensions; it must have four: 1×planes×height×width.")
        if isinstance(shape[1], int) and shape[1] != planes:
            raise Refusal(f"The input “{name}” takes {shape[1]} planes; an engine of this kind is given {planes}.")
        if any(isinstance(side, int) for side in shape[2:]):
            raise Refusal(
                f"The input “{name}” takes only pictures of {shape[3]}×{shape[2]} px; export it with free height and width."
            )
    spare = set(inputs) - set(wanted)
    if spare:
        raise Refusal(f"The network wants an input “{sorted(spare)[0]}” that the manifest does not name.")
    for factor, name in network.outputs.items():
        if name not in outputs:
            raise Refusal(f"The network has no output “{name}” (×{factor}); it has {', '.join(outputs)}.")


def _runner(engine: object, factor: int) -> _Run:
    from kitecore.engines.engine import Engine

    assert isinstance(engine, Engine)
    kind = engine.manifest.does
    if not kind.restores:
        return lambda picture: engine.enlarge(picture, factor)
    maps = np.zeros(len(kind.maps), np.float32)
    maps[: kind.strengths] = 1.0
    return lambda picture: engine.restore(picture, np.broadcast_to(maps, (*picture.shape[:2], len(maps))))


def _check_factor(engine: object, factor: int) -> float:
    """One output, on pictures of several sizes; its speed in source pixels per second."""
    from kitecore.engines.engine import Engine

    assert isinstance(engine, Engine)
    network = engine.manifest.network
    assert network is not None
    planes = engine.manifest.does.planes
    run = _runner(engine, factor)
    stride = math.lcm(network.stride, 2)
    margin = math.ceil((network.reach + stride) / stride) * stride
    inner = math.ceil(_INNER / stride) * stride
    speed = 0.0
    for height, width in (
        (inner + 2 * margin, inner + 2 * margin),
        (2 * margin + inner + 2 * stride, 2 * margin + inner),
    ):
        picture = _picture(height, width, planes)
        result, reached = _timed(run, picture)
        speed = max(speed, reached)
        expected = (factor * height, factor * width, 3)
        if result.shape != expected:
            raise Refusal(
                f"For a picture of {width}×{height} px the output ×{factor} is {result.shape[1]}×{result.shape[0]} px with "
                f"{result.shape[2]} planes; it should be {expected[1]}×{expected[0]} px with 3."
            )
        if not np.isfinite(result).all():
            raise Refusal(f"The output ×{factor} holds values that are not numbers.")
    _check_values(picture, result, factor, margin)
    _check_reach(run, network.reach, margin, inner, planes, factor)
    return _fairly(speed, run, picture)


def _timed(run: _Run, picture: np.ndarray) -> tuple[np.ndarray, float]:
    """What it makes of a picture, and its pixels per second."""
    began = time.perf_counter()
    result = run(picture)
    return result, picture.shape[0] * picture.shape[1] / (time.perf_counter() - began)


def _fairly(speed: float, run: _Run, picture: np.ndarray) -> float:
    """``speed``, or more: one that seems too slow is tried again, for the machine may have been busy just then."""
    for _ in range(_MORE_TRIES):
        if speed >= LEAST_SPEED:
            break
        speed = max(speed, _timed(run, picture)[1])
    return speed


def _check_values(picture: np.ndarray, result: np.ndarray, factor: int, margin: int) -> None:
    """Brought back to the source's size, the result must be the source, more or less."""
    height, width = picture.shape[:2]
    back = result.reshape(height, factor, width, factor, 3).mean(axis=(1, 3))
    cut = slice(margin, -margin)
    error = float(np.abs(back[cut, cut] - picture[cut, cut, :3]).mean())
    if error > 0.08:
        raise Refusal(
            f"The output ×{factor} does not show the picture it was given (it differs by {error:.0%} on average). "
            "Check the manifest's range, and that the network takes and gives RGB."
        )


def _check_reach(
    run: Callable[[np.ndarray], np.ndarray], reach: int, margin: int, inner: int, planes: int, factor: int
) -> None:
    """Pixels further away than the declared reach must not matter, or tiles would show."""
    first = _picture(inner + 2 * margin, inner + 2 * margin, planes)
    second = _picture(inner + 2 * margin, inner + 2 * margin, planes, seed=2)[::-1] * 0.5
    near = slice(margin - reach, margin + inner + reach)
    second = np.ascontiguousarray(second)
    second[near, near] = first[near, near]
    cut = slice(margin * factor, (margin + inner) * factor)
    difference = float(np.abs(run(first)[cut, cut] - run(second)[cut, cut]).max())
    if difference > 1 / 255:
        raise Refusal(
            f"Pixels further away than the manifest's reach of {reach} px change the result, so tiles would show. "
            "Give the network's true reach (half its receptive field)."
        )


def probe(folder: Path) -> float:
    """Check the engine in ``folder``; its slowest output's speed. Raises Refusal."""
    from kitecore.engines.engine import Engine
    from kitecore.errors import EngineError

    try:
        engine = Engine(folder)
        if engine.manifest.network is None:
            raise Refusal("The manifest names no network; there is nothing to import.")
        _check_interface(engine)
    except EngineError as error:
        raise Refusal(str(error)) from error
    except Refusal:
        raise
    except Exception as error:
        raise Refusal(_TOO_HUNGRY if _is_of_memory(error) else _loading_sentence(str(error))) from error
    outputs = engine.manifest.network.outputs
    speed = _tried(lambda: min(_check_factor(engine, factor) for factor in outputs), _TOO_HUNGRY, "a picture")
    if speed < LEAST_SPEED:
        raise Refusal(
            f"The network is too slow here: {1e6 / speed / 60:.1f} minutes for a megapixel; at most one is accepted."
        )
    _tried(lambda: _check_largest(engine, max(outputs), speed), _TOO_HUNGRY_WHEN_LARGE, "a large picture")
    return speed


def _tried(action: Callable[[], Result], too_hungry: str, what: str) -> Result:
    """What an action gives that runs the network on ``what``. Raises Refusal if it fails."""
    try:
        return action()
    except Refusal:
        raise
    except Exception as error:
        if _is_of_memory(error):
            raise Refusal(too_hungry) from error
        raise Refusal(f"The network fails on {what}: {_first_line(str(error))}") from error


def _check_largest(engine: object, factor: int, speed: float) -> None:
    """A region as large as any that is rendered: what is right on a small one must be right there."""
    from kitecore.engines.engine import Engine

    assert isinstance(engine, Engine)
    network = engine.manifest.network
    assert network is not None
    # Of a whole picture what memory allows, of what is looked at a block.
    largest = max(WORKING_BYTES / engine.bytes_per_pixel(factor), LARGEST_BLOCK**2)
    pixels = min(largest, _LARGEST_SECONDS * speed)
    stride, planes = math.lcm(network.stride, 2), engine.manifest.does.planes
    margin = math.ceil((network.reach + stride) / stride) * stride
    inner = math.ceil(_INNER / stride) * stride
    height, width = (
        max(2 * margin + inner, int(side) // stride * stride)
        for side in (math.sqrt(pixels / 1.5), math.sqrt(pixels * 1.5))
    )
    run, picture = _runner(engine, factor), _picture(height, width, planes)
    result = run(picture)
    top, left = ((side - inner) // 2 // stride * stride for side in (height, width))
    around = picture[top - margin : top + inner + margin, left - margin : left + inner + margin]
    cut = slice(margin * factor, (margin + inner) * factor)
    alone = run(np.ascontiguousarray(around))[cut, cut]
    within = result[top * factor : (top + inner) * factor, left * factor : (left + inner) * factor]
    if result.shape != (factor * height, factor * width, 3) or not np.abs(within - alone).max() <= 1 / 255:
        raise Refusal(
            f"The output ×{factor} is another one in a region of {width}×{height} px than in a small one, so tiles would show."
        )


def _is_of_memory(error: Exception) -> bool:
    text = str(error)
    return isinstance(error, MemoryError) or any(
        sign in text for sign in ("bad allocation", "bad_alloc", "BFCArena", "Failed to allocate")
    )


def _first_line(text: str) -> str:
    return " ".join(text.split())[:200]


def _loading_sentence(text: str) -> str:
    """What the runtime says of a network it cannot load, for people."""
    for pattern in (
        r"[Nn]o [Oo]p registered for ([\w.]+)",
        r"([\w.:]+)\(-?\d+\) is not a registered function",
        r"implementation for ([\w.]+)",
    ):
        found = re.search(pattern, text)
        if found:
            return f"The network uses an operator that is not available here: {found[1]}."
    return f"The file is not an ONNX network that can be loaded here: {_first_line(text)}"


def main() -> None:
    _limit_this_process()
    try:
        answer: dict[str, object] = {"speed": probe(Path(sys.argv[1]))}
    except Refusal as refusal:
        answer = {"refusal": str(refusal)}
    print(json.dumps(answer))


if __name__ == "__main__":
    main()
