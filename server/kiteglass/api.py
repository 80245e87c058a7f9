"""The API: routers by subject, one place where errors become status codes and sentences."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import DataError, OperationalError, connection
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI, Schema
from ninja.errors import AuthenticationError, HttpError, ValidationError

from batches.api import router as batches
from cards.api import router as cards
from clips.api import router as clips
from common.errors import Conflict, Forged, Refused, TooMany
from deliveries.api import router as deliveries
from engines.api import router as engines
from folders.api import router as folders
from jobs.api import router as jobs
from kitecore.errors import Cancelled, EngineError, KiteError, NoSpace, TooLarge
from kiteglass.parsing import CarefulParser
from people.api import router as people
from people.signed_in import signed_in_at_once
from printers.api import router as printers
from prints.api import router as prints
from rehearsals.api import router as rehearsals
from reports.api import router as reports
from showings.api import router as showings
from showings.client import router as shown
from showings.links import Closed, Locked
from spots.api import router as spots
from suggestions.api import router as suggestions
from tables.api import router as tables
from takes.arrival import router as pictures
from takes.blur import router as blur
from takes.camera_jpeg import router as takes
from viewing.api import router as viewing
from viewing.crops import router as crops
from viewing.developing import router as developing
from viewing.finding import router as finding
from viewing.lending import router as lending
from viewing.lenses import router as lenses
from viewing.measures import router as measures
from viewing.patching import router as patching
from viewing.repeats import router as repeats
from viewing.starting import router as starting


def _for_those_signed_in(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """What the API is like is told to those who may use it."""

    def shown(request: HttpRequest, **told: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            return JsonResponse({"code": "signed-out", "message": "You are signed out; sign in to go on."}, status=401)
        return view(request, **told)

    return shown


api = NinjaAPI(
    title="Kite Glass",
    version="1",
    auth=signed_in_at_once,
    docs_url=None,
    parser=CarefulParser(),
    docs_decorator=_for_those_signed_in,
)

for router in (
    people,
    jobs,
    pictures,
    rehearsals,
    suggestions,
    takes,
    blur,
    cards,
    clips,
    spots,
    reports,
    engines,
    tables,
    viewing,
    lending,
    developing,
    lenses,
    crops,
    finding,
    measures,
    patching,
    repeats,
    starting,
    prints,
    printers,
    showings,
    shown,
    deliveries,
    batches,
    folders,
):
    api.add_router("", router)

#: What each kind of error is over HTTP, most particular first.
_STATUS: list[tuple[type[Exception], int]] = [
    (Closed, 410),
    (Locked, 401),
    (Cancelled, 409),
    (Conflict, 409),
    (Forged, 403),
    (TooMany, 429),
    (TooLarge, 413),
    (NoSpace, 507),
    (EngineError, 422),
    (Refused, 400),
    (KiteError, 422),
]


def _say(request: HttpRequest, code: str, message: str, status: int) -> HttpResponse:
    return api.create_response(request, {"code": code, "message": message}, status=status)


@api.exception_handler(KiteError)
def _kite_error(request: HttpRequest, error: KiteError) -> HttpResponse:
    status = next(status for kind, status in _STATUS if isinstance(error, kind))
    return _say(request, error.code, str(error), status)


def _field_of(loc: tuple[str | int, ...]) -> str:
    """The setting that a fault lies in, in the words of the form: “enlarge: factor”, or “name” where no step is meant."""
    names = [str(part).replace("_", " ") for part in loc[1:] if not isinstance(part, int)]
    steps = [index for index, name in enumerate(names) if name == "steps"]
    if not steps:
        return names[-1] if names else "request"
    inside = names[steps[-1] + 1 :]
    return f"{inside[0]}: {inside[-1]}" if len(inside) > 1 else (inside or ["steps"])[0]


@api.exception_handler(ValidationError)
def _invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    fault = error.errors[0]
    place = _field_of(fault["loc"])
    given = fault.get("input")
    shown = f" (given: {given!r})" if isinstance(given, str | int | float) else ""
    return _say(request, "invalid", f"The setting “{place}” is not usable: {fault['msg'].rstrip('.')}{shown}.", 422)


@api.exception_handler(HttpError)
def _unreadable(request: HttpRequest, error: HttpError) -> HttpResponse:
    return _say(request, "invalid", getattr(request, "unreadable", str(error)), error.status_code)


@api.exception_handler(DataError)
def _unkeepable(request: HttpRequest, error: DataError) -> HttpResponse:
    connection.close()
    return _say(
        request, "invalid", "Something in the request is too long, or holds characters that cannot be kept.", 422
    )


@api.exception_handler(AuthenticationError)
def _unknown(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
    return _say(request, "signed-out", "You are signed out; sign in to go on.", 401)


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return _say(request, "missing", "This is not here, or it is not yours.", 404)


@api.exception_handler(OperationalError)
def _no_database(request: HttpRequest, error: OperationalError) -> HttpResponse:
    connection.close()
    return _say(request, "no-database", "The database does not answer. Nothing is lost; try again in a moment.", 503)


class Health(Schema):
    """Whether the parts are there."""

    database: bool
    workers: int


@api.get("/health", auth=None, response=Health, tags=["health"])
def health(request: HttpRequest) -> dict[str, Any]:
    """Whether the database answers and how many workers have been heard of in the last fifteen seconds."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT count(*) FROM procrastinate_workers WHERE last_heartbeat > now() - interval '15 seconds'"
        )
        (workers,) = cursor.fetchone()
    return {"database": True, "workers": workers}
