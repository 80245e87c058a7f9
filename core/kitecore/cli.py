"""The command line: ``python -m kitecore read|suggest|print|enlarge|restore|render|engines``."""

from __future__ import annotations

import argparse
import json
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn

from pydantic import ValidationError

from kitecore.engines import engines
from kitecore.errors import KiteError, OutputError, TakeError
from kitecore.lengths import parse_length, parse_print
from kitecore.output import FORMAT_OF_ENDING, OutputSpec, write_result
from kitecore.printing import PAPERS, need_of, size_named
from kitecore.quantiser import quality_of_file
from kitecore.reading import read_picture
from kitecore.run import Run
from kitecore.source import Source
from kitecore.steps import AnyStep, Deblur, Denoise, Repair
from kitecore.steps.deblur import Blur, FocusBlur, MotionBlur, SoftBlur
from kitecore.steps.enlarge import Blend, ByFactor, ByHeight, ByPrint, ByWidth, Enlarge
from kitecore.suggestion import suggest
from kitecore.take import Take, parse_take, plan, sentence_for


class _Parser(argparse.ArgumentParser):
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


class _StepAction(argparse.Action):
    """Appends the step an option describes to ``steps``, so that options of several kinds keep their order."""

    def __init__(self, option_strings: list[str], dest: str, parse: Callable[[str], AnyStep], **rest: Any) -> None:
        super().__init__(option_strings, dest, default=None, **rest)
        self._parse = parse

    def __call__(
        self, parser: argparse.ArgumentParser, namespace: argparse.Namespace, values: Any, option: str | None = None
    ) -> None:
        namespace.steps = [*(namespace.steps or []), self._parse(values)]


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="python -m kitecore", description="Read, enlarge, restore and render pictures.")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)

    read = commands.add_parser("read", help="measure a picture: its facts and its reading, as JSON")
    read.add_argument("file", type=Path)

    suggest = commands.add_parser("suggest", help="a take to start from with its reasons, as JSON that “render” takes")
    suggest.add_argument("file", type=Path, metavar="IN")
    suggest.add_argument("--factor", type=float, default=2.0, help="how large it is wanted, 0.5 to 8; 2 unless given")

    paper = commands.add_parser("print", help="what a print of a size needs of a file, and what it has, as JSON")
    paper.add_argument("file", type=Path, metavar="IN")
    paper.add_argument("--size", required=True, metavar="SIZE", help="60x90cm, 24x36in, or a name as A3 or B2")
    paper.add_argument("--paper", default="lustre", help="gloss, lustre, matte, canvas or newsprint")
    paper.add_argument(
        "--distance", metavar="LENGTH", help="100cm, 2m, 40in: from where it is seen; its diagonal unless given"
    )
    paper.add_argument("--mode", default="fill", help="fill (what reaches over is cut off) or fit (all is seen)")
    paper.add_argument("--border", default="0mm", metavar="LENGTH", help="paper left free on every side")

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

    render = commands.add_parser("render", help="do the steps of a take")
    render.add_argument("source", type=Path, metavar="IN")
    render.add_argument("result", type=Path, metavar="OUT")
    render.add_argument("--take", type=Path, required=True, metavar="TAKE.json")
    render.add_argument("--ppi", type=float)

    for command in (enlarge, restore, render):
        command.add_argument("--depth", type=int, help="bits per sample: 8 or 16; 16 where the format can")
        command.add_argument("--quality", type=int, help="for JPEG and WebP, 1 to 100")
        command.add_argument("--compression", help="for TIFF: none, lzw or zip")
        command.add_argument(
            "--profile", help="keep (the source's colour space), srgb, display-p3, a98-rgb or prophoto-rgb"
        )
    commands.add_parser("engines", help="list the engines as JSON")
    return parser


def _spec(options: argparse.Namespace) -> OutputSpec:
    ending = options.result.suffix.lower()
    if ending not in FORMAT_OF_ENDING:
        raise OutputError(f"The result {options.result.name} must end in {', '.join(FORMAT_OF_ENDING)}.")
    form = FORMAT_OF_ENDING[ending]
    if options.depth == 16 and form in ("jpeg", "webp"):
        raise OutputError(f"A {form.upper()} file holds 8 bits per sample; write a TIFF or PNG for 16.")
    given = {
        name: getattr(options, name)
        for name in ("depth", "quality", "compression", "profile", "ppi")
        if getattr(options, name) is not None
    }
    return OutputSpec.model_validate({"format": form, **given})


