"""Django's own middlewares without a thread for each of their methods.

They look at a request or a response and wait for nothing; only a session that has changed is saved. Handed to a thread one
by one, as Django does under ASGI, they would take a request through eleven, each of which waits for its turn beside the networks.
"""

from __future__ import annotations

from collections.abc import Awaitable, Callable

from asgiref.sync import markcoroutinefunction, sync_to_async
from django.contrib.auth.middleware import AuthenticationMiddleware
from django.contrib.sessions.middleware import SessionMiddleware
from django.core.handlers.exception import response_for_exception
from django.http import HttpRequest
from django.http.response import HttpResponseBase
from django.middleware.clickjacking import XFrameOptionsMiddleware
from django.middleware.common import CommonMiddleware
from django.middleware.csrf import CsrfViewMiddleware
from django.middleware.security import SecurityMiddleware
from django.utils.deprecation import MiddlewareMixin

_MIDDLEWARES: tuple[type[MiddlewareMixin], ...] = (
    SecurityMiddleware, SessionMiddleware, CommonMiddleware, CsrfViewMiddleware, AuthenticationMiddleware,
    XFrameOptionsMiddleware,
)  # fmt: skip

View = Callable[..., HttpResponseBase]


class AtOnce:
    """Middleware; does what all of them do, in their order."""

    async_capable, sync_capable = True, False

    def __init__(self, answer: Callable[[HttpRequest], Awaitable[HttpResponseBase]]) -> None:
        self._answer = answer
        self._all = [one(_never) for one in _MIDDLEWARES]
        markcoroutinefunction(self)

    async def __call__(self, request: HttpRequest) -> HttpResponseBase:
        passed: list[MiddlewareMixin] = []
        response: HttpResponseBase | None = None
        for one in self._all:
            try:
                if hasattr(one, "process_request"):
                    response = one.process_request(request)
            except Exception as error:
                response = response_for_exception(request, error)
                break
            passed.append(one)
            if response is not None:
                break
        if response is None:
            response = await self._answer(request)
        for one in reversed(passed):
            if hasattr(one, "process_response"):
                saves = isinstance(one, SessionMiddleware) and request.session.modified
                answer = sync_to_async(one.process_response) if saves else _soon(one.process_response)
                response = await answer(request, response)
        return response

    async def process_view(
        self, request: HttpRequest, view: View, args: tuple[object, ...], kwargs: dict[str, object]
    ) -> HttpResponseBase | None:
        """Of those that look at which view it is."""
        for one in self._all:
            if hasattr(one, "process_view"):
                response: HttpResponseBase | None = one.process_view(request, view, args, kwargs)
                if response is not None:
                    return response
        return None


def _soon(
    process: Callable[[HttpRequest, HttpResponseBase], HttpResponseBase],
) -> Callable[[HttpRequest, HttpResponseBase], Awaitable[HttpResponseBase]]:
    async def now(request: HttpRequest, response: HttpResponseBase) -> HttpResponseBase:
        return process(request, response)

    return now


def _never(request: HttpRequest) -> HttpResponseBase:
    raise NotImplementedError("these are asked for their parts alone")
