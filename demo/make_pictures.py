"""Make the demo's pictures: what a workshop's forty years of mixed files look like, each with its clean original.

    python demo/scenes.py FOLDER && python demo/make_pictures.py FOLDER

Needs what lab/requirements.txt installs, and mitsuba for scenes.py. The results, a few megabytes, are in git:
``pictures/`` as they came to the retoucher, ``clean/`` what they once were, for the tests.
"""

from __future__ import annotations

import io
import sys
from pathlib import Path

import cv2
import numpy as np
import pyvips
from PIL import Image, ImageDraw, ImageFont
from textures import fractal, ripstop

HERE = Path(__file__).parent
PICTURES, CLEAN = HERE / "pictures", HERE / "clean"
FONTS = HERE.parent / "web" / "node_modules" / "@fontsource"


def encoded(linear: np.ndarray) -> np.ndarray:
    """Linear light 0..1 to the sRGB curve."""
    clipped = np.clip(linear, 0, 1)
    return np.where(clipped <= 0.0031308, 12.92 * clipped, 1.055 * clipped ** (1 / 2.4) - 0.055)


def exposed(linear: np.ndarray, white: float = 97.0) -> np.ndarray:
    """Render noise calmed, exposure set so that ``white`` % of the pixels stay below 0.8, highlights rolled off."""
    light = linear / np.percentile(linear, white) * 0.8
    # A few passes of the renderer's noise remain: median of lone bright samples, then a gentle bilateral.
    lone = light > 2.5 * cv2.medianBlur(light, 3) + 0.02
    light = np.where(lone, cv2.medianBlur(light, 3), light)
    tone = encoded(1 - np.exp(-1.25 * light)).astype(np.float32)
    return cv2.bilateralFilter(tone, 5, 0.035, 1.2)


def sensor(linear: np.ndarray, photons: float, read: float, seed: int) -> np.ndarray:
    """Shot and read noise on a Bayer mosaic, demosaiced: the blotchy, coloured noise of a real sensor."""
    random = np.random.default_rng(seed)
    gains = np.array([1.9, 1.0, 1.6], np.float32)
    raw = linear / gains
    noisy = random.poisson(np.clip(raw, 0, None) * photons) / photons + random.normal(0, read, raw.shape)
    mosaic = np.zeros(raw.shape[:2], np.float32)
    mosaic[0::2, 0::2] = noisy[0::2, 0::2, 0]
    mosaic[0::2, 1::2] = noisy[0::2, 1::2, 1]
    mosaic[1::2, 0::2] = noisy[1::2, 0::2, 1]
    mosaic[1::2, 1::2] = noisy[1::2, 1::2, 2]
    sixteen = np.clip(mosaic * 40000 + 1000, 0, 65535).astype(np.uint16)
    full = cv2.cvtColor(sixteen, cv2.COLOR_BayerBG2RGB).astype(np.float32)
    return (full - 1000) / 40000 * gains


def lettering(size: int, weight: int) -> ImageFont.FreeTypeFont:
    """The font of the application's own front end, in a size in pixels."""
    from fontTools.ttLib import TTFont

    file = io.BytesIO()
    face = TTFont(FONTS / "ibm-plex-sans" / "files" / f"ibm-plex-sans-latin-{weight}-normal.woff2")
    face.flavor = None
    face.save(file)
    file.seek(0)
    return ImageFont.truetype(file, size)


