"""Letters for what is written on pictures and pages: Latin, Greek and Cyrillic, where the system has them.

``bin/install.sh`` sees to that. Elsewhere it is the fonts that the library for PDF brings along, from which the others were
made: they look the same and have Latin letters alone.
"""

from __future__ import annotations

from pathlib import Path

import reportlab

_FULL, _LATIN = Path("/usr/share/fonts/truetype/dejavu"), Path(reportlab.__file__).parent / "fonts"


def _font(full: str, latin: str) -> Path:
    return path if (path := _FULL / full).exists() else _LATIN / latin


REGULAR, BOLD = _font("DejaVuSans.ttf", "Vera.ttf"), _font("DejaVuSans-Bold.ttf", "VeraBd.ttf")
