"""Showings as their retoucher has them: made, closed, opened anew, written as a PDF; what clients said of pictures."""

from __future__ import annotations

import uuid
from contextlib import suppress
from datetime import timedelta

from django.contrib.auth.hashers import make_password
from django.db import transaction
from django.db.models import QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from django.utils.http import content_disposition_header
from ninja import Router, Status

from common.errors import Conflict, Refused
from common.names import file_name
from jobs.models import Job
from jobs.orders import PrintOrder
from kitecore.errors import KiteError
from kitecore.steps import Enlarge
from kitecore.steps.enlarge import ByPrint
from kitecore.takes.plan import Plan
from people.signed_in import PersonRequest
from pictures.models import Picture
from showings.links import path_of
from showings.mail import send_link
from showings.models import Note, Showing, ShownPicture, Spot
from showings.pages import pdf_of
from showings.schemas import NoteDone, NoteOut, NotePlace, PlacedNoteOut, ShowingIn, ShowingOut
from showings.tasks import have_made
from spots.models import CheckSpot
from takes.models import Take

router = Router(tags=["showings"])

MOST_SPOTS = 12


@router.get("/jobs/{job_id}/showings", response=list[ShowingOut])
def list_showings(request: PersonRequest, job_id: uuid.UUID) -> QuerySet[Showing]:
    """Every showing of a job, the newest first."""
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    return Showing.objects.of(request.auth).filter(job=job).select_related("next").prefetch_related("pictures__answers")


@router.post("/jobs/{job_id}/showings", response={201: ShowingOut})
def make_showing(request: PersonRequest, job_id: uuid.UUID, wanted: ShowingIn) -> Status[Showing]:
    """Make a showing of some takes as they are now; later changes do not touch it.

    What is shown is computed by a worker; the link opens it at once and tells how far that is.
    """
    job = get_object_or_404(Job.objects.of(request.auth), id=job_id)
    with transaction.atomic():
        before = _before(request, job, wanted.follows)
        showing = Showing.objects.create(
            job=job, title=wanted.title, words=wanted.words, email=wanted.email, follows=before,
            round=before.round + 1 if before else 1, expires=timezone.now() + timedelta(days=wanted.days),
            passphrase=make_password(wanted.passphrase) if wanted.passphrase else "", longest=wanted.longest,
            mark=wanted.mark.strip(), with_spots=wanted.with_spots,
        )  # fmt: skip
        for position, one in enumerate(wanted.pictures):
            takes = Take.objects.of(request.auth).filter(picture__job=job, picture_id=one.picture_id)
            have_made(_shown(showing, position, get_object_or_404(takes, id=one.take_id)))
        job.save(update_fields=["modified"])
        transaction.on_commit(lambda: send_link(showing, request.build_absolute_uri(path_of(showing))))
    return Status(201, showing)


def _before(request: PersonRequest, job: Job, key: uuid.UUID | None) -> Showing | None:
    """The showing that another one follows."""
    if key is None:
        return None
    before = get_object_or_404(Showing.objects.of(request.auth).select_for_update(of=("self",)), id=key, job=job)
    if before.followed:
        raise Conflict(f"“{before.title}” has a next round already; make the next one of that.")
    return before


def _shown(showing: Showing, position: int, take: Take) -> ShownPicture:
    if take.made_elsewhere:
        raise Refused(f"Take {take.name} was made elsewhere and is here to be compared; show one of your own takes.")
    resolved = take.plan()
    return ShownPicture.objects.create(
        showing=showing, picture=take.picture, position=position, take_name=take.name,
        steps=take.state.steps if take.state else [], chain=resolved.chain, width=resolved.size.width,
        height=resolved.size.height, ppi=_ppi(take.picture, resolved),
        spots=_spots(take.picture, resolved) if showing.with_spots else [],
    )  # fmt: skip


def _spots(picture: Picture, resolved: Plan) -> list[dict[str, object]]:
    """Those check spots that the frame leaves in the picture."""
    inside = []
    for spot in CheckSpot.objects.filter(picture=picture, removed=None):
        place = resolved.place_in_result(spot.place)
        if 0 <= place.x <= resolved.size.width and 0 <= place.y <= resolved.size.height:
            inside.append(Spot(name=spot.name, x=spot.x, y=spot.y).model_dump())
    return inside[:MOST_SPOTS]


