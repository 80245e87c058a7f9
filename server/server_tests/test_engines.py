from __future__ import annotations

import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from core_tests import networks
from engines.models import EngineSpeed
from people.models import Person
from server_tests.base import CommittedTestCase, plain


class ShelfTest(CommittedTestCase):
    def bring(self, network: bytes | None = None, **changes: Any) -> Any:
        described = {
            "name": "Twofold", "purpose": "Repeats pixels.", "kind": "enlarge",
            "network": {"input": "picture", "outputs": {"2": "result"}, "reach": 0}, **changes,
        }  # fmt: skip
        return self.client.post("/api/engines", {
            "network": SimpleUploadedFile("own.onnx", networks.nearest() if network is None else network),
            "manifest": SimpleUploadedFile("own.json", json.dumps(described).encode()),
        })  # fmt: skip

    def shelf(self) -> dict[str, Any]:
        return {engine["id"]: engine for engine in self.client.get("/api/engines").json()}

    def test_every_engine_tells_what_it_is_for_and_how_good_it_is(self) -> None:
        shelf = self.shelf()
        self.assertLessEqual(
            {"faithful", "crisp", "salvage", "drawn", "grainkeep", "plain", "denoise", "repair", "deblur", "faces"},
            set(shelf),
        )
        for engine in shelf.values():
            self.assertTrue(engine["purpose"])
            self.assertFalse(engine["own"])
            if engine["network"]:
                self.assertIn("ExecutionProvider", engine["provider"])
                self.assertTrue(engine["quality"]["shelf"], engine["id"])

    def test_speed_is_measured_here_and_kept(self) -> None:
        self.assertIsNone(self.shelf()["denoise"]["source_megapixels_per_second"])
        measured = self.client.post("/api/engines/denoise/speed").json()["source_megapixels_per_second"]
        self.assertGreater(measured, 0)
        self.assertAlmostEqual(self.shelf()["denoise"]["source_megapixels_per_second"], measured, 3)
        self.assertEqual(EngineSpeed.objects.count(), 1)
        refused = self.client.post("/api/engines/plain/speed")
        self.assertEqual(refused.status_code, 400)
        self.assertEqual(self.client.post("/api/engines/fog/speed").status_code, 404)

    def test_samples_are_computed_by_the_engine_itself(self) -> None:
        pictures = {
            (engine, side): self.client.get(f"/api/engines/{engine}/sample/{side}.webp").content
            for engine in ("faithful", "denoise", "deblur") for side in ("before", "after")
        }  # fmt: skip
        for picture in pictures.values():
            self.assertEqual(picture[8:12], b"WEBP")
        self.assertEqual(len(set(pictures.values())), len(pictures))
        self.assertEqual(self.client.get("/api/engines/fog/sample/after.webp").status_code, 404)

    def test_an_own_engine_comes_is_used_goes_and_comes_back(self) -> None:
        answer = self.bring()
        self.assertEqual(answer.status_code, 201, answer.content)
        self.assertTrue(answer.json()["own"])
        _, take = self.picture_and_take(steps=[plain() | {"engine": "twofold"}])
        saved = self.client.get(f"/api/takes/{take.id}").json()
        self.assertIsNone(saved["problem"])
        tile = self.client.get(f"/api/takes/{take.id}/tiles/{saved['plan']['chain']}/0/0_0.png")
        self.assertEqual(tile.status_code, 200)
        self.assertEqual(self.client.delete("/api/engines/twofold").status_code, 204)
        self.assertNotIn("twofold", self.shelf())
        self.assertIn("no engine “twofold”", self.client.get(f"/api/takes/{take.id}").json()["problem"])
        self.assertEqual(self.client.post("/api/engines/twofold/back").status_code, 200)
        self.assertIsNone(self.client.get(f"/api/takes/{take.id}").json()["problem"])

    def test_only_who_brought_it_or_an_administrator_takes_it_off(self) -> None:
        self.assertEqual(self.bring().json()["brought_by"], "wren")
        other = self.as_stranger()
        seen = next(one for one in other.get("/api/engines").json() if one["id"] == "twofold")
        self.assertEqual((seen["brought_by"], seen["removable"]), ("wren", False))
        refused = other.delete("/api/engines/twofold")
        self.assertEqual(refused.status_code, 400)
        self.assertIn("Somebody else brought this engine", refused.json()["message"])
        self.assertTrue(self.shelf()["twofold"]["removable"])
        self.assertEqual(self.client.delete("/api/engines/twofold").status_code, 204)
        self.assertEqual(other.post("/api/engines/twofold/back").status_code, 400)
        self.assertEqual(self.client.post("/api/engines/twofold/back").status_code, 200)
        Person.objects.exclude(username="wren").update(is_superuser=True)
        self.assertEqual(other.delete("/api/engines/twofold").status_code, 204)

    def test_one_that_does_not_work_is_refused_with_the_reason(self) -> None:
        answer = self.bring(network=b"hello")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("not an ONNX network", answer.json()["message"])
        self.assertEqual(self.bring(kind="paint").status_code, 422)
        self.assertNotIn("twofold", self.shelf())

    def test_shipped_engines_stay(self) -> None:
        answer = self.client.delete("/api/engines/faithful")
        self.assertEqual(answer.status_code, 400)
        self.assertIn("stays", answer.json()["message"])

    def test_nobody_brings_an_engine_without_signing_in(self) -> None:
        self.client.logout()
        self.assertEqual(self.bring().status_code, 401)
        self.assertEqual(self.client.get("/api/engines").status_code, 401)
        self.assertEqual(self.client.get("/api/engines/faithful/sample/after.webp").status_code, 401)


class ColourShiftTest(CommittedTestCase):
    def test_holding_lowers_the_colour_shift_of_a_take(self) -> None:
        shifts = []
        for hold in (0, 100):
            _, take = self.picture_and_take(steps=[plain(4) | {"engine": "faithful", "hold": hold}])
            shift = self.client.get(f"/api/takes/{take.id}/colour-shift").json()
            self.assertGreaterEqual(shift["most"], shift["mean"])
            shifts.append(shift["mean"])
        self.assertLess(shifts[1], shifts[0])
        self.assertEqual(self.as_stranger().get(f"/api/takes/{take.id}/colour-shift").status_code, 404)
