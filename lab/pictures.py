"""Fetch the openly licensed photographs the networks learn from.

``python lab/pictures.py`` downloads the Debian packages named below (nothing is installed), takes the
photographs out of them, shrinks the very large ones so that every pixel is sharp, and writes
``lab/provenance.json``: package, version, file, hash, and the licence text of the package's copyright
file that names it. The pictures the judge uses are refused by hash, so that no network can have seen
what it is judged on.
"""

from __future__ import annotations

import hashlib
import json
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image
from reserved import every_reserved_picture

HERE = Path(__file__).parent
PICTURES = HERE / "pictures"
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


def fetch() -> None:
    PICTURES.mkdir(exist_ok=True)
    refused = reserved_hashes()
    entries = []
    with tempfile.TemporaryDirectory() as folder:
        for package, names in PHOTOGRAPHS.items():
            subprocess.run(["apt-get", "download", package], cwd=folder, check=True, capture_output=True)
            archive = next(Path(folder).glob(f"{package}_*.deb"))
            tree = Path(folder) / package
            subprocess.run(["dpkg-deb", "-x", str(archive), str(tree)], check=True)
            rights = (tree / "usr/share/doc" / package / "copyright").read_text(errors="replace")
            for name in names:
                path = next(p for p in tree.rglob("*") if str(p).endswith("/" + name))
                picture = shrink_until_sharp(Image.open(path).convert("RGB"))
                digest = pixel_hash(np.asarray(picture))
                if digest in refused:
                    sys.exit(f"{package}/{name} is the judge's picture {refused[digest]}; it is never trained on.")
                picture.save(PICTURES / f"{package}-{name.replace('/', '-')}.png")
                entries.append({
                    "package": archive.name.removesuffix("_all.deb").replace("%3a", ":"),
                    "file": name,
                    "size": picture.size,
                    "sha256_of_pixels": digest,
                    "rights": copyright_paragraph(rights, name),
                })  # fmt: skip
                print(f"{package}: {name} {picture.size[0]}×{picture.size[1]}")
    PROVENANCE.write_text(json.dumps(entries, indent=1, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    fetch()
