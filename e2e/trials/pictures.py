"""Files for trials, all of them made: some that are pictures, and what a file can do to whoever opens it."""

from __future__ import annotations

import random
import struct
import zlib
from collections.abc import Iterator

import numpy as np
import pyvips

ENDINGS = ("jpg", "png", "tif", "webp", "heic", "dng", "gif", "mp4", "svg", "pdf", "exe", "")
NAMES = ("kite", "../../kite", "ki\u202ete", "k" * 400, "con", ".", "kite\n2", "ki%00te", "<b>kite</b>", "ki'te\"")


def picture(width: int, height: int, seed: int, ending: str = "jpg") -> bytes:
    """Soft shapes with some grain."""
    noise = np.random.default_rng(seed)
    y, x = np.mgrid[0:height, 0:width]
    waves = [127 + 90 * np.sin(x / (9 + seed % 7 + band)) * np.cos(y / (11 + band)) for band in range(3)]
    samples = np.clip(np.stack(waves, axis=2) + noise.normal(0, 5, (height, width, 3)), 0, 255).astype(np.uint8)
    image = pyvips.Image.new_from_memory(samples.tobytes(), width, height, 3, "uchar").copy(interpretation="srgb")
    return bytes(image.write_to_buffer(f".{ending}"))


def hostile(count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """So many names and contents: cut off, twisted, mislabelled, hollow, enormous by their own account."""
    chance = random.Random(seed)
    whole = [picture(90, 70, seed, ending) for ending in ("jpg", "png", "tif", "webp", "gif")]
    ways = (_cut_off, _twisted, _with_a_hole, _joined, _enormous, _bomb, _random, _wordy)
    for number in range(count):
        content = ways[number % len(ways)](chance.choice(whole), chance)
        ending = chance.choice(ENDINGS)
        yield f"{chance.choice(NAMES)}{number}.{ending}", content


def _cut_off(content: bytes, chance: random.Random) -> bytes:
    return content[: chance.randrange(len(content))]


def _twisted(content: bytes, chance: random.Random) -> bytes:
    twisted = bytearray(content)
    for _ in range(chance.choice((1, 5, 60))):
        twisted[chance.randrange(len(twisted))] = chance.randrange(256)
    return bytes(twisted)


def _with_a_hole(content: bytes, chance: random.Random) -> bytes:
    start = chance.randrange(len(content))
    return content[:start] + bytes(chance.randrange(1, 4000)) + content[start + 50 :]


def _joined(content: bytes, chance: random.Random) -> bytes:
    return content + b"PK\x03\x04<script>alert(1)</script>" + content[::-1]


def _chunk(kind: bytes, body: bytes) -> bytes:
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def _enormous(content: bytes, chance: random.Random) -> bytes:
    """A PNG that says it has more pixels than anybody could hold, and a few bytes of them."""
    side = chance.choice((65_535, 2**20, 2**31 - 1))
    header = struct.pack(">IIBBBBB", side, side, 16, 6, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + _chunk(b"IHDR", header)
        + _chunk(b"IDAT", zlib.compress(b"\0" * 900))
        + _chunk(b"IEND", b"")
    )


def _bomb(content: bytes, chance: random.Random) -> bytes:
    """A small file that holds ten thousand pixels a side, all black."""
    row = b"\0" * (1 + 10_000 // 8)
    header = struct.pack(">IIBBBBB", 10_000, 10_000, 1, 0, 0, 0, 0)
    body = zlib.compress(row * (10_000 if chance.random() < 0.3 else 50))
    text = _chunk(b"zTXt", b"kite\0\0" + zlib.compress(b"\0" * 3_000_000)) if chance.random() < 0.5 else b""
    return b"\x89PNG\r\n\x1a\n" + _chunk(b"IHDR", header) + text + _chunk(b"IDAT", body) + _chunk(b"IEND", b"")


def _random(content: bytes, chance: random.Random) -> bytes:
    return chance.choice((b"", content[:4], content[:16])) + chance.randbytes(chance.choice((0, 1, 30, 5000)))


def _wordy(content: bytes, chance: random.Random) -> bytes:
    texts = (
        '<svg xmlns="http://www.w3.org/2000/svg"><image href="file:///etc/passwd"/></svg>',
        "%PDF-1.7 %%EOF",
        "#!/bin/sh",
    )
    return chance.choice(texts).encode() * chance.choice((1, 500))
