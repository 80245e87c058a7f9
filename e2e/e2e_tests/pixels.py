"""Pixels on screen, pixels of results, and whether the one stands in the other."""

from __future__ import annotations

import io
import json

import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page


def on_screen(page: Page, place: Locator) -> np.ndarray:
    """What is seen of an element, H×W×3 uint8."""
    box = place.bounding_box()
    assert box
    picture = Image.open(io.BytesIO(page.screenshot())).convert("RGB")
    return np.asarray(picture)[
        int(box["y"]) : int(box["y"] + box["height"]), int(box["x"]) : int(box["x"] + box["width"])
    ]


def result_of(page: Page, address: str) -> np.ndarray:
    """The result of the take on the bench, put together from the tiles the viewer asks for, H×W×3 uint8."""
    take = page.url.rsplit("/", 1)[1]
    plan = json.loads(page.request.get(f"{address}/api/takes/{take}").body())["plan"]
    whole = np.zeros((plan["size"]["height"], plan["size"]["width"], 3), np.uint8)
    for row in range(0, whole.shape[0], 256):
        for column in range(0, whole.shape[1], 256):
            tile = page.request.get(
                f"{address}/api/takes/{take}/tiles/{plan['chain']}/0/{column // 256}_{row // 256}.png"
            )
            pixels = np.asarray(Image.open(io.BytesIO(tile.body())).convert("RGB"))
            y, x = max(0, row - 1), max(0, column - 1)
            whole[y : y + pixels.shape[0], x : x + pixels.shape[1]] = pixels
    return whole


def found(part: np.ndarray, whole: np.ndarray) -> bool:
    """Whether a small part of the screen stands, exactly so, somewhere in the result."""
    windows = np.lib.stride_tricks.sliding_window_view(whole[..., 1], part.shape[:2])
    rows, columns = np.nonzero((windows[:, :, 0, 0] == part[0, 0, 1]) & (windows[:, :, -1, -1] == part[-1, -1, 1]))
    return any(
        np.array_equal(whole[y : y + part.shape[0], x : x + part.shape[1]], part)
        for y, x in zip(rows, columns, strict=True)
    )
