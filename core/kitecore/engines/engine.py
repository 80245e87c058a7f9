"""One engine: its manifest, and its network loaded when first needed."""

from __future__ import annotations

import contextlib
import hashlib
import json
import threading
import time
from pathlib import Path

import cv2
import numpy as np
import numpy.typing as npt
import onnxruntime
from onnxruntime.capi.onnxruntime_pybind11_state import EPFail, Fail, RuntimeException
from pydantic import ValidationError

from kitecore.engines.graph import pruned, widest
from kitecore.engines.guest import GuestSession
from kitecore.engines.loaded import Loaded
from kitecore.engines.manifest import Manifest
from kitecore.engines.pace import pace
from kitecore.errors import EngineError
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.luma import LUMA
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.settings import settings

#: Tried in this order; the first that this machine's onnxruntime has is used.
PROVIDERS = (
    "CUDAExecutionProvider",
    "DmlExecutionProvider",
    "CoreMLExecutionProvider",
    "OpenVINOExecutionProvider",
    "CPUExecutionProvider",
)

#: What is made ready for a shape is kept of so many: of all 5,000 that would be by itself, each takes half a megabyte.
_FEW_SHAPES = json.dumps({"CPU": {"CPU_RUNTIME_CACHE_CAPACITY": "100"}})
#: Layers of the widest size that are held while a network runs, its input and result as arrays among them; measured.
_LAYERS_AT_ONCE = 5
#: Pixels beyond a picture's borders that networks of our own are given.
_MIRRORED = 8
#: Each network uses all processors: two at once are no sooner done, and need twice the memory.
_RUNNING = threading.Lock()
_LOADED = Loaded(lambda: settings().networks_gigabytes * 1e9)


def provider() -> str:
    """The execution provider networks run on: ``KITE_PROVIDER`` if set, else the first of :data:`PROVIDERS` there is."""
    available = onnxruntime.get_available_providers()
    wanted = settings().provider
    if wanted:
        if wanted not in available:
            raise EngineError(f"The provider {wanted} is not available here; there are {', '.join(available)}.")
        return wanted
    return next(name for name in PROVIDERS if name in available)


def session_of(content: bytes, plainly: bool = False) -> onnxruntime.InferenceSession:
    """A network made ready to run on :func:`provider`; on the plain processor, if that one cannot run it or ``plainly``.

    Small networks whose inputs have ever other sizes are made ready in no time there.
    """
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = settings().threads
    options.add_session_config_entry("session.intra_op.allow_spinning", "0")
    # Plans where to put what are made per shape, and regions have many: they only cost memory, two fifths of it.
    options.enable_mem_pattern = False
    options.log_severity_level = 3
    name = PROVIDERS[-1] if plainly else provider()
    try:
        return onnxruntime.InferenceSession(content, options, providers=[(name, _options_of(name))])
    except (EPFail, Fail, RuntimeException):
        if name == PROVIDERS[-1]:
            raise
        return onnxruntime.InferenceSession(content, options, providers=[PROVIDERS[-1]])


def _options_of(provider_name: str) -> dict[str, str]:
    if provider_name != "OpenVINOExecutionProvider":
        return {}
    # Else it computes in 16 bits where the processor can, and regions would differ from the whole.
    exact = {"device_type": "CPU", "precision": "ACCURACY", "load_config": _FEW_SHAPES}
    return exact | ({"num_of_threads": str(settings().threads)} if settings().threads else {})


def _planes_of(pixels: Pixels) -> npt.NDArray[np.float32]:
    """1×C×H×W of H×W×C; several times as fast as numpy turns axes round."""
    planes = np.empty((1, pixels.shape[2], *pixels.shape[:2]), np.float32)
    if pixels.strides[:2] == (0, 0):
        planes[0] = pixels[0, 0][:, None, None]
    else:
        cv2.split(np.ascontiguousarray(pixels, np.float32), list(planes[0]))
    return planes


