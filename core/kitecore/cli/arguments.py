"""What the command line takes: commands, options, and steps written as short texts."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn, TypeAlias

from kitecore.errors import TakeError
from kitecore.steps import AnyStep, Deblur, Denoise, Repair
from kitecore.steps.deblur import Blur, FocusBlur, MotionBlur, SoftBlur
from kitecore.steps.enlarge import Blend


class Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise TakeError(f"{message[0].upper()}{message[1:]}; see {self.prog} --help.")


def _number(text: str, meaning: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise TakeError(f"“{text}” is not a number; {meaning} was expected.") from None


def parse_denoise(text: str) -> Denoise:
    """``LUMINANCE[,COLOUR]``, 0 to 100; without the second both are the same."""
    luminance, _, colour = text.partition(",")
    return Denoise(
        luminance=_number(luminance, "a luminance strength from 0 to 100"),
        colour=_number(colour or luminance, "a colour strength from 0 to 100"),
    )


def parse_repair(text: str) -> Repair:
    """``STRENGTH``, 0 to 100."""
    return Repair(strength=_number(text, "a strength from 0 to 100"))


def parse_deblur(text: str) -> Deblur:
    """``focus:RADIUS``, ``motion:ANGLE:LENGTH`` or ``soft:SIGMA``, each with ``@STRENGTH`` (0 to 100) if not all of it."""
    blur, _, strength = text.partition("@")
    match blur.split(":"):
        case ["focus", radius]:
            kind: Blur = FocusBlur(radius=_number(radius, "a radius in pixels"))
        case ["motion", angle, length]:
            kind = MotionBlur(angle=_number(angle, "an angle in degrees"), length=_number(length, "a length in pixels"))
        case ["soft", sigma]:
            kind = SoftBlur(sigma=_number(sigma, "a softness in pixels"))
        case _:
            raise TakeError(f"“{text}” is not a blur; write focus:RADIUS, motion:ANGLE:LENGTH or soft:SIGMA.")
    return Deblur(blur=kind, strength=_number(strength or "100", "a strength from 0 to 100"))


def parse_blend(text: str) -> Blend:
    """``ENGINE:WEIGHT``, the weight of the second engine from 0 to 100."""
    engine, _, weight = text.partition(":")
    return Blend(engine=engine, weight=_number(weight, "a weight from 0 to 100, as in plain:30,"))


Commands: TypeAlias = "argparse._SubParsersAction[Parser]"


class _StepAction(argparse.Action):
    """Appends the step an option describes to ``steps``, so that options of several kinds keep their order."""

    def __init__(self, option_strings: list[str], dest: str, parse: Callable[[str], AnyStep], **rest: Any) -> None:
        super().__init__(option_strings, dest, default=None, **rest)
        self._parse = parse

    def __call__(
        self, parser: argparse.ArgumentParser, namespace: argparse.Namespace, values: Any, option: str | None = None
    ) -> None:
        namespace.steps = [*(namespace.steps or []), self._parse(values)]


def parser() -> argparse.ArgumentParser:
    """Of every command there is."""
    parser = Parser(prog="python -m kitecore", description="Read, enlarge, restore and render pictures.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=Parser)
    _add_reading(commands)
    _add_print(commands)
    for command in (_add_enlarge(commands), _add_restore(commands), _add_render(commands)):
        command.add_argument(
            "--depth", type=int, help="bits per sample: 8, 16, or 32 for a float TIFF; 16 where the format can"
        )
        command.add_argument("--quality", type=int, help="for JPEG and WebP, 1 to 100")
        command.add_argument("--compression", help="for TIFF: none, lzw or zip")
        command.add_argument(
            "--profile", help="keep (the source's colour space), srgb, display-p3, a98-rgb, rec2020-rgb or prophoto-rgb"
        )
    commands.add_parser("engines", help="list the engines as JSON")
    schema = commands.add_parser("schema", help="the form of a card's file, or what kinds of steps there are, as JSON")
    schema.add_argument(
        "of", choices=["card", "steps", "print"], help="card: the form of its file; steps: every kind; print: the eye"
    )
    return parser


def _add_reading(commands: Commands) -> None:
    read = commands.add_parser("read", help="measure a picture: its facts and its reading, as JSON")
    read.add_argument("file", type=Path)

    suggest = commands.add_parser("suggest", help="a take to start from with its reasons, as JSON that “render” takes")
    suggest.add_argument("file", type=Path, metavar="IN")
    suggest.add_argument("--factor", type=float, default=2.0, help="how large it is wanted, 0.5 to 8; 2 unless given")

    rehearse = commands.add_parser(
        "rehearse", help="every chain that might suit a file, tried on a worn copy of itself and scored, as JSON"
    )
    rehearse.add_argument("file", type=Path, metavar="IN")
    rehearse.add_argument("--factor", type=float, default=2.0, help="how large it is wanted, 1 to 8; 2 unless given")

    explain = commands.add_parser(
        "explain", help="what a take does to a picture: sizes, stages and seconds of each step"
    )
    explain.add_argument("take", type=Path, metavar="TAKE.json")
    explain.add_argument("file", type=Path, metavar="IN")


def _add_print(commands: Commands) -> None:
    paper = commands.add_parser("print", help="what a print of a size needs of a file, and what it has, as JSON")
    paper.add_argument("file", type=Path, metavar="IN")
    paper.add_argument("--size", required=True, metavar="SIZE", help="60x90cm, 24x36in, or a name as A3 or B2")
    paper.add_argument("--paper", default="lustre", help="gloss, lustre, matte, canvas or newsprint")
    paper.add_argument(
        "--distance", metavar="LENGTH", help="100cm, 2m, 40in: from where it is seen; its diagonal unless given"
    )
    paper.add_argument("--mode", default="fill", help="fill (what reaches over is cut off) or fit (all is seen)")
    paper.add_argument("--border", default="0mm", metavar="LENGTH", help="paper left free on every side")


def _add_enlarge(commands: Commands) -> Parser:
    enlarge = commands.add_parser("enlarge", help="enlarge a file to a factor, a size in pixels, or a print")
    enlarge.add_argument("source", type=Path, metavar="IN")
    enlarge.add_argument("result", type=Path, metavar="OUT")
    enlarge.add_argument("--engine", default="faithful", help="one of those that “engines” lists")
    enlarge.add_argument("--blend", type=parse_blend, metavar="ENGINE:WEIGHT", help="a second engine, 0 to 100 of it")
    enlarge.add_argument(
        "--hold", type=float, default=0, metavar="S", help="tone and colour held to the source, 0 to 100"
    )
    enlarge.add_argument("--repeat", action="store_true", help="for textures laid edge to edge: the edges still meet")
    target = enlarge.add_mutually_exclusive_group(required=True)
    target.add_argument("--factor", type=float, help="0.5 to 8")
    target.add_argument("--width", type=int, metavar="PX")
    target.add_argument("--height", type=int, metavar="PX")
    target.add_argument("--print", dest="paper", metavar="SIZE", help="60x90cm, 24x36in, 60cm; the picture fits inside")
    enlarge.add_argument("--ppi", type=float, help="pixels per inch of the print, and the file's tag")
    return enlarge


def _add_restore(commands: Commands) -> Parser:
    restore = commands.add_parser("restore", help="restore a file at its own size; steps are done in the order given")
    restore.add_argument("source", type=Path, metavar="IN")
    restore.add_argument("result", type=Path, metavar="OUT")
    restore.add_argument("--ppi", type=float)
    for option, parse, form, text in (
        ("--denoise", parse_denoise, "LUMINANCE[,COLOUR]", "take noise away, 0 to 100"),
        ("--repair", parse_repair, "S", "take compression damage away, 0 to 100"),
        (
            "--deblur",
            parse_deblur,
            "BLUR",
            "focus:RADIUS, motion:ANGLE:LENGTH or soft:SIGMA, in pixels; @STRENGTH after it",
        ),
    ):
        restore.add_argument(option, dest="steps", action=_StepAction, parse=parse, metavar=form, help=text)
    return restore


def _add_render(commands: Commands) -> Parser:
    render = commands.add_parser("render", help="do the steps of a take")
    render.add_argument("source", type=Path, metavar="IN")
    render.add_argument("result", type=Path, metavar="OUT")
    render.add_argument("--take", type=Path, required=True, metavar="TAKE.json")
    render.add_argument("--ppi", type=float)
    return render
