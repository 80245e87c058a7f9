"""Kinds of engines: what each is given, and what the shelf shows it on. One object a kind; nothing else lists them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

#: What an engine does: enlarge, or one of the restorations at source size.
KindName: TypeAlias = Literal["enlarge", "denoise", "repair", "deblur", "faces"]

#: What the shelf shows an engine on.
Sample: TypeAlias = Literal["photograph", "worn", "lettering", "grain", "noise", "compressed", "soft", "face"]


@dataclass(frozen=True)
class EngineKind:
    """How networks of a kind are fed.

    ``planes`` are those of the picture input: 3 for RGB, more where versions of it are given beside it. ``maps`` are given
    to restoring networks, in this order; the first ``strengths`` of them, 0..1, say how much of what the network changes is
    wanted: one for all of it, two for luminance and colour apart.
    """

    name: KindName
    planes: int
    maps: tuple[str, ...]
    strengths: int
    sample: Sample

    @property
    def restores(self) -> bool:
        """Whether it works at the size the picture has."""
        return bool(self.maps)


KINDS: dict[KindName, EngineKind] = {
    kind.name: kind
    for kind in (
        EngineKind("enlarge", 3, (), 0, "photograph"),
        EngineKind("denoise", 3, ("luminance", "colour"), 2, "noise"),
        EngineKind("repair", 3, ("strength", "quality"), 1, "compressed"),
        # The picture and three deconvolved versions of it.
        EngineKind("deblur", 12, ("strength", "focus", "motion_cos", "motion_sin", "soft"), 1, "soft"),
        # An upright square around a face, and how much finer it is than its source.
        EngineKind("faces", 3, ("finer",), 0, "face"),
    )
}
