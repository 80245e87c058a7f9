"""Requests that a schema of the API does not expect: every value in the place of every other."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from typing import Any

#: What is put in the place of every value.
HOSTILE: tuple[Any, ...] = (
    None, "", "\0", "ki\ud800te", "x" * 5000, -1, 10**30, 1.5e308, True, [], {}, [[]], ["\0"], {"a": {"b": None}},
    "../../etc/passwd", "2026-13-45", "\u202e\u200b", float("nan"), float("inf"),
)  # fmt: skip
#: These run for long, or end the session, whatever they are sent.
LEFT_OUT = {("delete", "/api/session"), ("post", "/api/engines/{name}/speed")}


def values_of(schema: dict[str, Any], root: dict[str, Any], depth: int = 0) -> Any:
    """Something a schema may accept: enough to come past the first check."""
    if "$ref" in schema:
        return values_of(root["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]], root, depth + 1)
    for told in ("default", "const"):
        if told in schema:
            return schema[told]
    if "enum" in schema:
        return schema["enum"][0]
    for choice in ("anyOf", "oneOf", "allOf"):
        if choice in schema:
            return values_of(schema[choice][0], root, depth + 1)
    match schema.get("type"):
        case "object":
            wanted = schema.get("required", []) if depth > 4 else schema.get("properties", {})
            return {name: values_of(schema["properties"][name], root, depth + 1) for name in wanted}
        case "array":
            return [values_of(schema.get("items", {}), root, depth + 1)] if depth < 4 else []
        case "string":
            return str(uuid.uuid4()) if schema.get("format") == "uuid" else "kite"
        case "integer" | "number":
            return schema.get("minimum", schema.get("exclusiveMinimum", 0)) + 1
        case "boolean":
            return True
    return None


def places_in(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    yield path
    if isinstance(value, dict):
        for key, below in value.items():
            yield from places_in(below, (*path, key))
    elif isinstance(value, list):
        for index, below in enumerate(value):
            yield from places_in(below, (*path, index))


def with_at(value: Any, path: tuple[Any, ...], put: Any) -> Any:
    if not path:
        return put
    if isinstance(value, dict):
        return {key: with_at(below, path[1:], put) if key == path[0] else below for key, below in value.items()}
    return [with_at(below, path[1:], put) if index == path[0] else below for index, below in enumerate(value)]


def addressed(path: str, known: dict[str, Any]) -> str:
    """An address with what is there in it, or what might be."""
    while "{" in path:
        name = path[path.index("{") + 1 : path.index("}")]
        number = name in ("level", "column", "row", "x", "y", "width", "height", "index", "side")
        path = path.replace("{" + name + "}", str(known.get(name, 1 if number else uuid.uuid4())))
    return path
