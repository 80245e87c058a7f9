"""The commands of the command line, ``python -m kitecore``: read, suggest, rehearse, explain, print, enlarge and others."""

from __future__ import annotations

import argparse
import json
import sys
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from kitecore.cli.arguments import parser
from kitecore.delivery.encode import encoder_for, format_of_ending, known_endings
from kitecore.delivery.print_needs import PAPERS, PPI_CENTIMETRES, need_of, size_named
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.engines import engines
from kitecore.errors import KiteError, OutputError, PictureError, TakeError
from kitecore.files.jpeg_quality import quality_of_file
from kitecore.files.source import Source
from kitecore.lengths import parse_length, parse_print
from kitecore.pipeline.run import Run
from kitecore.reading import Reading, read_picture
from kitecore.rehearsal import Rehearsal, rehearse, suggest_rehearsed
from kitecore.steps.catalogue import catalogue
from kitecore.steps.enlarge import ByFactor, ByHeight, ByPrint, ByWidth, Enlarge
from kitecore.takes.card import card_schema
from kitecore.takes.explanation import explain
from kitecore.takes.plan import plan
from kitecore.takes.take import Take, parse_take, sentence_for


def _spec(options: argparse.Namespace) -> OutputSpec:
    form = format_of_ending(options.result.suffix.lower())
    if form is None:
        raise OutputError(f"The result {options.result.name} must end in {', '.join(known_endings())}.")
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
        print(f"{resolved.source} px → {resolved.size} px, {encoder_for(spec).bits} bit", file=sys.stderr)
        write_result(resolved, source, spec, options.result, Run(progress=_Bar()))


def _run(arguments: list[str] | None) -> None:
    options = parser().parse_args(arguments)
    match options.command:
        case "read":
            _read(options.file)
        case "suggest":
            _suggest(options.file, options.factor)
        case "rehearse":
            _rehearse(options.file, options.factor)
        case "print":
            _print(options)
        case "engines":
            print(json.dumps([engine.manifest.model_dump(mode="json") for engine in engines().values()], indent=2))
        case "enlarge":
            _deliver(options, Take(steps=[_enlarge_step(options)]))
        case "restore":
            if not options.steps:
                raise TakeError("Nothing to restore was asked for; give --denoise, --repair or --deblur.")
            _deliver(options, Take(steps=[step.suited_to(quality_of_file(options.source)) for step in options.steps]))
        case "render":
            _deliver(options, _take(options.take))
        case "explain":
            with Source(options.file) as source:
                print(json.dumps(explain(_take(options.take), source), indent=2, ensure_ascii=False))
        case "schema":
            print(json.dumps(_schema(options.of), indent=1, ensure_ascii=False))


def _schema(of: str) -> Any:
    """What other programs need to know of the core."""
    match of:
        case "card":
            return card_schema()
        case "steps":
            return [one.model_dump(mode="json") for one in catalogue()]
        case _:
            return {"ppi_centimetres": PPI_CENTIMETRES}


def _take(path: Path) -> Take:
    try:
        text = path.read_bytes()
    except OSError as error:
        raise TakeError(f"The take {path.name} cannot be read ({error.strerror}).") from error
    return parse_take(text)


def _read(path: Path) -> None:
    """Print a file's facts and what was measured in it, as one JSON object."""
    with Source(path) as source:
        told = source.facts.model_dump(mode="json") | read_picture(source, Run()).model_dump(mode="json")
    print(json.dumps(told, indent=2, ensure_ascii=False))


def _rehearse(path: Path, factor: float) -> None:
    """Print every candidate of a file's rehearsal and how it came out."""
    with Source(path) as source:
        print(_rehearsed(source, read_picture(source, Run()), factor).model_dump_json(indent=2))


def _rehearsed(source: Source, reading: Reading, factor: float) -> Rehearsal:
    return rehearse(source, reading, factor, Run(), _Bar()).rehearsal


def _suggest(path: Path, factor: float) -> None:
    """Print the suggested start for a file, rehearsed if it is large enough for that."""
    target = ByFactor(factor=factor)
    with Source(path) as source:
        reading = read_picture(source, Run())
        rehearsal = None
        with suppress(PictureError):
            rehearsal = _rehearsed(source, reading, factor)
        print(suggest_rehearsed(reading, rehearsal, target).model_dump_json(indent=2))


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
