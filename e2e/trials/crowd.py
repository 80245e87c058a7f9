"""A crowd: many people look at different places at once, each waits about as long as any other."""

from __future__ import annotations

import random
import statistics
import threading
import time
from typing import NamedTuple

from trials.person import Person
from trials.pictures import picture

_SIDE = 256


class Crowd(NamedTuple):
    views: int
    faults: int
    #: Seconds for a view: in the middle, of twenty the longest, and at most.
    middle: float
    long: float
    longest: float
    #: Views of whoever got the fewest and of whoever got the most.
    fewest: int
    most: int


def crowd(people: list[Person], seconds: float) -> Crowd:
    """Each looks at places of a picture of their own, enlarged twofold, one after another."""
    takes = [_take_of(person, number) for number, person in enumerate(people)]
    spent: list[list[float]] = [[] for _ in people]
    faults = [0] * len(people)
    until = time.monotonic() + seconds

    def look(number: int) -> None:
        chance = random.Random(number)
        while time.monotonic() < until:
            x, y = chance.randrange(1800 - _SIDE), chance.randrange(1200 - _SIDE)
            began = time.perf_counter()
            answer = people[number].ask("GET", f"{takes[number]}/{x}_{y}_{_SIDE}_{_SIDE}.png")
            spent[number].append(time.perf_counter() - began)
            faults[number] += answer.status != 200

    looking = [threading.Thread(target=look, args=(number,)) for number in range(len(people))]
    for one in looking:
        one.start()
    for one in looking:
        one.join()
    every = sorted(one for of_one in spent for one in of_one)
    counts = [len(of_one) for of_one in spent]
    long = every[min(len(every) - 1, int(0.95 * len(every)))]
    return Crowd(len(every), sum(faults), statistics.median(every), long, every[-1], min(counts), max(counts))


def _take_of(person: Person, number: int) -> str:
    """The address of cuts of a new picture's take."""
    job = person.patiently("POST", "/jobs", {"title": "Crowd", "client": ""}).told["id"]
    name = f"/jobs/{job}/pictures?name=crowd.jpg"
    take = person.ask("POST", name, picture(900, 600, number), "application/octet-stream").told["takes"][0]["id"]
    steps = [{"kind": "enlarge", "engine": "faithful", "target": {"by": "factor", "factor": 2}}]
    plan = person.patiently("PUT", f"/takes/{take}", {"steps": steps}).told["plan"]
    return f"/takes/{take}/cuts/{plan['chain']}"
