"""Make what the Drawn engine learns from: drawings, lettering and hard-edged renders, with no two alike.

``python lab/drawings.py`` draws pictures of 640×640 px four times as large and averages them down, so that edges are
exact; lettering is set in openly licensed fonts from Debian packages (recorded in ``lab/provenance_fonts.json``); a
few scenes are ray-traced. Book pages, set in small print of real words, and handwritten notes are 1280×1280 px: training
turns and scales them. Seeded: the same pictures every time.
"""

from __future__ import annotations

import json
import string
import subprocess
import tempfile
from pathlib import Path
from pydoc_data.topics import topics

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from pictures import copyright_paragraph

HERE = Path(__file__).parent
DRAWINGS = HERE / "drawings"
FONTS = HERE / "fonts"
READING_FONTS = HERE / "reading_fonts"
PROVENANCE = HERE / "provenance_fonts.json"
PACKAGES = ("fonts-dejavu-core", "fonts-liberation", "fonts-lato", "fonts-crosextra-caladea", "fonts-cantarell")
#: What pages are set in as well; apart, so that the drawings of the same seed stay the same.
READING_PACKAGES = (
    "fonts-open-sans", "fonts-roboto-unhinted", "fonts-crosextra-carlito", "fonts-freefont-ttf", "fonts-linuxlibertine",
    "fonts-urw-base35",
)  # fmt: skip
#: Faces that prose is set in, and those that are rarer in it.
UPRIGHT = (
    "DejaVuSans", "DejaVuSerif", "LiberationSans-Regular", "LiberationSerif-Regular", "Caladea-Regular", "Lato-Regular",
    "Cantarell-Regular", "OpenSans-Regular", "Roboto-Regular", "Roboto-Medium", "Carlito-Regular", "FreeSans",
    "FreeSerif", "LinLibertine_R", "LinBiolinum_R", "NimbusSans-Regular", "NimbusRoman-Regular", "P052-Roman",
    "C059-Roman", "OpenSans-Semibold",
)  # fmt: skip
RARER = (
    "DejaVuSans-Bold", "LiberationSans-Bold", "LiberationSerif-Italic", "LiberationSerif-Bold", "OpenSans-Italic",
    "OpenSans-Bold", "Roboto-Light", "RobotoCondensed-Regular", "LiberationSansNarrow-Regular", "LiberationMono-Regular",
    "URWBookman-Light", "URWGothic-Book",
)  # fmt: skip
SIDE, FINE = 640, 4
#: Real words, as prose has them: small print is guessed from what letters usually stand together.
WORDS = " ".join(topics[name] for name in sorted(topics)).split()


def fetch_fonts(packages: tuple[str, ...], target: Path) -> list[dict[str, str]]:
    """Put the fonts of Debian packages into ``target``, and say whose they are; nothing is installed."""
    target.mkdir(exist_ok=True)
    entries = []
    with tempfile.TemporaryDirectory() as folder:
        for package in packages:
            subprocess.run(["apt-get", "download", package], cwd=folder, check=True, capture_output=True)
            archive = next(Path(folder).glob(f"{package}_*.deb"))
            tree = Path(folder) / package
            subprocess.run(["dpkg-deb", "-x", str(archive), str(tree)], check=True)
            rights = (tree / "usr/share/doc" / package / "copyright").read_text(errors="replace")
            for path in sorted([*tree.rglob("*.ttf"), *tree.rglob("*.otf")]):
                if not path.is_symlink():
                    (target / path.name).write_bytes(path.read_bytes())
            entries.append({
                "package": archive.name.removesuffix("_all.deb").replace("%3a", ":"),
                "rights": copyright_paragraph(rights, package),
            })  # fmt: skip
    return entries


def faces(names: tuple[str, ...]) -> list[Path]:
    """The files of the named faces."""
    files = {path.stem: path for folder in (FONTS, READING_FONTS) for path in folder.iterdir()}
    return [files[name] for name in names]