def neutral_kept(given: Pixels, result: Pixels, reach: int) -> Pixels:
    """``result``, its three channels made equal wherever all that its pixels depend on has equal channels; in place.

    Networks learnt from colour; what is grey comes back tinted. ``given`` H×W×P begins with R'G'B', ``result`` is as many
    times as large as it is; within ``reach`` pixels of the border nothing is promised.
    """
    red, green, blue = (given[..., band] for band in range(3))
    neutral = (red == green) & (green == blue)
    if not neutral.all():
        window = np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)
        neutral = cv2.erode(neutral.astype(np.uint8), window, borderType=cv2.BORDER_CONSTANT, borderValue=1).astype(
            bool
        )
    if neutral.any():
        factor = result.shape[0] // given.shape[0]
        where = np.repeat(np.repeat(neutral, factor, axis=0), factor, axis=1)
        grey = (result[..., 0] + result[..., 1] + result[..., 2]) / np.float32(3)
        np.copyto(result, grey[..., None], where=where[..., None])
    return result


class Engine:
    """An engine folder. Cheap to make: the network is read and checked at first use.

    One that is a ``guest`` runs in a process of its own.
    """

    def __init__(self, folder: Path, guest: bool = False) -> None:
        try:
            self.manifest = Manifest.model_validate_json((folder / "engine.json").read_bytes())
        except (OSError, ValidationError) as error:
            raise EngineError(f"The engine in {folder.name} has a broken engine.json: {error}") from error
        self._folder, self._guest = folder, guest
        self._lock = threading.Lock()
        #: By factor.
        self._sessions: dict[int, onnxruntime.InferenceSession | GuestSession] = {}
        self._bytes: dict[int, float] = {}

    @property
    def fingerprint(self) -> str:
        """Changes whenever the engine's pixels may: its id and the hash of its weights."""
        network = self.manifest.network
        return f"{self.manifest.id}:{network.sha256 if network else 'lanczos3'}"

    @property
    def reach(self) -> int:
        """Source pixels around a region that the network needs; 0 for plain resampling."""
        return self.manifest.network.reach if self.manifest.network else 0

    @property
    def stride(self) -> int:
        """What regions given to the network start at multiples of, and their sides divide by; 1 for plain resampling."""
        return self.manifest.network.stride if self.manifest.network else 1

    def given_for(self, region: Region, source: Stage) -> Region:
        """What of ``source`` the network has to be given for ``region`` of it.

        Beyond a picture's borders a few mirrored pixels are as good as all it could look at: 0.2 of 255 in flat tones, and
        no nearer to the truth on photographs. Every region of a picture ends there, so that all agree.
        """
        given = region.grown(self.reach).aligned(self.stride)
        return given if self._guest else source.reachable(given, _MIRRORED, self.stride)

    def head_for(self, scale: float) -> int | None:
        """The factor to run for an enlargement by ``scale``: the next head up, or the largest.

        None where no network runs: plain resampling, and any scale up to 1, where there is nothing to add.
        """
        if scale <= 1 + 1e-9 or self.manifest.does.restores or not self.manifest.factors:
            return None
        return next((f for f in self.manifest.factors if f >= scale - 1e-9), self.manifest.factors[-1])

    def operations_per_pixel(self, factor: int) -> float:
        """Floating-point operations of the network per source pixel."""
        return self.manifest.network.operations_per_pixel[factor] if self.manifest.network else 0.0

    def bytes_per_pixel(self, factor: int) -> float:
        """About how much memory the network needs per source pixel while it runs; 0 for plain resampling."""
        if self.manifest.network is None:
            return 0.0
        with self._lock:
            if factor not in self._bytes:
                self._bytes[factor] = _LAYERS_AT_ONCE * 4 * widest(self._content_for(factor))
            return self._bytes[factor]

    def content(self) -> bytes:
        """The network's file, checked against its hash. Raises EngineError."""
        network = self.manifest.network
        if network is None:
            raise EngineError(f"{self.manifest.name} has no network to run.")
        try:
            content = (self._folder / network.file).read_bytes()
        except OSError as error:
            raise EngineError(f"The network of {self.manifest.name} is gone ({error.strerror}).") from error
        if hashlib.sha256(content).hexdigest() != network.sha256:
            raise EngineError(
                f"The weights of {self.manifest.name} are not those its manifest names; install it again."
            )
        return content

    def session(self, factor: int) -> onnxruntime.InferenceSession | GuestSession:
        """The part of the network that one of its factors needs, loaded or about to be. Raises EngineError."""
        with self._lock:
            if factor not in self._sessions:
                self._sessions[factor] = (
                    GuestSession(self._folder, factor, self.manifest.name)
                    if self._guest
                    else session_of(self._content_for(factor))
                )
            return self._sessions[factor]

    def release(self) -> None:
        """Give back the memory of the network; it is loaded again when it is next needed."""
        with self._lock:
            for factor in self._sessions:
                _LOADED.forget((self, factor))
            self._sessions.clear()

    def _let_go(self, factor: int) -> None:
        with self._lock:
            self._sessions.pop(factor, None)

    def _content_for(self, factor: int) -> bytes:
        """The part of the network that one of its factors needs."""
        content = self.content()
        assert self.manifest.network is not None
        outputs = self.manifest.network.outputs
        return pruned(content, [outputs[factor]]) if len(outputs) > 1 else content

    def enlarge(self, pixels: Pixels, factor: int) -> Pixels:
        """Run one head of an engine that enlarges.

        Parameters
        ----------
        pixels
            H×W×1 or H×W×3, encoded 0..1; sides divide by the stride. Grey is run as RGB and averaged back.
        factor
            One of the manifest's factors.

        Returns
        -------
        factor·H × factor·W × the bands given; the outermost ``reach``·factor pixels are unreliable.
        """
        grey = pixels.shape[2] == 1
        result = self._run(np.broadcast_to(pixels, (*pixels.shape[:2], 3)), None, factor)
        if grey:
            return np.asarray(result.mean(axis=2, keepdims=True))
        return neutral_kept(pixels, result, self.reach)

    def restore(self, pictures: Pixels, maps: Pixels) -> Pixels:
        """Run an engine that restores.

        Parameters
        ----------
        pictures
            H×W×P, encoded 0..1, P planes as its kind has (:mod:`~kitecore.engines.kinds`); sides divide by the
            network's stride.
        maps
            H×W×M, the maps its kind has. A network without maps is run at full
            strength, and the strength of the maps applied to what it changed.

        Returns
        -------
        H×W×3; the outermost ``reach`` pixels are unreliable.
        """
        return neutral_kept(pictures, self._restored(pictures, maps), self.reach)

    def _restored(self, pictures: Pixels, maps: Pixels) -> Pixels:
        assert self.manifest.network is not None
        if self.manifest.network.maps:
            return self._run(pictures, maps, 1)
        if not self.manifest.does.strengths:
            return self._run(pictures, None, 1)
        given = pictures[..., :3]
        change = self._run(pictures, None, 1) - given
        if self.manifest.does.strengths == 1:
            return given + maps[..., :1] * change
        luminance = change @ LUMA
        colour = change - luminance[..., None]
        return np.asarray(given + maps[..., 0:1] * luminance[..., None] + maps[..., 1:2] * colour, np.float32)

    def _run(self, pictures: Pixels, maps: Pixels | None, factor: int) -> Pixels:
        """One output of the network for H×W×P pictures and H×W×M maps, as fH×fW×3."""
        network = self.manifest.network
        session = self.session(factor)
        assert network is not None
        low, high = network.range
        scaled = (low, high) != (0.0, 1.0)
        planes = _planes_of(pictures)
        if scaled:
            planes = planes * np.float32(high - low) + np.float32(low)
        fed = {network.input: planes}
        if network.maps and maps is not None:
            fed[network.maps] = _planes_of(maps)
        # Nobody waits for a guest that has lost its way.
        with contextlib.nullcontext() if self._guest else _RUNNING:
            began = time.perf_counter()
            given = session.run([network.outputs[factor]], fed)[0][0]
            seconds = time.perf_counter() - began
        pixels = pictures.shape[0] * pictures.shape[1]
        pace.note(self.manifest.id, pixels * self.operations_per_pixel(factor), seconds)
        if not self._guest:
            taken = self.bytes_per_pixel(factor) * pixels
            _LOADED.used((self, factor), taken, lambda: self._let_go(factor))
        result: Pixels = cv2.merge(list(given))
        return (result - np.float32(low)) / np.float32(high - low) if scaled else result
