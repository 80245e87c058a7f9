"""Look-up tables in .cube files: read with a sentence for each fault, and applied by tetrahedra.

The format: “Cube LUT Specification” 1.0 (2013), one or three dimensions, any domain; also with both in one file. Between the
points of three dimensions: six tetrahedra in every cell (J. M. Kasson et al., 1995), which keep the grey axis free of ripples.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

from kitecore.errors import EngineError
from kitecore.pipeline.evenly import read_evenly
from kitecore.pipeline.pixels import Pixels
from kitecore.settings import settings

#: Bounds of the specification, and of a file.
_MOST_1D, _MOST_3D = 65536, 129
MOST_BYTES = 64_000_000
#: What a table is called by: the beginning of its file's SHA-256.
TABLE_PATTERN = r"^([0-9a-f]{32})?$"


class TableError(EngineError):
    """A look-up table is broken, or not on the shelf any more."""

    code = "table"


@dataclass(frozen=True, eq=False)
class CubeTable:
    """``one`` is N×3, ``three`` is N×N×N×3 by blue, green and red; at least one is there. ``low`` and ``high``: the domain."""

    title: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    one: npt.NDArray[np.float32] | None
    three: npt.NDArray[np.float32] | None

    def apply(self, colours: Pixels) -> Pixels:
        """Coded RGB, H×W×3, through the table; beyond its domain colours are changed as at its border, by as much."""
        low, high = np.array(self.low, np.float32), np.array(self.high, np.float32)
        inside = np.clip(colours, low, high)
        share = (inside - low) / (high - low)
        result = share
        if self.one is not None:
            result = np.stack([read_evenly(self.one[:, band], share[..., band]) for band in range(3)], axis=2)
        if self.three is not None:
            result = _tetrahedral(self.three, np.clip(result, 0, 1))
        return np.asarray(result + (colours - inside), np.float32)


def _tetrahedral(table: npt.NDArray[np.float32], share: Pixels) -> Pixels:
    size = len(table)
    at = share * np.float32(size - 1)
    cell = np.minimum(at.astype(np.intp), size - 2)
    red, green, blue = (at[..., band] - cell[..., band] for band in range(3))
    flat = table.reshape(-1, 3)
    steps = np.array([1, size, size * size])
    corner = cell @ steps
    parts = np.stack([red, green, blue], axis=2)
    # The largest part is walked along first: six orders, six tetrahedra.
    order = np.argsort(-parts, axis=2, kind="stable")
    sorted_parts = np.take_along_axis(parts, order, axis=2)
    walk = steps[order]
    first = flat[corner]
    second, third = flat[corner + walk[..., 0]], flat[corner + walk[..., 0] + walk[..., 1]]
    last = flat[corner + int(steps.sum())]
    one, two, three = (sorted_parts[..., band, None] for band in range(3))
    return np.asarray((1 - one) * first + (one - two) * second + (two - three) * third + three * last, np.float32)


def read_cube(content: bytes) -> CubeTable:
    """The table of a .cube file. Raises TableError with a sentence that names the line."""
    if len(content) > MOST_BYTES:
        raise TableError(
            f"The table has {len(content) / 1e6:,.0f} MB; at most {MOST_BYTES / 1e6:,.0f} MB are accepted."
        )
    try:
        lines = content.decode("utf-8-sig").splitlines()
    except UnicodeDecodeError:
        raise TableError("This is not a .cube file: it is not text. Choose the table itself.") from None
    return _Reading().all_of(lines)


class _Reading:
    """A file as it is read, line by line."""

    def __init__(self) -> None:
        self.title = ""
        self.sizes: dict[str, int] = {}
        self.domain = {"DOMAIN_MIN": (0.0, 0.0, 0.0), "DOMAIN_MAX": (1.0, 1.0, 1.0)}
        self.rows: list[tuple[float, float, float]] = []

    def all_of(self, lines: list[str]) -> CubeTable:
        for number, line in enumerate(lines, 1):
            words = line.split("#", 1)[0].split()
            if words:
                self._take(number, words, line)
        return self._table()

    def _take(self, number: int, words: list[str], line: str) -> None:
        name, rest = words[0].upper(), words[1:]
        if name == "TITLE":
            self.title = line.split(maxsplit=1)[1].strip().strip('"')[:80] if rest else ""
        elif name in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
            most = _MOST_1D if name == "LUT_1D_SIZE" else _MOST_3D
            if len(rest) != 1 or not rest[0].isdigit() or not 2 <= int(rest[0]) <= most:
                raise TableError(
                    f"Line {number} of the table should give a size from 2 to {most}, not “{' '.join(rest)}”."
                )
            self.sizes[name] = int(rest[0])
        elif name in self.domain:
            self.domain[name] = self._three(number, rest)
        elif name in ("LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"):
            low, high = self._numbers(number, rest, 2)
            self.domain = {"DOMAIN_MIN": (low, low, low), "DOMAIN_MAX": (high, high, high)}
        elif name[0].isalpha():
            raise TableError(f"Line {number} of the table begins with “{words[0]}”, which no .cube file has.")
        else:
            self.rows.append(self._three(number, words))

    def _numbers(self, number: int, words: list[str], count: int) -> list[float]:
        try:
            values = [float(word) for word in words]
        except ValueError:
            values = []
        if len(values) != count or not all(np.isfinite(values)):
            raise TableError(f"Line {number} of the table should have {count} numbers, not “{' '.join(words)[:40]}”.")
        return values

    def _three(self, number: int, words: list[str]) -> tuple[float, float, float]:
        red, green, blue = self._numbers(number, words, 3)
        return red, green, blue

    def _table(self) -> CubeTable:
        if not self.sizes:
            raise TableError("This is not a .cube file: it gives neither LUT_1D_SIZE nor LUT_3D_SIZE.")
        low, high = self.domain["DOMAIN_MIN"], self.domain["DOMAIN_MAX"]
        if any(top <= bottom for bottom, top in zip(low, high, strict=True)):
            raise TableError(
                "The domain of the table ends where it begins, or before: DOMAIN_MAX must be above DOMAIN_MIN."
            )
        one, three = self.sizes.get("LUT_1D_SIZE", 0), self.sizes.get("LUT_3D_SIZE", 0)
        wanted = one + three**3
        if len(self.rows) != wanted:
            raise TableError(
                f"The table should have {wanted:,} rows of numbers and has {len(self.rows):,}: "
                "it was cut off, or pieced together."
            )
        values = np.array(self.rows, np.float32)
        return CubeTable(
            self.title, low, high, values[:one] if one else None,
            values[one:].reshape(three, three, three, 3) if three else None,
        )  # fmt: skip


def table_id(content: bytes) -> str:
    """What the table of a file is called by."""
    return hashlib.sha256(content).hexdigest()[:32]


def table_path(name: str) -> Path:
    """The file of a table on the shelf. Raises TableError if it is not there any more."""
    for folder in settings().tables:
        path = folder / f"{name}.cube"
        if path.is_file():
            return path
    raise TableError(
        "The look-up table of this step is not on the shelf any more; bring it again, or take the step away."
    )


def table_named(name: str) -> CubeTable:
    """A table on the shelf. Raises TableError."""
    path = table_path(name)
    return _kept(str(path))


@lru_cache(maxsize=8)
def _kept(path: str) -> CubeTable:
    # Files are called by what is in them: what was read once holds.
    return read_cube(Path(path).read_bytes())
