"""Short forms of what ``bin/trial`` does in full."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import TestCase

from e2e_tests.demo import PERSON, demo_application
from kitecore.pipeline.geometry import Size
from launch.application import Application
from launch.cluster import free_port
from trials.bodies import bodies
from trials.crowd import crowd
from trials.kills import kills
from trials.machines import machines
from trials.person import Person
from trials.streams import streams
from trials.uploads import uploads


class TrialsTest(TestCase):
    def setUp(self) -> None:
        self.demo = demo_application()
        self.demo.reset()
        self.person = Person(self.demo.address, PERSON["name"], PERSON["password"])
        self.job = self.person.get("/jobs")[0]["id"]

    def test_hostile_uploads_leave_nothing(self) -> None:
        became = uploads(self.person, self.job, self.demo.home, 24)
        self.assertEqual((became["faults"], became["left over"]), (0, 0))
        self.assertGreater(became["refused"], 10)

    def test_hostile_requests_are_refused_with_a_sentence(self) -> None:
        picture = self.person.get(f"/jobs/{self.job}/pictures")[0]
        known = {"job_id": self.job, "picture_id": picture["id"], "take_id": picture["takes"][0]["id"]}
        became = bodies(self.person, known, 200, seed=6)
        self.assertEqual(became["faults"], 0)
        self.assertGreater(became["refused"], 50)

    def test_open_pages_hold_nobody_up(self) -> None:
        found = streams([self.person], 40)
        self.assertEqual((found.opened, found.refused), (40, 0))

    def test_in_a_crowd_everybody_gets_a_turn(self) -> None:
        found = crowd([Person(self.demo.address, PERSON["name"], PERSON["password"]) for _ in range(4)], 5)
        self.assertEqual(found.faults, 0)
        self.assertGreater(found.fewest, 0)


class MachinesTest(TestCase):
    def test_machines_with_nothing_in_common_but_a_store_and_the_database_make_one_file(self) -> None:
        with TemporaryDirectory() as folder:
            found = machines(Path(folder), Size(300, 10_000), 2, None)
        self.assertTrue(found.same)
        self.assertGreater(found.helped, 0)


class KillsTest(TestCase):
    def test_kills_lose_nothing(self) -> None:
        """In an application of its own: nobody else's is to be killed."""
        with TemporaryDirectory() as folder:
            Path(folder).chmod(0o755)
            application = Application(Path(folder))
            self.addCleanup(application.stop)
            application.start(free_port(), demo=True)
            found = kills(application, Person(application.address, PERSON["name"], PERSON["password"]), 3)
            application.stop()
        self.assertEqual((found.edits_lost, found.orders_lost, found.wrong), (0, 0, 0))
        self.assertGreater(found.edits, 0)