def poster() -> np.ndarray:
    """A drawn poster with lettering, 4× oversampled: RGB 0..1."""
    scale, width, height = 4, 720, 1020
    picture = Image.new("RGB", (width * scale, height * scale), "#f1e6cf")
    draw = ImageDraw.Draw(picture)

    def points(*pairs: tuple[float, float]) -> list[tuple[float, float]]:
        return [(x * scale, y * scale) for x, y in pairs]

    def font(size: int, weight: int = 600) -> ImageFont.FreeTypeFont:
        return lettering(size * scale, weight)

    for index, colour in enumerate(["#cfe0dc", "#a9cbc6", "#7fb3ae"]):
        top = 560 + 60 * index
        crest = [(x, top + 16 * np.sin(x / 60 + index * 1.7)) for x in range(0, width + 12, 12)]
        draw.polygon(points(*crest, (width, 760), (0, 760)), fill=colour)
    draw.polygon(points((0, 745), (width, 715), (width, 820), (0, 820)), fill="#e3c58d")
    draw.ellipse(points((520, 120), (640, 240))[0] + points((520, 120), (640, 240))[1], fill="#e8a33d")
    for x, y, size, left, right in [
        (250, 330, 190, "#b5342b", "#d9573f"),
        (500, 420, 95, "#1d5a78", "#2f86a6"),
        (120, 180, 62, "#e8a33d", "#f0c067"),
    ]:
        draw.polygon(points((x, y - size), (x, y + size * 0.75), (x - size * 0.72, y - size * 0.25)), fill=left)
        draw.polygon(points((x, y - size), (x, y + size * 0.75), (x + size * 0.72, y - size * 0.25)), fill=right)
        draw.line(points((x, y - size), (x, y + size * 0.75)), fill="#2b2320", width=2 * scale)
        draw.line(
            points((x - size * 0.72, y - size * 0.25), (x + size * 0.72, y - size * 0.25)),
            fill="#2b2320",
            width=2 * scale,
        )
        tail = [(x + 22 * np.sin(t * 1.4), y + size * 0.75 + t * size * 0.17) for t in np.linspace(0, 6, 60)]
        draw.line(points(*tail), fill="#2b2320", width=2 * scale, joint="curve")
        for t in (1, 2.2, 3.4, 4.6):
            cx, cy = x + 22 * np.sin(t * 1.4), y + size * 0.75 + t * size * 0.17
            w = size * 0.07
            draw.polygon(points((cx - w, cy - w), (cx, cy), (cx - w, cy + w)), fill=left)
            draw.polygon(points((cx + w, cy - w), (cx, cy), (cx + w, cy + w)), fill=right)
    draw.text((width * scale / 2, 850 * scale), "TERN SANDS", font=font(92, 600), fill="#2b2320", anchor="mm")
    draw.text(
        (width * scale / 2, 918 * scale),
        "kite days · first week of june",
        font=font(34, 500),
        fill="#b5342b",
        anchor="mm",
    )
    draw.text(
        (width * scale / 2, 968 * scale),
        "workshop open from ten · bring thread, sticks and wind",
        font=font(20, 400),
        fill="#2b2320",
        anchor="mm",
    )
    return np.asarray(picture.resize((width, height), Image.Resampling.BOX), np.float32) / 255


def sail_cloth() -> np.ndarray:
    """A ripstop pattern whose edges meet: RGB 0..1, 384 px square."""
    side = 384
    soft = fractal(side, side, 8, 3)
    wrapped = 0.25 * (soft + soft[::-1] + soft[:, ::-1] + soft[::-1, ::-1])
    # The cloth without its unevenness, whose edges would not meet.
    flat = ripstop(side, side, 96, (0.78, 0.30, 0.12), 7) / np.maximum(
        0.94 + 0.12 * fractal(side, side, 7, 6)[..., None], 1e-3
    )
    y, x = np.mgrid[0:side, 0:side] / side * 2 * np.pi
    shade = 0.9 + 0.05 * np.sin(2 * x + np.sin(y)) + 0.1 * (wrapped - 0.5)
    return np.clip(flat * 0.94 * shade[..., None], 0, 1)


def eight(pixels: np.ndarray) -> np.ndarray:
    return np.clip(np.rint(pixels * 255), 0, 255).astype(np.uint8)


def vips(samples: np.ndarray) -> pyvips.Image:
    samples = np.ascontiguousarray(samples)
    form = "uchar" if samples.dtype == np.uint8 else "ushort"
    image = pyvips.Image.new_from_memory(samples.tobytes(), samples.shape[1], samples.shape[0], samples.shape[2], form)
    return image.copy(interpretation="srgb" if form == "uchar" else "rgb16")


def tagged(image: pyvips.Image, ppi: float, exif: dict[str, str]) -> pyvips.Image:
    image = image.copy(xres=ppi / 25.4, yres=ppi / 25.4)
    for name, value in exif.items():
        image.set_type(pyvips.GValue.gstr_type, f"exif-{name}", value)
    return image