class Sheet:
    """One drawing in the making, four times as large as it will be."""

    def __init__(self, fonts: list[Path], seed: int) -> None:
        self.random = np.random.default_rng(seed)
        self.fonts = fonts
        self.side = SIDE * FINE
        # Mostly few colours, as drawings and logotypes have.
        self.palette = [tuple(int(value) for value in self.random.integers(0, 256, 3)) for _ in range(5)]
        if self.random.random() < 0.6:
            self.palette[0] = (255, 255, 255) if self.random.random() < 0.7 else (12, 12, 16)
            self.palette[1] = (0, 0, 0) if self.palette[0][0] > 100 else (250, 250, 245)
        self.image = Image.new("RGB", (self.side, self.side), self.palette[0])
        self.pen = ImageDraw.Draw(self.image)

    def colour(self) -> tuple[int, ...]:
        return self.palette[int(self.random.integers(1, 5))]

    def point(self) -> tuple[float, float]:
        return tuple(self.random.uniform(0, self.side, 2).tolist())

    def lettering(self) -> None:
        """Words of any size that can still be read when it is shrunk fourfold, up to a poster's."""
        size = int(FINE * 18 * 2 ** self.random.uniform(0, 3))
        font = ImageFont.truetype(str(self.fonts[self.random.integers(len(self.fonts))]), size)
        letters = string.ascii_letters + string.digits + "  ,.&?!-äéøß"
        count = int(self.random.integers(3, 26))
        text = "".join(self.random.choice(list(letters), count))
        x, y = self.point()
        lines = int(self.random.integers(1, 5))
        for line in range(lines):
            self.pen.text(
                (x - self.side * 0.2, y + line * size * 1.25),
                text,
                self.colour() if line == 0 else self.palette[1],
                font,
            )

    def page(self) -> None:
        """A block of running text, as in books and captions."""
        size = int(FINE * self.random.uniform(16, 34))
        font = ImageFont.truetype(str(self.fonts[self.random.integers(len(self.fonts))]), size)
        colour = self.palette[1]
        x, y = self.random.uniform(0, self.side * 0.3, 2)
        for line in range(int(self.random.integers(4, 16))):
            words = [
                "".join(self.random.choice(list(string.ascii_lowercase), int(self.random.integers(2, 10))))
                for _ in range(12)
            ]
            self.pen.text((x, y + line * size * 1.3), " ".join(words).capitalize(), colour, font)

    def strokes(self) -> None:
        """Lines and curves as a pen draws them."""
        width = int(FINE * self.random.choice([1.5, 2, 3, 4, 6, 9]))
        for _ in range(int(self.random.integers(2, 9))):
            start, bend, end = (np.array(self.point()) for _ in range(3))
            t = np.linspace(0, 1, 60)[:, None]
            curve = (1 - t) ** 2 * start + 2 * t * (1 - t) * bend + t**2 * end
            self.pen.line([tuple(p) for p in curve.tolist()], self.colour(), width, joint="curve")

    def shapes(self) -> None:
        for _ in range(int(self.random.integers(2, 7))):
            (x, y), r = self.point(), FINE * 8 * 2 ** self.random.uniform(0, 3.5)
            outline = self.colour() if self.random.random() < 0.5 else None
            width = int(FINE * self.random.choice([1, 2, 3]))
            kind = self.random.integers(3)
            if kind == 0:
                self.pen.ellipse((x - r, y - r * 0.7, x + r, y + r * 0.7), self.colour(), outline, width)
            elif kind == 1:
                self.pen.rounded_rectangle((x - r, y - r, x + r, y + r * 0.6), r * 0.3, self.colour(), outline, width)
            else:
                angles = np.sort(self.random.uniform(0, 2 * np.pi, int(self.random.integers(3, 7))))
                self.pen.polygon(
                    [(x + r * np.cos(a), y + r * np.sin(a)) for a in angles], self.colour(), outline, width
                )

    def hatching(self) -> None:
        """Parallel lines, as shading and charts have."""
        (x, y), r, gap = self.point(), FINE * self.random.uniform(40, 160), FINE * self.random.uniform(9, 26)
        angle, colour = self.random.uniform(0, np.pi), self.colour()
        along, across = np.array([np.cos(angle), np.sin(angle)]), np.array([-np.sin(angle), np.cos(angle)])
        for offset in np.arange(-r, r, gap):
            a, b = np.array([x, y]) + across * offset - along * r, np.array([x, y]) + across * offset + along * r
            self.pen.line([tuple(a), tuple(b)], colour, int(FINE * self.random.choice([2, 3, 4])))

    def shading(self) -> None:
        """A smooth ramp, so that flat paint is not all that is known."""
        ramp = np.linspace(0, 1, self.side, dtype=np.float32)
        ramp = ramp[None, :, None] if self.random.random() < 0.5 else ramp[:, None, None]
        a, b = (np.array(self.colour(), np.float32) for _ in range(2))
        self.image.paste(
            Image.fromarray(np.broadcast_to(a + (b - a) * ramp, (self.side, self.side, 3)).astype(np.uint8))
        )

    def book_page(self) -> Image.Image:
        """A page of running prose from edge to edge, dark on light, for :func:`patches.laid_down` to scale."""
        paper, ink = (int(value) for value in (self.random.integers(215, 256), self.random.integers(0, 70)))
        self.pen.rectangle((0, 0, self.side, self.side), (paper,) * 3)
        size = int(self.random.uniform(84, 132))
        leading, margin = size * self.random.uniform(1.1, 1.7), self.random.uniform(0, size * 2)
        font = ImageFont.truetype(str(self.fonts[self.random.integers(len(self.fonts))]), size)
        space, y = font.getlength(" "), -size * self.random.random()
        while y < self.side:
            x, place = margin, int(self.random.integers(len(WORDS) - 60))
            # Lines are justified in some pages: their gaps differ.
            gap = space * self.random.uniform(0.9, 1.9)
            for word in WORDS[place : place + 60]:
                self.pen.text((x, y), word, (ink,) * 3, font)
                x += font.getlength(word) + gap
            y += leading * (2 if self.random.random() < 0.08 else 1)
        return self.image.resize((2 * SIDE, 2 * SIDE), Image.Resampling.BOX)

    def note(self) -> Image.Image:
        """Handwriting on ruled paper: chains of short curves in rows, some lines long, the pen's pressure changing."""
        paper = int(self.random.integers(110, 256))
        ink, rule = int(paper * self.random.uniform(0, 0.45)), int(paper * self.random.uniform(0.45, 0.95))
        self.pen.rectangle((0, 0, self.side, self.side), (paper,) * 3)
        row = self.random.uniform(230, 420)
        if self.random.random() < 0.7:
            for y in np.arange(row, self.side, row):
                self.pen.line((0, y, self.side, y), (rule,) * 3, int(self.random.uniform(5, 14)))
            if self.random.random() < 0.5:
                for x in np.arange(row, self.side, row):
                    self.pen.line((x, 0, x, self.side), (rule,) * 3, int(self.random.uniform(5, 14)))
        width = self.random.uniform(14, 34)
        for base in np.arange(row * 0.8, self.side, row):
            x = self.random.uniform(0, row)
            while x < self.side:
                x += self._sign(x, base, row, width, (ink,) * 3)
        for _ in range(int(self.random.integers(0, 5))):
            self._trace([np.array(self.point()) for _ in range(3)], width, (ink,) * 3)
        return self.image.resize((2 * SIDE, 2 * SIDE), Image.Resampling.BOX)

    def _sign(self, x: float, base: float, row: float, width: float, ink: tuple[int, ...]) -> float:
        """One made-up letter with its foot at (x, base); returns how far the pen has come."""
        height, breadth = row * self.random.uniform(0.25, 0.75), row * self.random.uniform(0.15, 0.5)
        at = np.array([x, base]) - self.random.uniform(0, 1, 2) * (0, height)
        for _ in range(int(self.random.integers(1, 4))):
            ends = np.array([x, base]) + self.random.uniform(0, 1, (2, 2)) * (breadth, -height)
            self._trace([at, ends[0], ends[1]], width, ink)
            at = ends[1] if self.random.random() < 0.7 else np.array([x, base]) - (0, self.random.uniform(0, height))
        return breadth * self.random.uniform(1.1, 1.6) + (row * 0.6 if self.random.random() < 0.2 else 0)

    def _trace(self, points: list[np.ndarray], width: float, ink: tuple[int, ...]) -> None:
        """A curve from the first to the last point, bent by the one between, thinner where the pen is lifted."""
        start, bend, end = points
        t = np.linspace(0, 1, 40)[:, None]
        curve = (1 - t) ** 2 * start + 2 * t * (1 - t) * bend + t**2 * end
        pressure = width * (1 - self.random.uniform(0, 0.5) * t[:, 0] ** 2)
        for a, b, thick in zip(curve[:-1], curve[1:], pressure[1:], strict=True):
            self.pen.line((*a, *b), ink, max(1, round(thick)))
            self.pen.ellipse((*(b - thick / 2), *(b + thick / 2)), ink)

    def finished(self) -> Image.Image:
        if self.random.random() < 0.25:
            self.shading()
        for part in self.random.permutation(
            ["shapes", "hatching", "strokes", "lettering", "lettering", "lettering", "page"]
        ):
            if self.random.random() < 0.75:
                getattr(self, str(part))()
        return self.image.resize((SIDE, SIDE), Image.Resampling.BOX)


