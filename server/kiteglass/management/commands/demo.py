from __future__ import annotations

import shutil
import uuid
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from clips.models import Clip
from clips.receiving import take_in_clip
from common.store import store
from deliveries.models import SavedOutput
from deliveries.orders import order_delivery
from intake.receiving import take_in
from jobs.models import Job
from jobs.orders import PrintOrder
from kitecore.delivery.layout import Layout
from kitecore.delivery.spec import OutputSpec
from kitecore.steps import Enlarge, Frame
from kitecore.steps.enlarge import ByPrint
from kitecore.steps.frame import Crop
from people.models import Person
from pictures.models import Picture
from takes.models import Take

NAME, PASSWORD = "wren", "tern-sands-1988"
_NAMES = uuid.UUID("9f6f2a2e-52f5-4c3c-8d8c-9d0f6c1f1988")
_FINISHED = "Harbour wall 1988.jpg"

JOBS: list[dict[str, Any]] = [
    {
        "title": "Tern Sands: catalogue and banner",
        "client": "Tern Sands kite workshop",
        "note": "Files for the printer, 16 bit where they came so; the cloth repeats over a two-metre banner.",
        "order": None,
        "pictures": [
            "Loft bench, catalogue.tif",
            "Kite days poster.png",
            "Sail cloth, repeat.webp",
            "Beach, camera raw.dng",
        ],
        "clips": ["Kites in the wind.mp4"],
    },
    {
        "title": "Tern Sands: exhibition",
        "client": "Tern Sands kite workshop",
        "note": "Forty years of kite making, for the boathouse walls. Prints hang at arm's length.",
        "order": PrintOrder(width=30, height=40, unit="cm", ppi=240),
        "pictures": [_FINISHED, "Workshop at night.jpg", "Festival 2003 web.jpg"],
    },
    {
        "title": "Tern Sands: people",
        "client": "Tern Sands kite workshop",
        "note": "Those who made the kites, for the anniversary book. Nobody may become somebody else.",
        "order": None,
        "pictures": ["Workshop, spring 1974.jpg", "Wren at the loft.tif", "Beach, two far faces.jpg"],
        "clips": ["Wren in the workshop.mp4"],
    },
]


OUTPUTS = {
    "web": OutputSpec(format="jpeg", profile="srgb", longest_side=2048, quality=88, progressive=True, location=False),
    "page for the printer": OutputSpec(format="pdf", layout=Layout(bleed_mm=3, marks=True)),
}
#: Folders to try handing off with, below the first of settings.FOLDERS.
FOLDERS = ("boathouse scans", "boathouse finished")


class Command(BaseCommand):
    """Load the demo: a person, three jobs, their pictures, a finished take. Run again, it adds only what is missing."""

    help = "Load the Tern Sands demo."

    def handle(self, *args: Any, **options: Any) -> None:
        person = self._person()
        # The lens of the demo's camera is in no database.
        with store().changing(settings.LENSES):
            shutil.copytree(settings.REPOSITORY / "demo" / "lenses", settings.LENSES, dirs_exist_ok=True)
        for content in JOBS:
            self._job(person, content)
        for folder in FOLDERS if settings.FOLDERS else ():
            (Path(settings.FOLDERS[0]) / folder).mkdir(parents=True, exist_ok=True)

    def _person(self) -> Person:
        person, made = Person.objects.get_or_create(
            username=NAME, defaults={"first_name": "Wren", "last_name": "(demo)"}
        )
        if made:
            person.set_password(PASSWORD)
            person.save()
            for name, spec in OUTPUTS.items():
                SavedOutput.objects.create(owner=person, name=name, spec=spec.model_dump(mode="json"))
        return person

    def _job(self, person: Person, content: dict[str, Any]) -> None:
        order = content["order"].model_dump(mode="json") if content["order"] else None
        job, _ = Job.objects.get_or_create(
            id=uuid.uuid5(_NAMES, content["title"]),
            defaults={
                "owner": person,
                "title": content["title"],
                "client": content["client"],
                "note": content["note"],
                "order": order,
            },
        )
        self._clips(job, content.get("clips", []))
        have = set(Picture.objects.filter(job=job).values_list("name", flat=True))
        for name in content["pictures"]:
            if name in have:
                continue
            path: Path = settings.REPOSITORY / "demo" / "pictures" / name
            with transaction.atomic(), path.open("rb") as file:
                picture = take_in(job, name, file.read)
                take = Take.objects.begin(picture)
                if name == _FINISHED:
                    self._finish(picture, take)

    def _clips(self, job: Job, names: list[str]) -> None:
        have = set(Clip.objects.filter(job=job).values_list("name", flat=True))
        for name in names:
            if name not in have:
                with (settings.REPOSITORY / "demo" / "clips" / name).open("rb") as file:
                    take_in_clip(job, name, file.read)

    def _finish(self, picture: Picture, first: Take) -> None:
        """A crop for the ordered print: take A by network, delivered; take B plain, to compare."""
        crop = Crop(x=6, y=8, width=366, height=488)
        target = ByPrint(width=30, height=40, unit="cm", ppi=240)
        for engine, take in (("faithful", first), ("plain", Take.objects.begin(picture))):
            take.save_steps(
                [step.model_dump(mode="json") for step in (Frame(crop=crop), Enlarge(engine=engine, target=target))]
            )
        order_delivery(first, OutputSpec(ppi=240), "Harbour wall 30x40 cm")
