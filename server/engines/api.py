"""The engines there are."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja import Router, Schema

from kitecore.engines import engines
from kitecore.engines.engine import provider

router = Router(tags=["engines"])


class EngineOut(Schema):
    id: str
    name: str
    purpose: str
    factors: list[int]
    provider: str
    quality: dict[str, Any]


@router.get("/engines", response=list[EngineOut])
def list_engines(request: HttpRequest) -> list[EngineOut]:
    """Every engine, in the order of the shelf."""
    shelf = sorted((engine.manifest for engine in engines().values()), key=lambda manifest: manifest.order)
    return [
        EngineOut(
            id=manifest.id, name=manifest.name, purpose=manifest.purpose, factors=manifest.factors,
            provider=provider(), quality=manifest.quality,
        )
        for manifest in shelf
    ]  # fmt: skip