def render(seed: int) -> Image.Image:
    """A ray-traced heap of hard-edged bodies in flat colours on a plain ground."""
    import mitsuba

    mitsuba.set_variant("scalar_rgb")
    random = np.random.default_rng(seed)
    to_world = mitsuba.ScalarTransform4f
    scene: dict = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 4},
        "sensor": {
            "type": "perspective", "fov": 40,
            "to_world": to_world().look_at(origin=[0, -6, 4], target=[0, 0, 0.4], up=[0, 0, 1]),
            "film": {"type": "hdrfilm", "width": SIDE, "height": SIDE, "rfilter": {"type": "box"}},
            "sampler": {"type": "independent", "sample_count": 100},
        },
        "light": {"type": "constant", "radiance": 0.9},
        "sun": {"type": "directional", "direction": [0.5, 0.6, -1], "irradiance": 1.6},
        "ground": {"type": "rectangle", "to_world": to_world().scale(30),
                   "bsdf": {"type": "diffuse", "reflectance": {"type": "rgb", "value": random.uniform(0.2, 0.8, 3).tolist()}}},
    }  # fmt: skip
    for index in range(12):
        place = [*random.uniform(-2.2, 2.2, 2).tolist(), random.uniform(0.1, 0.8)]
        shape = (
            to_world()
            .translate(place)
            .rotate([0, 0, 1], random.uniform(0, 90))
            .rotate([1, 0, 0], random.uniform(0, 60))
        )
        scene[f"body{index}"] = {
            "type": str(random.choice(["cube", "sphere", "cylinder"])),
            "to_world": shape.scale(random.uniform(0.15, 0.5)),
            "bsdf": {"type": "twosided", "material": {
                "type": "diffuse", "reflectance": {"type": "rgb", "value": random.uniform(0.05, 0.9, 3).tolist()}}},
        }  # fmt: skip
    light = np.clip(np.array(mitsuba.render(mitsuba.load_dict(scene))), 0, 1)
    tone = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    return Image.fromarray((tone * 255).round().astype(np.uint8))


def main() -> None:
    DRAWINGS.mkdir(exist_ok=True)
    entries = fetch_fonts(PACKAGES, FONTS) + fetch_fonts(READING_PACKAGES, READING_FONTS)
    PROVENANCE.write_text(json.dumps(entries, indent=1, ensure_ascii=False) + "\n")
    fonts = sorted(FONTS.iterdir())
    upright, rarer = faces(UPRIGHT), faces(RARER)
    for seed in range(110):
        Sheet(fonts, seed).finished().save(DRAWINGS / f"drawing-{seed:03}.png")
    for seed in range(160):
        Sheet(rarer if seed % 4 == 3 else upright, 1000 + seed).book_page().save(DRAWINGS / f"page-{seed:03}.png")
    for seed in range(40):
        Sheet(fonts, 2000 + seed).note().save(DRAWINGS / f"note-{seed:03}.png")
    for seed in range(6):
        path = DRAWINGS / f"render-{seed:02}.png"
        if not path.exists():
            render(seed).save(path)


if __name__ == "__main__":
    main()
