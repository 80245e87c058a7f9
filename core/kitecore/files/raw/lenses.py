"""What the lens database knows of a lens: distortion, darker corners and colour fringes, and how they are undone.

The database is lensfun's; profiles that a workshop measured itself are put beside it as XML files (KITE_LENSES).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path

import lensfunpy
import numpy as np
import numpy.typing as npt

from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.pixels import Pixels
from kitecore.settings import settings

Places = npt.NDArray[np.float32]

#: Where the distance is not told, as files hardly ever do.
_FAR_M = 1000.0
#: Darkening is told for so many places along the long side.
_DARK_SIDE = 256
MOST_FOUND = 60
#: Rows and columns that the bending is fitted to, terms it has, and how far it may be from what is told, px.
_FITTED, _TERMS, _MOST_JITTER = 48, 5, 0.4


@dataclass(frozen=True)
class Exposed:
    """What decides how a lens drew a picture: who made it, and its settings; None what is not known."""

    maker: str | None
    model: str | None
    lens: str | None
    focal_mm: float | None
    aperture: float | None


@lru_cache(maxsize=1)
def _database(folders: tuple[Path, ...]) -> lensfunpy.Database:
    own = [str(path) for folder in folders for path in sorted(folder.glob("*.xml"))]
    database = lensfunpy.Database(load_common=False)
    if own:
        database = lensfunpy.Database(paths=[*_bundled(), *own], load_common=False, load_bundled=False)
    return database


def _bundled() -> list[str]:
    return [str(path) for path in sorted((Path(lensfunpy.__file__).parent / "db_files").glob("*.xml"))]


def _camera(exposed: Exposed) -> lensfunpy.Camera | None:
    if not exposed.model:
        return None
    found = _database(tuple(settings().lenses)).find_cameras(exposed.maker, exposed.model)
    return found[0] if found else None


def found_lens(exposed: Exposed) -> str | None:
    """The name of the profile of the lens a picture was taken with; None if there is none."""
    camera = _camera(exposed)
    if camera is None or not exposed.lens:
        return None
    found = _database(tuple(settings().lenses)).find_lenses(camera, None, exposed.lens)
    return str(found[0].model) if found else None


def lenses_like(exposed: Exposed, text: str) -> list[str]:
    """Names of profiles that hold all words of ``text``, those for the camera alone if it is known; at most MOST_FOUND."""
    camera = _camera(exposed)
    database = _database(tuple(settings().lenses))
    known = database.find_lenses(camera) if camera else database.lenses
    words = text.casefold().split()
    names = dict.fromkeys(str(lens.model) for lens in known)
    return [name for name in names if all(word in name.casefold() for word in words)][:MOST_FOUND]


class LensProfile:
    """How one lens drew a picture of ``size`` (as the samples lie), and where what it bent belongs.

    Raises LookupError if no profile has that name.
    """

    def __init__(self, name: str, exposed: Exposed, size: Size) -> None:
        database = _database(tuple(settings().lenses))
        camera = _camera(exposed)
        known = database.find_lenses(camera) if camera else database.lenses
        lens = next((one for one in known if one.model == name), None) or next(
            (one for one in database.lenses if one.model == name), None
        )
        if lens is None:
            raise LookupError(name)
        self.name, self._lens, self._size = name, lens, size
        self._crop = camera.crop_factor if camera else lens.crop_factor
        self._focal = exposed.focal_mm or lens.min_focal
        self._aperture = exposed.aperture or max(lens.min_aperture, 8.0)
        self._bending = self._modifier(size, lensfunpy.ModifyFlags.ALL & ~lensfunpy.ModifyFlags.VIGNETTING)

    def _modifier(self, size: Size, flags: int) -> lensfunpy.Modifier:
        modifier = lensfunpy.Modifier(self._lens, self._crop, size.width, size.height)
        modifier.initialize(self._focal, self._aperture, _FAR_M, scale=0.0, pixel_format=np.float32, flags=int(flags))
        return modifier

    def places(self, region: Region) -> Places | None:
        """Where in the picture as it was taken pixels of a corrected region come from, for each colour: H×W×3×2, x and y of
        middles of pixels, from 0. None if it bends nothing."""
        if self._radial is None:
            return self._told(region)
        middle, unit, shares = self._radial
        x = (np.arange(region.x, region.right) - middle[0])[None]
        y = (np.arange(region.y, region.bottom) - middle[1])[:, None]
        squared = (x * x + y * y) / unit**2
        larger = np.polynomial.polynomial.polyval(squared, shares.T)
        return (
            np.stack([x * larger + middle[0], y * larger + middle[1]], axis=-1).transpose(1, 2, 0, 3).astype(np.float32)
        )

    @cached_property
    def _radial(self) -> tuple[tuple[float, float], float, npt.NDArray[np.float64]] | None:
        """What the database tells, as a polynomial of the distance from the middle for each colour: smooth, where it is told with
        a jitter of a tenth of a pixel. None if it is none, or nothing."""
        width, height = self._size.width, self._size.height
        middle = (width - 1) / 2 + self._lens.center_x * width / 2, (height - 1) / 2 + self._lens.center_y * height / 2
        unit, rows = float(np.hypot(width, height)) / 2, np.unique(np.linspace(0, height - 1, _FITTED).astype(int))
        told = [self._told(Region(0, int(row), width, 1)) for row in rows]
        if told[0] is None:
            return None
        columns = np.unique(np.linspace(0, width - 1, _FITTED).astype(int))
        found = np.stack([one[0, columns] for one in told if one is not None]).astype(np.float64)
        x, y = np.broadcast_arrays((columns - middle[0])[None], (rows - middle[1])[:, None])
        powers = ((x * x + y * y) / unit**2)[..., None] ** np.arange(_TERMS)
        given = np.concatenate(
            [(x[..., None] * powers).reshape(-1, _TERMS), (y[..., None] * powers).reshape(-1, _TERMS)]
        )
        shares = []
        for colour in range(3):
            wanted = np.concatenate([(found[..., colour, axis] - middle[axis]).ravel() for axis in (0, 1)])
            share = np.linalg.lstsq(given, wanted, rcond=None)[0]
            if np.sqrt(np.mean((given @ share - wanted) ** 2)) > _MOST_JITTER:
                return None
            shares.append(share)
        return middle, unit, np.array(shares)

    def _told(self, region: Region) -> Places | None:
        found = self._bending.apply_subpixel_geometry_distortion(region.x, region.y, region.width, region.height)
        if found is None:
            plain = self._bending.apply_geometry_distortion(region.x, region.y, region.width, region.height)
            if plain is None:
                return None
            found = np.repeat(plain[:, :, None], 3, axis=2)
        return np.asarray(found, np.float32)

    def light(self) -> Pixels | None:
        """By how much light falls off towards the corners, as what makes up for it: a small picture of the whole, H×W×1."""
        share = _DARK_SIDE / max(self._size.width, self._size.height)
        small = Size(max(8, round(self._size.width * share)), max(8, round(self._size.height * share)))
        even = np.ones((small.height, small.width, 3), np.float32)
        if not self._modifier(small, lensfunpy.ModifyFlags.VIGNETTING).apply_color_modification(even):
            return None
        return even[..., :1]
