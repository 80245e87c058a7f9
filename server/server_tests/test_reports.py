"""Fidelity reports: made once for the same steps, kept, made again where they failed."""

from __future__ import annotations

from datetime import timedelta
from typing import Any
from unittest import mock

from django.utils import timezone

from common.background import State
from kitecore.errors import EngineError
from reports import tasks
from reports.models import Report
from reports.tasks import report
from server_tests.base import ServerTestCase, plain, png_bytes


class ReportsTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        _, self.take = self.picture_and_take(png_bytes(120, 90), steps=[plain(2)])
        self.path = f"/takes/{self.take.id}/report"

    def ask(self) -> Any:
        return self.send("post", self.path).json()

    def test_a_report_is_asked_for_made_and_kept_for_these_steps(self) -> None:
        self.assertEqual(self.send("get", self.path).json()["state"], "none")
        self.assertEqual(self.ask()["state"], "queued")
        row = Report.objects.get()
        report.func(str(row.id))
        done = self.ask()
        self.assertEqual((done["state"], done["progress"]), ("done", 1))
        measures = [finding["measure"] for finding in done["found"]["findings"]]
        self.assertEqual(measures, ["return", "drift", "halo", "smoothing", "seams", "invention"])
        for finding in done["found"]["findings"]:
            for place in finding["places"]:
                self.assertTrue(0 <= place["x"] < 240 and 0 <= place["y"] < 180)
        self.assertEqual(Report.objects.count(), 1)

        self.take.save_steps([plain(3)])
        self.assertEqual(self.send("get", self.path).json()["state"], "none")
        self.take.save_steps([plain(2)])
        self.assertEqual(self.send("get", self.path).json()["state"], "done")

    def test_what_failed_is_told_and_tried_again(self) -> None:
        self.ask()
        row = Report.objects.get()
        with mock.patch.object(tasks, "report_of", side_effect=EngineError("The engine is gone.")):
            report.func(str(row.id))
        self.assertEqual(self.send("get", self.path).json()["message"], "The engine is gone.")
        with (
            mock.patch.object(tasks, "report_of", side_effect=MemoryError),
            self.assertLogs("common.background", "ERROR"),
        ):
            report.func(str(row.id))
        self.assertIn("unforeseen", self.send("get", self.path).json()["message"])
        self.assertEqual(self.ask()["state"], "queued")
        report.func(str(row.id))
        self.assertEqual(self.send("get", self.path).json()["state"], "done")

    def test_a_report_whose_worker_died_is_begun_again(self) -> None:
        self.ask()
        Report.objects.update(state=State.RUNNING)
        self.assertEqual(self.ask()["state"], "running")
        Report.objects.update(modified=timezone.now() - timedelta(minutes=2))
        self.assertEqual(self.ask()["state"], "queued")

    def test_others_see_none_of_it(self) -> None:
        self.assertEqual(self.send("get", self.path, client=self.as_stranger()).status_code, 404)
        self.assertEqual(self.send("post", self.path, client=self.as_stranger()).status_code, 404)
