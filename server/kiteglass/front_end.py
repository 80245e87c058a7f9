"""The built front end: its files, and its first page for every address that is not a file."""

from __future__ import annotations

import mimetypes
from functools import cache
from pathlib import Path

from django.conf import settings
from django.http import HttpRequest, HttpResponse

_POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'self'; form-action 'self'"
)
_NOT_BUILT = "The front end has not been built yet; bin/start builds it."


@cache
def _files() -> dict[str, tuple[bytes, str]]:
    """Every file of the build with its type, by its address; a few megabytes, read once."""
    root: Path = settings.WEB_DIST
    return {
        str(path.relative_to(root)): (
            path.read_bytes(),
            mimetypes.guess_type(path.name)[0] or "application/octet-stream",
        )
        for path in root.rglob("*")
        if path.is_file()
    }


async def front_end(request: HttpRequest, name: str) -> HttpResponse:
    """A file of the build, kept by browsers for ever if its name carries its hash; else the first page."""
    files = _files()
    if name.startswith("assets/") and name not in files:
        return HttpResponse("There is no such file.", status=404, content_type="text/plain")
    if "index.html" not in files:
        return HttpResponse(_NOT_BUILT, status=503, content_type="text/plain")
    shown = name.startswith("shown/")
    content, kind = files["shown.html"] if shown else files.get(name, files["index.html"])
    response = HttpResponse(content, content_type=kind)
    if shown:
        # Its address is what opens it: told to nobody, found by no search.
        response["Referrer-Policy"] = "no-referrer"
        response["X-Robots-Tag"] = "noindex, nofollow"
    response["Cache-Control"] = "public, max-age=31536000, immutable" if name.startswith("assets/") else "no-cache"
    response["Content-Security-Policy"] = _POLICY
    return response
