"""The signed-in person of a request."""

from django.http import HttpRequest

from people.models import Person


class PersonRequest(HttpRequest):
    """A request whose sender has been recognised; every operation behind a sign-in gets one."""

    auth: Person


async def signed_in(request: HttpRequest) -> Person | None:
    """The person of the session, or None; safe to await where the synchronous check is not."""
    person = await request.auser()
    return person if isinstance(person, Person) and person.is_active else None
