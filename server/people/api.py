"""Signing in and out."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Field, Router, Schema
from ninja.utils import check_csrf

from common.errors import Refused
from kitecore.engines import engine_named
from people import throttle
from people.defaults import Defaults
from people.name_template import check_template
from people.signed_in import PersonRequest

router = Router(tags=["people"])


class Session(Schema):
    """Who is signed in, if anyone, and the token that changing requests must carry as X-CSRFToken."""

    name: str | None
    csrf: str


class Credentials(Schema):
    name: str
    password: str


def _session(request: HttpRequest) -> Session:
    person = request.user
    name = (person.get_full_name() or person.get_username()) if person.is_authenticated else None
    return Session(name=name, csrf=get_token(request))


@router.get("/session", auth=None, response=Session)
def session(request: HttpRequest) -> Session:
    return _session(request)


@router.post("/session", auth=None, response=Session)
def sign_in(request: HttpRequest, credentials: Credentials) -> Session:
    if check_csrf(request):
        raise Refused("The page was open too long; reload it and sign in again.")
    address = request.META.get("REMOTE_ADDR", "")
    throttle.attempt(credentials.name, address)
    person = authenticate(request, username=credentials.name, password=credentials.password)
    if person is None:
        raise Refused("This name and password do not belong together.")
    throttle.succeeded(credentials.name, address)
    login(request, person)
    return _session(request)


@router.delete("/session", response=Session)
def sign_out(request: HttpRequest) -> Session:
    logout(request)
    return _session(request)


class NewPassword(Schema):
    old: str = Field(max_length=200)
    new: str = Field(max_length=200)


@router.put("/password", response=Session)
def change_password(request: PersonRequest, wanted: NewPassword) -> Session:
    """Change one's password. Every other session of the person ends with it; this one goes on."""
    person, address = request.auth, request.META.get("REMOTE_ADDR", "")
    throttle.attempt(person.get_username(), address)
    if not person.check_password(wanted.old):
        raise Refused("This is not the password you sign in with now.")
    throttle.succeeded(person.get_username(), address)
    try:
        validate_password(wanted.new, person)
    except ValidationError as error:
        raise Refused(" ".join(error.messages)) from error
    person.set_password(wanted.new)
    person.save(update_fields=["password"])
    update_session_auth_hash(request, person)
    return _session(request)


@router.get("/defaults", response=Defaults)
def get_defaults(request: PersonRequest) -> Defaults:
    """Where this person's new takes and deliveries start from."""
    return request.auth.defaults


@router.put("/defaults", response=Defaults)
def set_defaults(request: PersonRequest, defaults: Defaults) -> Defaults:
    """Change them. Takes and deliveries there are stay as they are."""
    engine_named(defaults.engine, "enlarge")
    check_template(defaults.name)
    request.auth.own_defaults = defaults.model_dump(mode="json")
    request.auth.save(update_fields=["own_defaults"])
    return defaults
