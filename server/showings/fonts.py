"""Letters for what is written on pictures and pages: those that the library for PDF brings along, which have accents as well."""

from __future__ import annotations

from pathlib import Path

import reportlab

_FONTS = Path(reportlab.__file__).parent / "fonts"
REGULAR, BOLD = _FONTS / "Vera.ttf", _FONTS / "VeraBd.ttf"
