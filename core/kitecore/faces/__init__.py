"""Faces: where they are, at any size and turned or looking aside, and the upright square of each.

General-purpose detection networks find them, see ``README.md`` in this folder; they never touch a pixel of a result.
"""

from __future__ import annotations

from kitecore.faces.finder import Face, find_faces
from kitecore.faces.square import FaceFound, FaceSquare

__all__ = ["Face", "FaceFound", "FaceSquare", "find_faces"]