def _enlarge_step(options: argparse.Namespace) -> Enlarge:
    target: ByFactor | ByWidth | ByHeight | ByPrint
    if options.factor is not None:
        target = ByFactor(factor=options.factor)
    elif options.width is not None:
        target = ByWidth(pixels=options.width)
    elif options.height is not None:
        target = ByHeight(pixels=options.height)
    else:
        width, height, unit = parse_print(options.paper)
        target = ByPrint(width=width, height=height, unit=unit, **({"ppi": options.ppi} if options.ppi else {}))
        options.ppi = target.ppi
    return Enlarge(engine=options.engine, blend=options.blend, hold=options.hold, repeat=options.repeat, target=target)


class _Bar:
    """A progress bar on standard error, with the time left; silent where that is not a terminal and done is far."""

    def __init__(self) -> None:
        self._started = time.monotonic()
        self._shown = -1

    def __call__(self, fraction: float) -> None:
        percent = int(fraction * 100)
        live = sys.stderr.isatty()
        if percent == self._shown or (not live and percent < min(100, self._shown + 10)):
            return
        self._shown = percent
        spent = time.monotonic() - self._started
        left = f"{spent / fraction - spent:4.0f} s left" if 0 < fraction < 1 else f"{spent:4.1f} s"
        filled = percent * 30 // 100
        sys.stderr.write(
            f"{chr(13) if live else ''}[{'#' * filled}{'.' * (30 - filled)}] {percent:3d} %  {left}"
            f"{'' if live and fraction < 1 else chr(10)}"
        )
        sys.stderr.flush()


def _deliver(options: argparse.Namespace, take: Take) -> None:
    spec = _spec(options)
    if options.result.exists() and options.result.resolve() == options.source.resolve():
        raise OutputError("The result would overwrite its source; give it another name.")
    if not options.result.parent.is_dir():
        raise OutputError(f"There is no folder {options.result.parent} to write into; make it first.")
    with Source(options.source) as source:
        resolved = plan(take, source.size)
        print(f"{resolved.source} px → {resolved.size} px, {spec.bits} bit", file=sys.stderr)
        write_result(resolved, source, spec, options.result, Run(progress=_Bar()))


def _run(arguments: list[str] | None) -> None:
    options = _parser().parse_args(arguments)
    match options.command:
        case "read":
            _read(options.file)
        case "suggest":
            _suggest(options.file, options.factor)
        case "print":
            _print(options)
        case "engines":
            print(json.dumps([engine.manifest.model_dump(mode="json") for engine in engines().values()], indent=2))
        case "enlarge":
            _deliver(options, Take(steps=[_enlarge_step(options)]))
        case "restore":
            if not options.steps:
                raise TakeError("Nothing to restore was asked for; give --denoise, --repair or --deblur.")
            _deliver(options, Take(steps=[_told(step, options.source) for step in options.steps]))
        case "render":
            try:
                text = options.take.read_bytes()
            except OSError as error:
                raise TakeError(f"The take {options.take.name} cannot be read ({error.strerror}).") from error
            _deliver(options, parse_take(text))


def _read(path: Path) -> None:
    """Print a file's facts and what was measured in it, as one JSON object."""
    with Source(path) as source:
        told = source.facts.model_dump(mode="json") | read_picture(source, Run()).model_dump(mode="json")
    print(json.dumps(told, indent=2, ensure_ascii=False))


def _suggest(path: Path, factor: float) -> None:
    """Print the suggested start for a file."""
    target = ByFactor(factor=factor)
    with Source(path) as source:
        print(suggest(read_picture(source, Run()), target).model_dump_json(indent=2))


def _print(options: argparse.Namespace) -> None:
    """Print what a size needs of a file."""
    if options.paper not in PAPERS:
        raise TakeError(f"There is no paper “{options.paper}”; there are {', '.join(PAPERS)}.")
    if options.mode not in ("fit", "fill"):
        raise TakeError(f"“{options.mode}” is not a way to place a picture; write fit or fill.")
    distance = parse_length(options.distance) / 10 if options.distance else None
    with Source(options.file) as source:
        need = need_of(
            size_named(options.size), source.size, options.paper, distance, options.mode, parse_length(options.border)
        )
    print(need.model_dump_json(indent=2))


def _told(step: AnyStep, path: Path) -> AnyStep:
    """The step; a repair that was told no quality is told the one a JPEG file was written at."""
    if isinstance(step, Repair) and step.quality is None:
        return step.model_copy(update={"quality": quality_of_file(path)})
    return step


def main(arguments: list[str] | None = None) -> None:
    """Run one command; on error one sentence on standard error and exit status 1."""
    try:
        _run(arguments)
    except ValidationError as error:
        sys.exit(sentence_for(error))
    except KiteError as error:
        sys.exit(" ".join(str(error).split()))
    except KeyboardInterrupt:
        sys.exit("Cancelled; nothing was written.")
