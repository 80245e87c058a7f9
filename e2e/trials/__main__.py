"""Every trial in full, on an application and a home of its own.

bin/trial [kills | uploads | bodies | streams | crowd | machines …]
"""

from __future__ import annotations

import secrets
import sys
from pathlib import Path
from tempfile import TemporaryDirectory

from kitecore.pipeline.geometry import Size
from launch.application import Application
from launch.cluster import free_port
from trials.bodies import bodies
from trials.crowd import crowd
from trials.kills import kills
from trials.machines import machines
from trials.person import Person
from trials.pictures import picture
from trials.streams import streams
from trials.uploads import uploads

EVERY = ("kills", "uploads", "bodies", "streams", "crowd", "machines")
KILLS, UPLOADS, BODIES, STREAMS, PEOPLE, CROWD_SECONDS = 40, 300, 10_000, 500, 20, 60
#: The source of the file that machines share, how it is enlarged, and how much of a core each has: two cores have to hold the
#: store and the database as well.
SHARED, FACTOR, SHARE, TURNS = Size(3062, 3062), 4, 0.4, (1, 2, 2, 1)


def main() -> None:
    wanted = sys.argv[1:] or list(EVERY)
    if unknown := set(wanted) - set(EVERY):
        raise SystemExit(f"There is no trial “{sorted(unknown)[0]}”; there are {', '.join(EVERY)}.")
    with TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        application = Application(Path(folder))
        try:
            application.start(free_port(), demo=False)
            failed = [name for name in wanted if not Trials(application).run(name)]
        finally:
            application.stop()
    if failed:
        raise SystemExit(f"Not as it must be: {', '.join(failed)}.")


class Trials:
    """Runs one after another; each tells its figures and whether they are as they must be."""

    def __init__(self, application: Application) -> None:
        self._application = application
        self._password = secrets.token_urlsafe(12)

    def run(self, name: str) -> bool:
        return bool(getattr(self, f"_{name}")())

    def _people(self, count: int) -> list[Person]:
        """New ones, signed in."""
        names = [f"kite-{secrets.token_hex(3)}-{number}" for number in range(count)]
        self._application.manage(
            "shell", "--verbosity", "0", "-c",
            "from people.models import Person\n"
            f"for name in {names!r}: Person.objects.create_user(name, password={self._password!r})",
        )  # fmt: skip
        return [Person(self._application.address, name, self._password) for name in names]

    def _kills(self) -> bool:
        found = kills(self._application, self._people(1)[0], KILLS)
        print(
            f"kills: {found.killed}; {found.edits} edits acknowledged, {found.edits_lost} lost; {found.ordered} files ordered, "
            f"{found.orders_lost} lost, {found.right} right to the pixel, {found.wrong} not", flush=True,
        )  # fmt: skip
        return found.edits_lost == found.orders_lost == found.wrong == 0 and found.right > 0

    def _uploads(self) -> bool:
        person = self._people(1)[0]
        job = person.patiently("POST", "/jobs", {"title": "Uploads", "client": ""}).told["id"]
        became = uploads(person, job, self._application.home, UPLOADS)
        print(f"hostile uploads: {dict(became)}", flush=True)
        return became["faults"] == became["left over"] == 0

    def _bodies(self) -> bool:
        person = self._people(1)[0]
        job = person.patiently("POST", "/jobs", {"title": "Requests", "client": ""}).told["id"]
        address = f"/jobs/{job}/pictures?name=requests.jpg"
        told = person.ask("POST", address, picture(60, 40, 1), "application/octet-stream").told
        known = {"job_id": job, "picture_id": told["id"], "take_id": told["takes"][0]["id"]}
        became = bodies(person, known, BODIES)
        print(f"hostile requests: {dict(became)}", flush=True)
        return became["faults"] == 0

    def _streams(self) -> bool:
        found = streams(self._people(10), STREAMS)
        print(
            f"open pages: {found.opened}, {found.refused} refused; list of jobs {1000 * found.middle:.0f} ms, "
            f"at most {1000 * found.longest:.0f} ms", flush=True,
        )  # fmt: skip
        return found.refused == 0

    def _crowd(self) -> bool:
        found = crowd(self._people(PEOPLE), CROWD_SECONDS)
        print(
            f"crowd: {PEOPLE} people, {found.views} views of 256×256 px, {found.faults} faults; {found.middle:.2f} s in the "
            f"middle, 19 of 20 within {found.long:.2f} s, at most {found.longest:.2f} s; {found.fewest} to {found.most} a person",
            flush=True,
        )
        return found.faults == 0 and found.most <= 2 * found.fewest + 2

    def _machines(self) -> bool:
        with TemporaryDirectory() as folder:
            found = machines(Path(folder), SHARED, FACTOR, SHARE, TURNS)
        for turn in found.turns:
            print(
                f"  by {turn.machines}: {turn.seconds:.0f} s; {turn.processor:.0f} s of a processor's time", flush=True
            )
        print(
            f"machines{', each with a network of its own' if found.isolated else ''}, held to {SHARE:.0%} of one core: "
            f"{SHARED.pixels * FACTOR**2 / 1e6:.0f} megapixels by two {found.faster('seconds'):.2f} times as fast as by one "
            f"({found.faster('processor'):.2f} by processors' time); pixels {'the same' if found.same else 'differ'}",
            flush=True,
        )
        return found.same


if __name__ == "__main__":
    main()
