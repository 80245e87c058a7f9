"""Rehearse a picture's restoration: every candidate is done to what was worn from known truths, and scored against them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import NamedTuple

import numpy as np
from pydantic import BaseModel, Field

from kitecore.files.source import Source
from kitecore.pipeline.geometry import Region
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import SampleStage, Stage
from kitecore.pipeline.stage_cache import StageCache
from kitecore.reading import Reading
from kitecore.rehearsal.chains import Restoring, called, enlargings, restorings, weaker
from kitecore.rehearsal.scenes import Scene, largest_factor, scenes_of, too_small
from kitecore.rehearsal.scores import Scores, scores_of
from kitecore.rehearsal.wear import blur_doubt, noise_doubt, suppositions
from kitecore.steps import AnyStep, Denoise
from kitecore.steps.deblur import Deblur
from kitecore.steps.enlarge import ByFactor, Enlarge
from kitecore.takes.plan import plan_of_steps
from kitecore.takes.render import result_stage

#: Raised whenever the same picture and factor come out otherwise.
REHEARSAL_REVISION = 1
#: Enlarging is rehearsed by this much at most; by more, engines are as good beside each other.
_MOST_FACTOR = 4
#: So many ways of restoring go on to be tried before the engines, beside doing nothing.
_GO_ON = 2
#: The winner is tried again at this share of its strengths.
_WEAKER = 0.7
#: What is kept of slow steps while chains that begin alike are tried.
_KEPT_BYTES = 256 << 20
#: dB that a step more, or a second engine, must bring.
_STEP_PRICE, _BLEND_PRICE = 0.03, 0.02
#: Longest side of what is shown of a scene, pixels.
CELL = 128
#: dB by which the winner must lead for its lead to mean anything.
CLEAR = 0.15


class Candidate(BaseModel):
    """A chain and how it came out. Figures are means over all scenes."""

    steps: list[AnyStep] = Field(description="As they are done to the picture; the enlarging at the rehearsed factor.")
    called: str
    gain: float = Field(description="dB nearer to the truth than plain enlarging, all channels.")
    structure: float = Field(description="Likeness of structure to the truth, 0..1.")
    kept: float = Field(description="Fine texture as a share of the truth's, where that has some.")
    invented: float = Field(description="Fine texture where the truth is flat, RMS of 255.")
    told: str


class Rehearsal(BaseModel):
    """What a rehearsal came to."""

    revision: int = REHEARSAL_REVISION
    factor: int = Field(description="What was enlarged by in the rehearsal; 1: not at all.")
    scenes: int
    place: Region = Field(description="Of the first scene, in pixels of the upright source.")
    candidates: list[Candidate] = Field(description="Best first.")

    @property
    def best(self) -> Candidate:
        return self.candidates[0]

    @property
    def next(self) -> Candidate | None:
        """The next best that differs in more than strength."""
        return next((one for one in self.candidates[1:] if _kinds(one) != _kinds(self.best)), None)

    @property
    def lead(self) -> float:
        """dB by which the best is nearer to the truth than the next."""
        return self.best.gain - self.next.gain if self.next else 0.0


def tried_factor(factor: float) -> int:
    """What is enlarged by in the rehearsal of an enlargement."""
    return max(1, min(_MOST_FACTOR, round(factor)))


class _Tried(NamedTuple):
    steps: Restoring
    #: One of each scene.
    scores: list[Scores]
    cell: Pixels


class Rehearsed(NamedTuple):
    """A rehearsal, and what can be seen of it: the same square of the first scene's truth and of what each candidate made."""

    rehearsal: Rehearsal
    truth: Pixels
    cells: list[Pixels]


def rehearse(
    source: Source, reading: Reading, factor: float, run: Run, progress: Callable[[float], None] = lambda _: None
) -> Rehearsed:
    """Find out what does most for a picture that is to be enlarged ``factor`` times.

    Places of the picture are made smaller, so that their damage all but vanishes and the truth is known; worn again as the
    reading tells; and brought back by every chain of restoring and enlarging that the reading makes possible.

    Parameters
    ----------
    progress
        Is told the share that is done, 0..1.

    Raises
    ------
    PictureError
        If the picture is too small.
    Cancelled
        If ``run`` was.
    """
    # Small pictures are enlarged less in it: engines come out much alike.
    times = min(tried_factor(factor), largest_factor(source.size))
    if times == 1 < tried_factor(factor):
        raise too_small(2)
    scenes = _scenes(source, reading, times, run)
    ways = restorings(reading)
    enlarging = enlargings(reading, times) if times > 1 else []
    total = len(ways) + (_GO_ON + 1) * len(enlarging) + len(enlarging) + 2
    stage = _Stage(scenes, times, run, lambda done: progress(min(1.0, done / total)))
    plainly = [stage.try_out((*way, Enlarge(engine="plain", target=ByFactor(factor=times)))) for way in ways]
    plain = plainly[0].scores
    tried = list(plainly)
    if enlarging:
        ranked = sorted(range(1, len(ways)), key=lambda index: -stage.gain(plainly[index].scores, plain))
        tried += [stage.try_out((*ways[index], enlarge)) for index in (0, *ranked[:_GO_ON]) for enlarge in enlarging]
    best = max(tried, key=lambda one: stage.gain(one.scores, plain) - _price(one.steps))
    if len(best.steps) > 1:
        tried.append(stage.try_out(weaker(best.steps, _WEAKER)))
    progress(1.0)
    candidates = [stage.candidate(one, plain) for one in tried]
    order = sorted(range(len(tried)), key=lambda index: _price(tried[index].steps) - candidates[index].gain)
    rehearsal = Rehearsal(
        factor=times, scenes=len(scenes), place=scenes[0].place, candidates=[candidates[index] for index in order]
    )
    return Rehearsed(rehearsal, scenes[0].truth[_cell(scenes[0].truth)], [tried[index].cell for index in order])