CAMERA = {
    "ifd0-Make": "Gannet", "ifd0-Model": "Gannet 3", "ifd2-ISOSpeedRatings": "3200", "ifd2-FNumber": "28/10",
    "ifd2-ExposureTime": "1/15", "ifd2-FocalLength": "35/1", "ifd2-DateTimeOriginal": "2009:11:06 19:42:10",
}  # fmt: skip


def main() -> None:
    folder = Path(sys.argv[1])
    PICTURES.mkdir(exist_ok=True)
    CLEAN.mkdir(exist_ok=True)
    scene = {name: np.load(folder / f"{name}.npy") for name in ("beach", "night", "loft", "festival")}

    # A small crop of a larger scene, stored turned, as a scanner's operator left it.
    beach = exposed(scene["beach"])
    crop = beach[90:762, 440:944]
    vips(eight(crop)).pngsave(str(CLEAN / "harbour-wall.png"))
    small = cv2.resize(crop, None, fx=0.75, fy=0.75, interpolation=cv2.INTER_AREA)
    turned = tagged(
        vips(np.rot90(eight(small), 1)),
        300,
        {"ifd0-Orientation": "6", "ifd0-Artist": "Tern Sands archive", "ifd0-DateTime": "1988:07:02 15:10:00"},
    )
    turned.set_type(pyvips.GValue.gint_type, "orientation", 6)
    turned.jpegsave(str(PICTURES / "Harbour wall 1988.jpg"), Q=90)

    # Night, one lamp, a small sensor at ISO 3200.
    light = scene["night"] / np.percentile(scene["night"], 97) * 0.8
    clean = exposed(scene["night"])
    vips(eight(clean)).jpegsave(str(CLEAN / "workshop-night.jpg"), Q=95)
    noisy = encoded(1 - np.exp(-1.25 * np.clip(sensor(light, 260, 0.012, 4), 0, None)))
    tagged(vips(eight(noisy)), 72, CAMERA).jpegsave(str(PICTURES / "Workshop at night.jpg"), Q=93)

    # From an old web page: small, compressed twice.
    festival = exposed(scene["festival"])
    vips(eight(festival)).jpegsave(str(CLEAN / "festival.jpg"), Q=95)
    web = eight(cv2.resize(festival, (640, 480), interpolation=cv2.INTER_AREA))
    once = vips(web).jpegsave_buffer(Q=35)
    pyvips.Image.jpegload_buffer(once).jpegsave(str(PICTURES / "Festival 2003 web.jpg"), Q=28, keep="none")

    # For the catalogue: 16 bit, Display P3, colours no sRGB file can hold.
    loft = exposed(scene["loft"], 98)
    grey = loft.mean(axis=2, keepdims=True)
    vivid = np.clip(grey + (loft - grey) * 1.25, 0, 1)
    wide = vips(np.rint(vivid * 65535).astype(np.uint16))
    wide = wide.icc_transform("p3", input_profile="srgb", depth=16, intent="relative")
    p3 = wide.get("icc-profile-data")
    wide = vips(np.rint(cv2.resize(vivid, (780, 585), interpolation=cv2.INTER_AREA) * 65535).astype(np.uint16)).copy()
    wide.set_type(pyvips.GValue.blob_type, "icc-profile-data", p3)
    wide.copy(xres=300 / 25.4, yres=300 / 25.4).tiffsave(
        str(PICTURES / "Loft bench, catalogue.tif"), compression="deflate", predictor="horizontal", resunit="inch"
    )
    vips(eight(vivid)).jpegsave(str(CLEAN / "loft-bench.jpg"), Q=95)

    # A drawn poster that survives only as a small picture.
    drawn = poster()
    vips(eight(drawn)).pngsave(str(CLEAN / "poster.png"), palette=False)
    thumb = cv2.resize(drawn, None, fx=0.4, fy=0.4, interpolation=cv2.INTER_AREA)
    tagged(vips(eight(thumb)), 96, {}).pngsave(str(PICTURES / "Kite days poster.png"))

    # A swatch to be repeated over a whole banner.
    vips(eight(sail_cloth())).webpsave(str(PICTURES / "Sail cloth, repeat.webp"), lossless=True)


if __name__ == "__main__":
    main()
