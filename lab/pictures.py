"""Fetch the openly licensed photographs the networks learn from.

``python lab/pictures.py`` downloads the Debian packages named below (nothing is installed), takes the
photographs out of them, shrinks the very large ones so that every pixel is sharp, and writes
``lab/provenance.json``: package, version, file, hash, and the licence text of the package's copyright
file that names it. The pictures the judge uses are refused by hash, so that no network can have seen
what it is judged on. Some are kept apart in ``lab/further``: no network learns from those either.
"""

from __future__ import annotations

import hashlib
import io
import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image
from qt_resources import files_in
from reserved import every_reserved_picture

HERE = Path(__file__).parent
PICTURES, FURTHER = HERE / "pictures", HERE / "further"
PROVENANCE = HERE / "provenance.json"

#: Photographs by package; drawn and abstract wallpapers in the same packages are left out.
PHOTOGRAPHS: dict[str, list[str]] = {
    "lomiri-wallpapers-16.04": [
        "Bridge_by_Sander_Klootwijk.jpg", "Dragonfly_by_Bolly.jpg", "Picture_0B_by_freespace.jpg",
        "Picture_1A_by_freespace.jpg", "Wine_by_Jakkub_Mede.jpg", "aitzgorri_by_Aitzol_Berasategi.jpg",
        "free_by_Peter_Nerlich.jpg", "friends_by_Aitzol_Berasategi.jpg", "greentock_by_Peter_Nerlich.jpg",
        "life_by_Aitzol_Berasategi.jpg", "picosdeeuropa_by_Aitzol_Berasategi.jpg",
        "seeding_by_Clements_Engelhardt.jpg", "sunset_by_Aitzol_Berasategi.jpg",
    ],
    "lomiri-wallpapers-20.04": ["Kleiber_by_Lukas_Baubkus.jpg"],
    "mate-backgrounds": [
        "Aqua.jpg", "Blinds.jpg", "Dune.jpg", "FreshFlower.jpg", "Garden.jpg", "GreenMeadow.jpg",
        "LadyBird.jpg", "RainDrops.jpg", "Storm.jpg", "TwoWings.jpg", "Wood.jpg", "YellowFlower.jpg",
    ],
    "plasma-workspace-wallpapers": [
        "BytheWater/contents/images/2560x1600.jpg", "ColdRipple/contents/images/2560x1600.jpg",
        "ColorfulCups/contents/images/2560x1600.jpg", "DarkestHour/contents/images/2560x1600.jpg",
        "EveningGlow/contents/images/2560x1600.jpg", "FallenLeaf/contents/images/2560x1600.jpg",
        "Grey/contents/images/2560x1600.jpg", "Kite/contents/images/2560x1600.jpg",
        "OneStandsOut/contents/images/2560x1600.jpg", "Path/contents/images/2560x1600.jpg",
        "Volna/contents/images/5120x2880.jpg", "summer_1am/contents/images/2560x1600.jpg",
    ],
}  # fmt: skip

#: Resource files full of photographs of animals and buildings, by package.
RESOURCES: dict[str, list[str]] = {
    "gcompris-qt-data": ["explore_monuments", "explore_farm_animals", "explore_world_animals", "erase"],
}
#: Of these, what is kept for judging.
KEPT_FROM_RESOURCES = (
    "hawaMahal", "ajantaCave", "goldenTemple", "chateaudeChambord", "wormsCathedral", "machuPicchu", "petra", "cow",
    "hedgehog", "jaguar", "crab", "kitten", "swans", "meerkats",
)  # fmt: skip
#: Photographs as people take them of each other, all kept for judging.
PEOPLE = ("kphotoalbum", "usr/share/kphotoalbum/demo/*.jpg")
#: What is left of smaller ones has too little in it.
LEAST_SIDE = 400
#: Compressed for a screen: from so many pixels on they are halved, smaller ones divided by 1.5.
HALVED_FROM = 1500


def pixel_hash(pixels: np.ndarray) -> str:
    """SHA-256 of an H×W×3 uint8 picture's shape and pixels, whatever file they came in."""
    return hashlib.sha256(repr(pixels.shape).encode() + np.ascontiguousarray(pixels).tobytes()).hexdigest()


def reserved_hashes() -> dict[str, str]:
    """Hashes of the judge's pictures (the samples inside scikit-image), which are never trained on."""
    return {pixel_hash(pixels): name for name, pixels in every_reserved_picture().items()}