def _ppi(picture: Picture, resolved: Plan) -> float | None:
    """What it will be printed with: as its enlarging aims at, or as was ordered; None if nobody said."""
    targets = [step.target for step in resolved.steps if isinstance(step, Enlarge)]
    if targets and isinstance(targets[-1], ByPrint):
        return targets[-1].ppi
    ordered = picture.job.order
    return PrintOrder.model_validate(ordered).ppi if ordered else None


def _own(request: PersonRequest, showing_id: uuid.UUID) -> Showing:
    return get_object_or_404(Showing.objects.of(request.auth), id=showing_id)


@router.post("/showings/{showing_id}/close", response=ShowingOut)
def close_showing(request: PersonRequest, showing_id: uuid.UUID) -> Showing:
    """Revoke its link at once. What the client said stays."""
    showing = _own(request, showing_id)
    showing.revoked = showing.revoked or timezone.now()
    showing.save(update_fields=["revoked"])
    return showing


@router.post("/showings/{showing_id}/renew", response=ShowingOut)
def renew_showing(request: PersonRequest, showing_id: uuid.UUID) -> Showing:
    """Open it anew, by another link, for as long as it was open before; earlier links open nothing any more."""
    showing = _own(request, showing_id)
    lasted = showing.expires - showing.created
    showing.link, showing.revoked = showing.link + 1, None
    showing.expires = timezone.now() + timedelta(days=min(max(1, lasted.days), 365))
    showing.save(update_fields=["link", "revoked", "expires"])
    return showing


@router.post("/showings/{showing_id}/pictures/{position}/retry", response=ShowingOut)
def make_again(request: PersonRequest, showing_id: uuid.UUID, position: int) -> Showing:
    """Have a picture that could not be made made again."""
    showing = _own(request, showing_id)
    with transaction.atomic():
        row = get_object_or_404(showing.pictures.select_for_update(), position=position)
        if not row.needed:
            raise Conflict(f"{row.picture.name} is made already, or being made.")
        have_made(row)
    return showing


@router.get("/showings/{showing_id}/pdf", include_in_schema=False)
def showing_pdf(request: PersonRequest, showing_id: uuid.UUID) -> HttpResponse:
    """The showing as a PDF to be taken along."""
    return pdf_response(_own(request, showing_id))


def pdf_response(showing: Showing) -> HttpResponse:
    """Raises Conflict while something in it is still being made."""
    response = HttpResponse(pdf_of(showing), content_type="application/pdf")
    name = content_disposition_header(True, f"{file_name(showing.title, 'showing')}.pdf")
    response["Content-Disposition"] = name or "attachment"
    return response


@router.get("/pictures/{picture_id}/client-notes", response=list[PlacedNoteOut])
def notes_on(request: PersonRequest, picture_id: uuid.UUID) -> list[Note]:
    """What clients said of places of a picture, in every round."""
    picture = get_object_or_404(Picture.objects.of(request.auth), id=picture_id)
    plans = {}
    for take in Take.objects.of(request.auth).filter(picture=picture):
        with suppress(KiteError):
            plans[str(take.id)] = take.plan()

    def place_in(note: Note, plan: Plan) -> NotePlace | None:
        place = plan.place_in_result(note.place)
        return NotePlace(x=place.x, y=place.y) if place.inside(plan.size) else None

    notes = list(Note.objects.filter(shown__picture=picture).select_related("shown__showing"))
    for note in notes:
        note.places = {take: place_in(note, plan) for take, plan in plans.items()}
    return notes


@router.put("/client-notes/{note_id}", response=NoteOut)
def set_note(request: PersonRequest, note_id: int, wanted: NoteDone) -> Note:
    """Whether a note has been seen to."""
    notes = Note.objects.filter(shown__in=ShownPicture.objects.of(request.auth)).select_related("shown__showing")
    note = get_object_or_404(notes, id=note_id)
    note.done = wanted.done
    note.save(update_fields=["done"])
    return note
