"""The signed-in person of a request: one way for all operations, whether they wait or not."""

from contextvars import ContextVar

from django.http import HttpRequest
from ninja.utils import check_csrf

from common.errors import Forged
from people.models import Person

#: Who the awaited operation that runs is for.
_asking: ContextVar[str] = ContextVar("asking", default="")


def who_asks() -> str:
    """For whom an awaited operation is carried out, as a name that tells people apart; empty outside of one."""
    return _asking.get()


class PersonRequest(HttpRequest):
    """A request whose sender has been recognised; every operation behind a sign-in gets one."""

    auth: Person


def _meant(request: HttpRequest) -> None:
    """Raise Forged if a changing request does not carry the token that only our own pages know."""
    if check_csrf(request):
        raise Forged("This was not sent from an open page of Kite Glass; reload the page and try again.")


def _active(person: object) -> Person | None:
    return person if isinstance(person, Person) and person.is_active else None


async def signed_in(request: HttpRequest) -> Person | None:
    """The person of the session, or None; for operations that are awaited. Raises Forged."""
    _meant(request)
    person = _active(await request.auser())
    _asking.set(str(person.pk) if person else "")
    return person


def signed_in_at_once(request: HttpRequest) -> Person | None:
    """As :func:`signed_in`, for operations that are not awaited: the rule unless an operation says otherwise."""
    _meant(request)
    return _active(request.user)