def shrink_until_sharp(picture: Image.Image) -> Image.Image:
    """Halve pictures over 3,000 px and divide those over 2,000 px by 1.5, so that pixels carry detail."""
    long_side = max(picture.size)
    divisor = 2.0 if long_side > 3000 else 1.5 if long_side > 2000 else 1.0
    if divisor == 1.0:
        return picture
    size = (round(picture.width / divisor), round(picture.height / divisor))
    return picture.resize(size, Image.Resampling.LANCZOS)


def copyright_paragraph(text: str, name: str) -> str:
    """The paragraph of a Debian copyright file that names ``name``, or the first one with a licence."""
    paragraphs = [p for p in text.split("\n\n") if "icense" in p]
    stem = Path(name).name if "/" not in name else name.split("/", maxsplit=1)[0]
    for paragraph in paragraphs:
        if stem in paragraph:
            return paragraph.strip()
    return paragraphs[0].strip() if paragraphs else text.strip()[:500]


def paragraph_of_file(text: str, path: str) -> str:
    """The paragraph of a Debian copyright file that names a path, whatever its ending, or the one for all files."""
    paragraphs = [p.strip() for p in text.split("\n\n") if p.startswith("Files:")]
    stem = path.rsplit(".", 1)[0]
    return next((p for p in paragraphs if f"{stem}." in p), paragraphs[0])


class Fetched:
    """The pictures of some packages, unpacked into a folder, and what is to be known of each."""

    def __init__(self, folder: Path) -> None:
        self._folder, self._refused = folder, reserved_hashes()
        self.entries: list[dict[str, object]] = []

    def package(self, name: str) -> tuple[Path, str, str]:
        """Where it is unpacked, its full name, and its copyright file."""
        subprocess.run(["apt-get", "download", name], cwd=self._folder, check=True, capture_output=True)
        archive = next(self._folder.glob(f"{name}_*.deb"))
        tree = self._folder / name
        subprocess.run(["dpkg-deb", "-x", str(archive), str(tree)], check=True)
        full = archive.name.rsplit("_", 1)[0].replace("%3a", ":")
        return tree, full, (tree / "usr/share/doc" / name / "copyright").read_text(errors="replace")

    def add(self, picture: Image.Image, package: str, name: str, rights: str, kept: bool = False) -> None:
        """``kept``: for judging."""
        digest = pixel_hash(np.asarray(picture))
        if digest in self._refused:
            sys.exit(f"{package}/{name} is the judge's picture {self._refused[digest]}; it is never trained on.")
        folder = FURTHER if kept else PICTURES
        folder.mkdir(exist_ok=True)
        picture.save(folder / f"{package.split('_', maxsplit=1)[0]}-{name.replace('/', '-')}.png")
        self.entries.append({
            "package": package, "file": name, "size": picture.size, "sha256_of_pixels": digest, "rights": rights,
            **({"kept_for_judging": True} if kept else {}),
        })  # fmt: skip
        print(f"{package}: {name} {picture.size[0]}×{picture.size[1]}")


def fetch() -> None:
    with tempfile.TemporaryDirectory() as folder:
        fetched = Fetched(Path(folder))
        for package, names in PHOTOGRAPHS.items():
            tree, full, rights = fetched.package(package)
            for name in names:
                path = next(p for p in tree.rglob("*") if str(p).endswith("/" + name))
                picture = shrink_until_sharp(Image.open(path).convert("RGB"))
                fetched.add(picture, full, name, copyright_paragraph(rights, name))
        for package, resources in RESOURCES.items():
            tree, full, rights = fetched.package(package)
            for resource in resources:
                _add_resource(fetched, next(tree.rglob(f"{resource}.rcc")), full, rights)
        tree, full, rights = fetched.package(PEOPLE[0])
        for path in sorted(tree.glob(PEOPLE[1])):
            fetched.add(Image.open(path).convert("RGB"), full, path.name, rights.strip(), kept=True)
    PROVENANCE.write_text(json.dumps(fetched.entries, indent=1, ensure_ascii=False) + "\n")


def _add_resource(fetched: Fetched, resource: Path, package: str, rights: str) -> None:
    for name, content in sorted(files_in(resource)):
        if not name.endswith(".webp"):
            continue
        picture = Image.open(io.BytesIO(content)).convert("RGB")
        divisor = 2 if max(picture.size) > HALVED_FROM else 1.5
        size = (round(picture.width / divisor), round(picture.height / divisor))
        if min(size) >= LEAST_SIDE:
            small = picture.resize(size, Image.Resampling.LANCZOS)
            path = name[name.index("src/") :]
            kept = Path(name).stem in KEPT_FROM_RESOURCES
            fetched.add(small, package, path.removeprefix("src/activities/"), paragraph_of_file(rights, path), kept)


if __name__ == "__main__":
    fetch()
