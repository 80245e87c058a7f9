"""Soft proof: a picture on a screen as a printer would print it, and which of its colours the printer cannot."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pyvips

from kitecore.colour.conversion import Intent, to_lab
from kitecore.colour.icc import profile_file, profile_name, srgb_profile
from kitecore.errors import KiteError
from kitecore.pipeline.pixels import Pixels

#: The profile that ships: of a made-up printer, see lab/printer.py.
MADE_UP = Path(__file__).parent / "printers" / "matte-cotton.icc"
#: Colours that come back from the printer further away than this (CIEDE2000) are outside what it can print.
TOLERANCE = 2.5
LARGEST_PROFILE = 30_000_000
#: What is painted over colours the printer cannot print, 8 bit.
_WARNING = 128
_CHANNELS = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}


class ProfileError(KiteError):
    """A file is no printer profile that a proof can be made with."""


@dataclass(frozen=True)
class Printer:
    """A printer profile that has been checked."""

    name: str
    channels: int
    content: bytes


@dataclass(frozen=True)
class Proof:
    """How a proof is made and shown."""

    intent: Intent = "relative"
    black_point: bool = True
    #: Whether the paper is shown in its own white, which is darker than the screen's.
    paper: bool = False
    #: Whether colours the printer cannot print are painted grey.
    warn: bool = False


@lru_cache(maxsize=16)
def printer_of(content: bytes) -> Printer:
    """A printer from the bytes of an ICC profile. Raises ProfileError with what is wrong."""
    if len(content) < 132 or content[36:40] != b"acsp":
        raise ProfileError("This file is no ICC profile; choose one that ends in .icc or .icm.")
    if len(content) > LARGEST_PROFILE:
        raise ProfileError(
            f"This profile is larger than {LARGEST_PROFILE / 1e6:.0f} MB; printers' profiles are smaller."
        )
    kind, colours = content[12:16], content[16:20]
    if kind != b"prtr":
        told = {b"mntr": "a screen", b"scnr": "a camera or scanner", b"link": "a link between two devices"}
        raise ProfileError(f"This profile is of {told.get(kind, 'another kind of device')}, not of a printer.")
    if colours not in _CHANNELS:
        raise ProfileError("This profile is of a printer with other inks than grey, RGB or CMYK; it cannot be shown.")
    (length,) = struct.unpack(">I", content[:4])
    if length > len(content):
        raise ProfileError("This profile is not whole: its end is missing. Fetch it again.")
    printer = Printer(profile_name(content), _CHANNELS[colours], content)
    try:
        outside_gamut(np.full((2, 2, 3), 0.5, np.float32), None, printer)
    except pyvips.Error as error:
        raise ProfileError(
            "This profile cannot be used both ways: it tells how the printer prints, or what it printed, but not both."
        ) from error
    return printer


def proof_image(pixels: Pixels, profile: bytes | None, printer: Printer, proof: Proof) -> pyvips.Image:
    """Pixels H×W×C in ``profile`` (None: sRGB) as an 8-bit sRGB image of their print; alpha is left out."""
    printed = _printed(to_lab(pixels, profile), printer, proof.intent, proof.black_point)
    seen = _from_printer(printed, printer, "absolute" if proof.paper else "relative")
    shown = seen.icc_export(output_profile=profile_file(srgb_profile()), intent="relative", pcs="lab", depth=8)
    if not proof.warn:
        return shown
    outside = np.where(outside_gamut(pixels, profile, printer), 255, 0).astype(np.uint8)
    mask = pyvips.Image.new_from_memory(outside.tobytes(), shown.width, shown.height, 1, "uchar")
    return mask.ifthenelse([_WARNING] * 3, shown)


def outside_gamut(pixels: Pixels, profile: bytes | None, printer: Printer) -> npt.NDArray[np.bool_]:
    """Which of H×W×C pixels the printer cannot print, H×W: what comes back from it is another colour than was sent."""
    lab = to_lab(pixels, profile)
    back = _from_printer(_printed(lab, printer, "relative", black_point=False), printer, "relative")
    difference = lab.copy(interpretation="lab").dE00(back.copy(interpretation="lab")).numpy()
    return np.asarray(difference.reshape(pixels.shape[:2]) > TOLERANCE)


def _printed(lab: pyvips.Image, printer: Printer, intent: Intent, black_point: bool) -> pyvips.Image:
    return lab.icc_export(
        output_profile=profile_file(printer.content), intent=intent, pcs="lab", depth=16,
        black_point_compensation=black_point,
    )  # fmt: skip


def _from_printer(printed: pyvips.Image, printer: Printer, intent: Intent) -> pyvips.Image:
    return printed.icc_import(input_profile=profile_file(printer.content), intent=intent, pcs="lab")
