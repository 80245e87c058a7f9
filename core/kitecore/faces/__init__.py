"""Faces: where they are and where their eyes are, at any size and turned or looking aside.

Two general-purpose detection networks do it, see ``README.md`` in this folder; they never touch a pixel of a result.
"""

from __future__ import annotations

from kitecore.faces.finder import Face, find_faces

__all__ = ["Face", "find_faces"]
