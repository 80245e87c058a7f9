"""What the worker does: make what a client sees of a picture."""

from __future__ import annotations

from dataclasses import replace

from procrastinate.contrib.django import app

from common.background import WATCHED, Progress, State
from common.store import store
from kitecore.delivery.showing import Mark, marked, spot_view, whole_view, write_shown
from kitecore.pipeline.run import Run
from kitecore.takes.plan import Plan
from pictures.opening import opened_here
from reports.tasks import have_measured
from showings.fonts import REGULAR
from showings.models import Made, ShownPicture


@app.task(name="show", queue="reports", priority=WATCHED)
def show_picture(key: str) -> None:
    """Make one picture of a showing. Safe to run again at any time."""
    row = (
        ShownPicture.objects.select_related("picture__original", "showing")
        .filter(pk=key)
        .exclude(state=State.DONE)
        .first()
    )
    if row is None:
        return
    row.perform(lambda progress: _made(row, progress), called="picture of the showing")
    # What was invented is told to the client as well.
    have_measured(row.picture, row.chain, row.core_take.model_dump(mode="json"))


def _made(row: ShownPicture, progress: Progress) -> Made:
    picture, mark = row.picture, Mark(row.showing.mark, REGULAR)
    row.folder.mkdir(parents=True, exist_ok=True)
    resolved = row.plan()
    sides: dict[str, Plan] = {"before": resolved.plain, "after": resolved}
    # The whole takes about as long as all spots together.
    parts = 2 * (1 + len(row.spots))
    run = Run()
    with opened_here(picture) as source:
        for index, (side, plan) in enumerate(sides.items()):
            shown = whole_view(plan, source, row.showing.longest, replace(run, progress=_part(progress, index, parts)))
            write_shown(marked(shown, mark), row.file(side))
            store().put(row.file(side))
        size = Made(width=shown.shape[1], height=shown.shape[0])
        for number, spot in enumerate(row.shown_spots):
            for index, (side, plan) in enumerate(sides.items()):
                path = row.file(side, number)
                write_shown(marked(spot_view(plan, source, spot.place, run), mark), path, spot=True)
                store().put(path)
                progress((2 * (1 + number) + index + 1) / parts)
        for use in (use for step in resolved.steps for use in step.engines_used()):
            use.engine().release()
    return size


def _part(progress: Progress, index: int, parts: int) -> Progress:
    """The progress of one of some equal parts."""
    return lambda share: progress((index + share) / parts)


def have_made(row: ShownPicture) -> None:
    """Have it made once the row is committed."""
    row.begin(show_picture)
