"""Hostile uploads: nothing falls over, what is refused is refused with a sentence, nothing is left of it."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from urllib.parse import quote

from trials.person import Person
from trials.pictures import hostile, picture


def uploads(person: Person, job: str, home: Path, count: int) -> Counter[str]:
    """Send so many; gives what became of them: taken, refused, faults (there must be none), and files left over."""
    left_before = set(_passing(home))
    became: Counter[str] = Counter({"taken": 0, "refused": 0, "faults": 0})
    for name, content in hostile(count, 7):
        answer = person.ask("POST", f"/jobs/{job}/pictures?name={quote(name)}", content, "application/octet-stream")
        if answer.status == 201:
            became["taken"] += 1
            person.ask("DELETE", f"/pictures/{answer.told['id']}")
        elif 400 <= answer.status < 500 and answer.told.get("message"):
            became["refused"] += 1
        else:
            became["faults"] += 1
            print(f"{name!r} ({content[:20]!r}…): {answer.status} {answer.content[:200]!r}", flush=True)
    sound = person.ask("POST", f"/jobs/{job}/pictures?name=sound.jpg", picture(80, 60, 3), "application/octet-stream")
    became["faults"] += sound.status != 201
    became["left over"] = len(set(_passing(home)) - left_before)
    return became


def _passing(home: Path) -> list[Path]:
    """Files on their way."""
    return [path for path in (home / "incoming").rglob("*") if path.is_file()]