def _price(steps: Restoring) -> float:
    """dB that more must bring than less does."""
    blended = any(isinstance(step, Enlarge) and step.blend for step in steps)
    return _STEP_PRICE * len(steps) + (_BLEND_PRICE if blended else 0.0)


def _cell(pixels: Pixels) -> tuple[slice, slice]:
    """The part of a scene that is shown: a square in the middle."""
    height, width = pixels.shape[:2]
    side = min(CELL, height, width)
    top, left = (height - side) // 2, (width - side) // 2
    return slice(top, top + side), slice(left, left + side)


def _scenes(source: Source, reading: Reading, factor: int, run: Run) -> list[Scene]:
    supposed = suppositions(reading)
    # What may be texture stays in the truth.
    clean: list[AnyStep] = [
        step
        for step in restorings(reading)[-1]
        if not isinstance(step, Deblur) and not (isinstance(step, Denoise) and noise_doubt(reading))
    ]
    stage = source.stage()
    cleaned = result_stage(plan_of_steps(clean, stage.size), stage)
    soft = reading.blur.kind != "none" and blur_doubt(reading) == 0
    return scenes_of(cleaned, stage, factor, supposed, soft, run)


class _Stage:
    """Where chains are tried: the scenes, and what slow steps made of them."""

    def __init__(self, scenes: list[Scene], factor: int, run: Run, done: Callable[[int], None]) -> None:
        self._scenes, self._factor, self._run, self._done = scenes, factor, run, done
        self._cache = StageCache(_KEPT_BYTES)
        self._count = 0

    def try_out(self, steps: Restoring) -> _Tried:
        scores, cell = [], None
        for index, scene in enumerate(self._scenes):
            self._run.check()
            made = self._made(steps, SampleStage(scene.worn), index)
            cell = made[_cell(made)].copy() if cell is None else cell
            scores.append(scores_of(made, scene.truth, self._factor))
        assert cell is not None
        self._count += 1
        self._done(self._count)
        return _Tried(steps, scores, cell)

    def _made(self, steps: Restoring, worn: Stage, index: int) -> Pixels:
        last = steps[-1]
        if isinstance(last, Enlarge) and last.blend:
            # Of engines that have been tried alone, or will be, each runs once.
            share = np.float32(last.blend.weight / 100)
            alone = [
                last.model_copy(update={"engine": engine, "blend": None}) for engine in (last.engine, last.blend.engine)
            ]
            first, second = (self._made((*steps[:-1], one), worn, index) for one in alone)
            return first * (1 - share) + second * share
        plan = plan_of_steps(list(steps), worn.size)
        result = result_stage(plan, worn, cache=self._cache.of(str(index)), last=self._cache.of(str(index)))
        return result.render(result.size.region, self._run)

    def _mean(self, values: Iterable[float]) -> float:
        return float(np.average(list(values), weights=[scene.weight for scene in self._scenes]))

    def gain(self, scores: list[Scores], plain: list[Scores]) -> float:
        return self._mean(one.psnr - other.psnr for one, other in zip(scores, plain, strict=True))

    def candidate(self, tried: _Tried, plain: list[Scores]) -> Candidate:
        gain = self.gain(tried.scores, plain)
        structure, kept, invented = (self._mean(one[part] for one in tried.scores) for part in (1, 2, 3))
        return Candidate(
            steps=list(tried.steps), called=called(tried.steps), gain=round(gain, 3), structure=round(structure, 4),
            kept=round(kept, 3), invented=round(invented, 2), told=_told(gain, kept, invented),
        )  # fmt: skip


def _told(gain: float, kept: float, invented: float) -> str:
    """How a chain came out, in a sentence."""
    near = f"{abs(gain):.1f} dB {'nearer to' if gain >= 0 else 'farther from'} the truth than plain enlarging"
    texture = (
        f"keeps {100 * kept:.0f} % of fine texture"
        if kept <= 1.05
        else f"makes fine texture {kept:.1f} times as strong"
    )
    return f"{near}; {texture}{', and draws some where there is none' if invented > 2.5 else ''}."


def _kinds(candidate: Candidate) -> list[tuple[str, str, str]]:
    """What steps and engines a chain is made of."""
    return [
        (step.kind, getattr(step, "engine", ""), blend.engine if (blend := getattr(step, "blend", None)) else "")
        for step in candidate.steps
    ]
