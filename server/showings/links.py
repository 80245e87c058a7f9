"""Links of showings: nobody can guess one, none is kept, and one that is made anew ends the others."""

from __future__ import annotations

import uuid

from django.core.signing import BadSignature, TimestampSigner
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.crypto import constant_time_compare, salted_hmac

from kitecore.errors import KiteError
from showings.models import Showing

_SALT = "kiteglass.showing"
_DIGITS = 40
#: For how long a passphrase is remembered by the browser it was typed into.
_REMEMBERED_SECONDS = 12 * 3600


class Closed(KiteError):
    """The link was right once."""

    code = "closed"


class Locked(KiteError):
    """A passphrase is asked for first."""

    code = "locked"


def token_of(showing: Showing) -> str:
    """What opens a showing: its id, and a signature of it that only this server can make."""
    return showing.id.hex + _signature(showing)


def path_of(showing: Showing) -> str:
    """The address of its page, from the root of the site."""
    return f"/shown/{token_of(showing)}"


def _signature(showing: Showing) -> str:
    return salted_hmac(_SALT, f"{showing.id.hex} {showing.link}", algorithm="sha256").hexdigest()[:_DIGITS]


def showing_of(token: str) -> Showing:
    """The showing that a token opens.

    Raises Http404 for any that opens none, and Closed for one that did until it was revoked or its time was over.
    """
    try:
        key = uuid.UUID(hex=token[:32])
    except ValueError:
        raise Http404 from None
    showing = Showing.objects.filter(id=key, job__removed=None).select_related("job__owner").first()
    if showing is None or not constant_time_compare(token[32:], _signature(showing)):
        raise Http404
    if not showing.open:
        what = "has been closed" if showing.revoked else "is over"
        raise Closed(f"This showing {what}. Ask whoever sent you the link for a new one.")
    return showing


def _signer(showing: Showing) -> TimestampSigner:
    # Whoever knew an earlier passphrase does not know this one.
    return TimestampSigner(salt=f"{_SALT} {showing.id.hex} {showing.passphrase}")


def _cookie_of(showing: Showing) -> str:
    return f"showing-{showing.id.hex[:12]}"


def unlock(showing: Showing, response: HttpResponse, secure: bool) -> None:
    """Have the browser remember that the passphrase was right."""
    response.set_cookie(
        _cookie_of(showing), _signer(showing).sign("open"), max_age=_REMEMBERED_SECONDS, httponly=True, samesite="Strict",
        path=f"/api/shown/{token_of(showing)}", secure=secure,
    )  # fmt: skip


def check_unlocked(request: HttpRequest, showing: Showing) -> None:
    """Raises Locked if a passphrase is asked for and this browser has not given it."""
    if not showing.passphrase:
        return
    try:
        _signer(showing).unsign(request.COOKIES.get(_cookie_of(showing), ""), max_age=_REMEMBERED_SECONDS)
    except BadSignature:
        raise Locked("This showing is opened with a passphrase; whoever sent you the link has it.") from None
