"""Hand-off folders: which there may be, which a job has, what came and what went."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.db import IntegrityError, transaction
from django.db.models import Count, Q, QuerySet
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from cards.models import Card
from common.errors import Refused
from folders.models import Arrival, HandOff
from folders.roots import confined, roots
from jobs.models import Job
from kitecore.delivery.spec import OutputSpec
from kitecore.values import Percent
from people.models import Person
from people.signed_in import PersonRequest

router = Router(tags=["folders"])

_MOST_SHOWN = 500


class FolderOut(Schema):
    """A folder that may be used, and those in it."""

    path: str = Field(description="Empty: above the roots.")
    parent: str | None
    folders: list[str]
    files: int


class HandOffIn(Schema):
    inbox: str = Field(max_length=1000)
    outbox: str = Field(max_length=1000, description="May be the inbox: what comes back is not taken in again.")
    watched: bool = True
    treat: HandOff.Treat = HandOff.Treat.NOTHING
    card_id: uuid.UUID | None = None
    strength: Percent = 100.0
    spec: OutputSpec = OutputSpec()


_TAKEN = "{} is handed off already; a file can come into one job only."


class HandOffChange(Schema):
    watched: bool


class ArrivalOut(Schema):
    name: str
    problem: str


class HandOffOut(Schema):
    id: uuid.UUID
    inbox: str
    outbox: str
    watched: bool
    treat: HandOff.Treat
    title: str
    problem: str
    came: int = Field(description="Files that became pictures.")
    went: int = Field(description="Finished files that were laid down.")
    refused: list[ArrivalOut]


def _out(hand_off: HandOff) -> HandOffOut:
    arrivals = hand_off.arrivals.aggregate(
        came=Count("id", filter=Q(picture__isnull=False), distinct=True), went=Count("returns", distinct=True)
    )
    treatment = hand_off.treatment
    return HandOffOut(
        id=hand_off.id, inbox=hand_off.inbox, outbox=hand_off.outbox, watched=hand_off.watched,
        treat=HandOff.Treat(hand_off.treat), title=treatment.title if treatment else "Brought in, nothing more",
        problem=hand_off.problem, refused=[ArrivalOut.from_orm(one) for one in _refused(hand_off)], **arrivals,
    )  # fmt: skip


def _refused(hand_off: HandOff) -> QuerySet[Arrival]:
    return hand_off.arrivals.exclude(problem="")[:100]


@router.get("/folders", response=FolderOut)
def browse(request: PersonRequest, path: str = "") -> FolderOut:
    """What lies in a folder of the server's disk that may be used; without a path, the roots."""
    if not path:
        return FolderOut(path="", parent=None, folders=[str(one) for one in roots()], files=0)
    folder = confined(path)
    entries = [one for one in sorted(folder.iterdir()) if not one.name.startswith(".")]
    inner = [str(one) for one in entries if one.is_dir() and not one.is_symlink()]
    parent = "" if folder in roots() else str(folder.parent)
    return FolderOut(
        path=str(folder), parent=parent, folders=inner[:_MOST_SHOWN], files=sum(one.is_file() for one in entries)
    )


@router.get("/jobs/{job_id}/hand-offs", response=list[HandOffOut])
def list_hand_offs(request: PersonRequest, job_id: uuid.UUID) -> list[HandOffOut]:
    return [_out(one) for one in HandOff.objects.of(request.auth).filter(job_id=job_id)]


@router.post("/jobs/{job_id}/hand-offs", response={201: HandOffOut})
def begin_hand_off(request: PersonRequest, job_id: uuid.UUID, wanted: HandOffIn) -> Status[HandOffOut]:
    """Have a folder's files become pictures of the job, and what is delivered of them laid into another."""
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    inbox, outbox = confined(wanted.inbox), confined(wanted.outbox)
    _not_within_each_other(inbox, outbox)
    _free_to_watch(inbox, request.auth, wanted.watched)
    card = get_object_or_404(Card.objects.of(request.auth), id=wanted.card_id) if wanted.card_id else None
    if wanted.treat == HandOff.Treat.CARD and card is None:
        raise Refused("Choose the card these pictures are to be treated with.")
    with _one_of_an_inbox(inbox):
        hand_off = HandOff.objects.create(
            job=job, inbox=str(inbox), outbox=str(outbox), watched=wanted.watched, treat=wanted.treat, card=card,
            strength=wanted.strength, spec=wanted.spec.model_dump(mode="json"),
        )  # fmt: skip
    return Status(201, _out(hand_off))


def _free_to_watch(inbox: Path, person: Person, watched: bool, but: uuid.UUID | None = None) -> None:
    """A folder is one person's, with all that lies in it, and is looked into for one job. Raises Refused."""
    for other in HandOff.objects.filter(removed=None, job__removed=None).select_related("job"):
        if other.id == but:
            continue
        theirs, ours = other.job.owner_id != person.pk, Path(other.inbox) == inbox
        within = ours or inbox.is_relative_to(other.inbox) or Path(other.inbox).is_relative_to(inbox)
        if within and (theirs or (other.watched and watched and ours)):
            raise Refused(_TAKEN.format(inbox))


@contextmanager
def _one_of_an_inbox(inbox: Path) -> Iterator[None]:
    """Two who ask at once are told apart by the database. Raises Refused."""
    try:
        with transaction.atomic():
            yield
    except IntegrityError as error:
        raise Refused(_TAKEN.format(inbox)) from error


def _not_within_each_other(inbox: Path, outbox: Path) -> None:
    """An outbox below the inbox would be looked into; only the inbox itself is told apart file by file."""
    if outbox != inbox and outbox.is_relative_to(inbox):
        raise Refused("The folder for finished files lies inside the one that is looked into; choose one beside it.")


@router.patch("/hand-offs/{hand_off_id}", response=HandOffOut)
def change_hand_off(request: PersonRequest, hand_off_id: uuid.UUID, change: HandOffChange) -> HandOffOut:
    """Go on looking into a folder, or take nothing more in; what came is still finished."""
    hand_off = get_object_or_404(HandOff.objects.of(request.auth), id=hand_off_id)
    if change.watched and not hand_off.watched:
        _free_to_watch(Path(hand_off.inbox), request.auth, True, hand_off.id)
    hand_off.watched = change.watched
    with _one_of_an_inbox(Path(hand_off.inbox)):
        hand_off.save(update_fields=["watched"])
    return _out(hand_off)


@router.delete("/hand-offs/{hand_off_id}", response={204: None})
def end_hand_off(request: PersonRequest, hand_off_id: uuid.UUID) -> Status[None]:
    """Hand a folder off no more. Its pictures and files stay where they are."""
    get_object_or_404(HandOff.objects.of(request.auth), id=hand_off_id).soft_delete()
    return Status(204, None)
