"""The folders of this machine that may be read and written: those that are configured, and nothing outside them."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings

from common.errors import Refused


def roots() -> list[Path]:
    """Configured folders that are there, without links."""
    return [path.resolve() for path in map(Path, settings.FOLDERS) if path.is_dir()]


def confined(text: str) -> Path:
    """A folder's real place. Raises Refused if it lies outside the roots, by dots or links, or is no folder."""
    path = Path(text)
    try:
        real = path.resolve()
        there = real.is_dir()
    except OSError as error:
        raise Refused("This folder's name cannot be used: it is too long, or cannot be read.") from error
    if not path.is_absolute() or not any(real.is_relative_to(root) for root in roots()):
        allowed = ", ".join(map(str, roots())) or "none"
        raise Refused(f"{text} lies outside the folders this server may use ({allowed}).")
    if not there:
        raise Refused(f"There is no folder {text}; make it first, or choose another.")
    return real


def inside(path: Path, folder: Path) -> bool:
    """Whether a file really lies in ``folder``, whatever links there are."""
    return path.resolve().is_relative_to(folder)
