"""Hostile requests: every field of every operation is sent what it does not expect."""

from __future__ import annotations

import json
import random
from collections import Counter
from typing import Any

from server_tests.hostile import HOSTILE, LEFT_OUT, addressed, places_in, values_of, with_at
from trials.person import Person


def bodies(person: Person, known: dict[str, Any], count: int, seed: int = 5) -> Counter[str]:
    """So many requests over all operations; gives how many were accepted, refused with a sentence, and faults."""
    schema = person.get("/openapi.json")
    chance = random.Random(seed)
    operations = [
        (method, path, values_of(content["schema"], schema))
        for path, methods in schema["paths"].items()
        for method, operation in methods.items()
        if (content := operation.get("requestBody", {}).get("content", {}).get("application/json"))
        and (method, path) not in LEFT_OUT
    ]
    became: Counter[str] = Counter({"accepted": 0, "refused": 0, "faults": 0})
    for number in range(count):
        method, path, usual = operations[number % len(operations)]
        body = with_at(usual, chance.choice(list(places_in(usual))), chance.choice(HOSTILE))
        if chance.random() < 0.3:
            body = with_at(body, chance.choice(list(places_in(body))), chance.choice(HOSTILE))
        told = json.dumps(body).encode()
        answer = person.ask(method.upper(), addressed(path, known).removeprefix("/api"), told)
        if answer.status < 400:
            became["accepted"] += 1
        elif answer.status < 500 and _sentence(answer.content):
            became["refused"] += 1
        else:
            became["faults"] += 1
            print(f"{method} {path} with {told[:300]!r}: {answer.status} {answer.content[:200]!r}", flush=True)
    return became


def _sentence(content: bytes) -> bool:
    try:
        return bool(json.loads(content)["message"])
    except (ValueError, KeyError, TypeError):
        return False
