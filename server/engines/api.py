"""The engine shelf: what there is, what each does to a sample, how fast it is here, and bringing one's own."""

from __future__ import annotations

import uuid
from functools import lru_cache
from typing import Any, Literal

from asgiref.sync import sync_to_async
from django.conf import settings
from django.db import connection
from django.http import Http404, HttpResponse
from ninja import Field, File, Router, Schema, Status
from ninja.files import UploadedFile

from common.errors import Refused
from common.store import store
from engines.models import BroughtEngine
from engines.shelf import brought_by, is_own, known_speeds, measured_speed, put_back, take_down
from kitecore.engines import Engine, engines
from kitecore.engines.engine import provider
from kitecore.engines.importing import MOST_MANIFEST_BYTES, MOST_NETWORK_BYTES, import_engine
from kitecore.engines.kinds import KindName
from kitecore.engines.manifest import Manifest
from kitecore.pipeline.run import Run
from kitecore.takes.engine_sample import engine_sample
from people.models import Person
from people.signed_in import PersonRequest, signed_in
from rendering.pool import pool

router = Router(tags=["engines"])


class EngineOut(Schema):
    id: str
    name: str
    purpose: str
    print: str
    kind: KindName
    factors: list[int]
    network: bool
    own: bool
    brought_by: str | None = Field(description="Of one that is own: whose, if that is known.")
    removable: bool = Field(description="Whether whoever asks may take it off the shelf.")
    fingerprint: str
    provider: str | None
    source_megapixels_per_second: float | None
    licence: str
    training: dict[str, Any]
    quality: dict[str, Any]


class SpeedOut(Schema):
    """Megapixels of the source worked through in a second, measured on this machine."""

    source_megapixels_per_second: float


def _shown(engine: Engine, speeds: dict[str, float], owners: dict[str, Person], person: Person) -> EngineOut:
    manifest, own = engine.manifest, is_own(engine.manifest.id)
    owner = owners.get(manifest.id) if own else None
    speed = speeds.get(manifest.id)
    return EngineOut(
        id=manifest.id, name=manifest.name, purpose=manifest.purpose, print=manifest.print, kind=manifest.kind,
        factors=manifest.factors,
        network=manifest.network is not None, own=own,
        brought_by=(owner.get_full_name() or owner.get_username()) if owner else None,
        removable=own and (person.is_superuser or owner == person), fingerprint=engine.fingerprint,
        provider=provider() if manifest.network else None,
        source_megapixels_per_second=round(speed / 1e6, 4) if speed else None,
        licence=manifest.licence, training=manifest.training, quality=manifest.quality,
    )  # fmt: skip


def _engine(name: str) -> Engine:
    try:
        return engines()[name]
    except KeyError:
        raise Http404 from None


@router.get("/engines", response=list[EngineOut])
def list_engines(request: PersonRequest) -> list[EngineOut]:
    """Every engine, in the order of the shelf."""
    store().follow(settings.ENGINES)
    speeds, owners = known_speeds(), brought_by()
    shelf = sorted(engines().values(), key=lambda engine: (engine.manifest.order, engine.manifest.name))
    return [_shown(engine, speeds, owners, request.auth) for engine in shelf]


@lru_cache(maxsize=64)
def _sample(name: str, fingerprint: str, side: Literal["before", "after"]) -> bytes:
    return engine_sample(_engine(name), side)


@router.get("/engines/{name}/sample/{side}.webp", auth=signed_in, include_in_schema=False)
async def sample(request: PersonRequest, name: str, side: Literal["before", "after"]) -> HttpResponse:
    """The engine's sample before or after; ``?v=`` the fingerprint, so that browsers may keep it."""
    fingerprint = _engine(name).fingerprint

    def work(run: Run) -> bytes:
        return _sample(name, fingerprint, side)

    response = HttpResponse(await pool.render(uuid.uuid4().hex, 0, work), content_type="image/webp")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@router.post("/engines/{name}/speed", auth=signed_in, response=SpeedOut)
async def measure(request: PersonRequest, name: str) -> SpeedOut:
    """Measure how fast the engine runs on this machine, now."""
    engine = _engine(name)

    def work(run: Run) -> float:
        try:
            return measured_speed(engine)
        finally:
            connection.close()

    speed = await pool.render(uuid.uuid4().hex, 0, work)
    return SpeedOut(source_megapixels_per_second=round(speed / 1e6, 4))


@router.post("/engines", auth=signed_in, response={201: EngineOut})
async def bring(request: PersonRequest, network: File[UploadedFile], manifest: File[UploadedFile]) -> Status[EngineOut]:
    """Bring a network of one's own: an ONNX file and a JSON manifest. It is tried in a process of its own first."""
    for file, most in ((network, MOST_NETWORK_BYTES), (manifest, MOST_MANIFEST_BYTES)):
        if (file.size or 0) > most:
            raise Refused(f"{file.name} is larger than the {most / 1e6:,.1f} MB that are accepted.")

    def taken_in() -> Manifest:
        with store().changing(settings.ENGINES):
            return import_engine(network.read(), manifest.read(), settings.ENGINES)

    made = await sync_to_async(taken_in, thread_sensitive=False)()

    def noted() -> EngineOut:
        BroughtEngine.objects.update_or_create(name=made.id, defaults={"person": request.auth})
        return _told(made.id, request.auth)

    return Status(201, await sync_to_async(noted)())


def _told(name: str, person: Person) -> EngineOut:
    return _shown(_engine(name), known_speeds(), brought_by(), person)


@router.delete("/engines/{name}", response={204: None})
def remove(request: PersonRequest, name: str) -> Status[None]:
    """Take an engine that one brought off the shelf; takes that use it say so until it is put back."""
    _engine(name)
    take_down(name, request.auth)
    return Status(204, None)


@router.post("/engines/{name}/back", response=EngineOut)
def back(request: PersonRequest, name: str) -> EngineOut:
    """Put back an engine that was taken off the shelf."""
    put_back(name, request.auth)
    return _told(name, request.auth)
