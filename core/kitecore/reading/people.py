"""People: where a network sees them, in the whole picture and around every face.

It was made for people near the camera and sees them in bobbins and kites, too: what holds no face is nobody.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from kitecore.faces import FaceFound, FaceSquare
from kitecore.faces.lite import lite_network
from kitecore.filters.guided import Plane, guided
from kitecore.pipeline.geometry import Place
from kitecore.pipeline.run import Run
from kitecore.reading.cut import Seen, grey_of

#: What is looked at around a face, and how far below its middle that lies, in sides of the face's square.
_AROUND, _BELOW = 3.0, 0.8
#: People are at least this share of the picture, and the network is as sure as this somewhere in them.
_LEAST, _SURE = 0.003, 0.8
#: Radius over which the outline follows the picture, as a share of the long side, and the differences that are its edges.
_OUTLINE, _EDGE = 0.008, 0.01


def find_people(seen: Seen, faces: Sequence[FaceFound], share: float, run: Run) -> Plane | None:
    """How far each pixel is a person, H×W, 0..1; None if nobody with a face is seen. Meant for at most 640 px a side.

    ``faces`` are in pixels of the source, of which one is ``share`` pixels here.
    """
    pixels = np.asarray(seen, np.float32) / np.float32(255)
    height, width = seen.shape[:2]
    found = _seen_in(pixels)
    middles = []
    for done, face in enumerate(faces):
        run.check()
        run.progress((done + 1) / (len(faces) + 1))
        square = FaceSquare.around(*(Place(*spot) for spot in (*face.eyes, face.mouth))).scaled(share)
        half = _AROUND * square.side / 2
        x, y = square.middle.x, square.middle.y + _BELOW * square.side
        middles.append(square.middle)
        left, top = max(0, round(x - half)), max(0, round(y - half))
        right, bottom = min(width, round(x + half)), min(height, round(y + half))
        if right - left < 8 or bottom - top < 8:
            continue
        part = found[top:bottom, left:right]
        np.maximum(part, _seen_in(pixels[top:bottom, left:right]), out=part)
    found = _with_faces(found, middles)
    if found.max() < _SURE or found.mean() < _LEAST:
        return None
    radius = max(2, round(_OUTLINE * max(height, width)))
    return np.asarray(np.clip(guided(found, grey_of(seen), radius, _EDGE), 0, 1), np.float32)


def _with_faces(found: Plane, middles: Sequence[Place]) -> Plane:
    """Only what hangs together with the middle of a face."""
    _, labels = cv2.connectedComponents((found > 0.5).astype(np.uint8), connectivity=8)
    height, width = found.shape
    inside = [(min(height - 1, max(0, int(one.y))), min(width - 1, max(0, int(one.x)))) for one in middles]
    held = {int(labels[place]) for place in inside} - {0}
    near = cv2.dilate(np.isin(labels, list(held)).astype(np.uint8), np.ones((9, 9), np.uint8))
    return np.where(near > 0, found, 0).astype(np.float32)


def _seen_in(pixels: np.ndarray) -> Plane:
    """Where the network sees people in H×W×3, 0..1; H×W. It looks at a square, whatever the shape was."""
    network = lite_network("people")
    how = cv2.INTER_AREA if min(pixels.shape[:2]) > network.side else cv2.INTER_LINEAR
    given = cv2.resize(pixels, (network.side, network.side), interpolation=how)
    told = network(np.asarray(given, np.float32))[0].reshape(network.side, network.side)
    return np.asarray(cv2.resize(told, (pixels.shape[1], pixels.shape[0]), interpolation=cv2.INTER_LINEAR), np.float32)
