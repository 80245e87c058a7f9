"""What a link of a showing opens, and nothing else: the showing, its pictures, the client's word on them.

Nobody is signed in here. Whoever has the link may look; each address begins with it and leads to nothing beside it.
"""

from __future__ import annotations

from pathlib import Path

from django.contrib.auth.hashers import check_password
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router

from common.background import State
from common.errors import Conflict, Refused
from common.store import store
from kitecore.pipeline.geometry import Place
from people import throttle
from showings.api import pdf_response
from showings.links import check_unlocked, showing_of, unlock
from showings.mail import tell_owner
from showings.models import Answer, Made, Note, Showing, ShownPicture
from showings.schemas import (
    ClientAnswerIn,
    ClientFinding,
    ClientNote,
    ClientNoteIn,
    ClientPicture,
    ClientShowing,
    Passphrase,
    told,
)
from showings.signals import answered

router = Router(tags=["shown"], auth=None)

#: A showing holds so many words of clients at most: nobody fills the disk by a link.
MOST_NOTES, MOST_ANSWERS = 200, 200
_SIDES = ("before", "after")


def _opened(request: HttpRequest, token: str) -> Showing:
    """The showing behind a link. Raises Http404, Closed or Locked."""
    showing = showing_of(token)
    check_unlocked(request, showing)
    return showing


def _unseen(response: HttpResponse) -> HttpResponse:
    """Kept by the client's browser for a while and by nobody else; not to be found by search."""
    response["Cache-Control"] = "private, max-age=300"
    response["X-Robots-Tag"] = "noindex, nofollow"
    response["Referrer-Policy"] = "no-referrer"
    return response


@router.get("/shown/{token}", response=ClientShowing)
def shown(request: HttpRequest, token: str, response: HttpResponse) -> ClientShowing:
    """The showing, as its client sees it."""
    showing = _opened(request, token)
    _unseen(response)["Cache-Control"] = "no-store"
    Showing.objects.filter(id=showing.id).update(seen=timezone.now())
    return _client_showing(showing)


def _client_showing(showing: Showing) -> ClientShowing:
    rows = showing.pictures.select_related("picture__original", "showing").prefetch_related("answers", "notes")
    return ClientShowing(
        title=showing.title, words=showing.words, round=showing.round, expires=showing.expires,
        closed_to_answers=_NEWER_ROUND if showing.followed else "", pictures=[_client_picture(row) for row in rows],
    )  # fmt: skip


_NEWER_ROUND = "There is a newer round of this showing; please answer that one. Whoever sent you this link has it."


def _client_picture(row: ShownPicture) -> ClientPicture:
    made = Made.model_validate(row.found) if row.state == State.DONE else Made(width=0, height=0)
    plan = row.plan()

    def shares(note: Note) -> ClientNote:
        place = plan.place_in_result(note.place)
        return ClientNote(x=place.x / plan.size.width, y=place.y / plan.size.height, words=note.words, name=note.name)

    return ClientPicture(
        position=row.position, name=row.picture.name, ready=row.state == State.DONE, failed=row.state == State.FAILED,
        shown_width=made.width, shown_height=made.height, width=row.width, height=row.height, ppi=row.ppi,
        done=row.done(), measured=[ClientFinding.of(one) for one in row.measured()],
        spots=[spot.name for spot in row.shown_spots], answer=told(row.answer), notes=[shares(note) for note in row.notes.all()],
    )  # fmt: skip


@router.post("/shown/{token}/passphrase", response={204: None})
def open_it(request: HttpRequest, token: str, given: Passphrase) -> HttpResponse:
    """Have this browser let in, if the passphrase is right."""
    showing = showing_of(token)
    address = request.META.get("REMOTE_ADDR", "")
    throttle.attempt(f"showing {showing.id}", address)
    if showing.passphrase and not check_password(given.passphrase, showing.passphrase):
        raise Refused("This is not the passphrase of this showing.")
    throttle.succeeded(f"showing {showing.id}", address)
    response = HttpResponse(status=204)
    unlock(showing, response, request.is_secure())
    return response


def _row(showing: Showing, position: int) -> ShownPicture:
    rows = showing.pictures.select_related("picture__original", "showing")
    return get_object_or_404(rows, position=position, state=State.DONE)


def _sent(path: Path) -> HttpResponse:
    try:
        return _unseen(HttpResponse(store().here(path).read_bytes(), content_type="image/jpeg"))
    except FileNotFoundError:
        raise Http404 from None


@router.get("/shown/{token}/pictures/{position}/{side}.jpg", include_in_schema=False)
def whole(request: HttpRequest, token: str, position: int, side: str) -> HttpResponse:
    """All of a picture, before or after."""
    row = _row(_opened(request, token), position)
    if side not in _SIDES:
        raise Http404
    return _sent(row.file(side))


@router.get("/shown/{token}/pictures/{position}/spots/{spot}/{side}.jpg", include_in_schema=False)
def check_spot(request: HttpRequest, token: str, position: int, spot: int, side: str) -> HttpResponse:
    """A check spot at full size, before or after."""
    row = _row(_opened(request, token), position)
    if side not in _SIDES or not 0 <= spot < len(row.spots):
        raise Http404
    return _sent(row.file(side, spot))


@router.get("/shown/{token}/pdf", include_in_schema=False)
def as_pdf(request: HttpRequest, token: str) -> HttpResponse:
    """The showing as a PDF."""
    return _unseen(pdf_response(_opened(request, token)))


def _answerable(request: HttpRequest, token: str) -> Showing:
    showing = _opened(request, token)
    if showing.followed:
        raise Conflict(_NEWER_ROUND)
    return showing


@router.post("/shown/{token}/pictures/{position}/notes", response=ClientShowing)
def leave_note(request: HttpRequest, token: str, position: int, given: ClientNoteIn) -> ClientShowing:
    """A note on a place of a picture."""
    showing = _answerable(request, token)
    row = _row(showing, position)
    if Note.objects.filter(shown__showing=showing).count() >= MOST_NOTES:
        raise Refused(f"A showing holds {MOST_NOTES} notes; tell the rest to whoever sent you the link.")
    plan = row.plan()
    place = plan.place_in_source(Place(given.x * plan.size.width, given.y * plan.size.height))
    Note.objects.create(shown=row, x=place.x, y=place.y, words=given.words, name=given.name)
    tell_owner(row, f"{given.name} left a note on {row.picture.name}", given.words)
    return _client_showing(showing)


@router.post("/shown/{token}/pictures/{position}/answer", response=ClientShowing)
def answer(request: HttpRequest, token: str, position: int, given: ClientAnswerIn) -> ClientShowing:
    """Approve a picture, or ask for changes; the last word counts, all are kept."""
    showing = _answerable(request, token)
    row = _row(showing, position)
    if Answer.objects.filter(shown__showing=showing).count() >= MOST_ANSWERS:
        raise Refused("This showing has been answered too often; talk to whoever sent you the link.")
    Answer.objects.create(shown=row, verdict=given.verdict, name=given.name, words=given.words)
    said = "approved" if given.verdict == ShownPicture.Verdict.APPROVED else "asks for changes of"
    tell_owner(row, f"{given.name} {said} {row.picture.name}", given.words)
    answered.send(ShownPicture, shown=row, approved=given.verdict == ShownPicture.Verdict.APPROVED)
    return _client_showing(showing)
