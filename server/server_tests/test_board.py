"""Takes side by side: kept in order, judged, chosen; check spots that hold under every frame and factor."""

from __future__ import annotations

import io

import numpy as np
from django.db import IntegrityError, transaction
from PIL import Image

from server_tests.base import CommittedTestCase, ServerTestCase, plain, png_bytes
from takes.models import Take

CROP = {"kind": "frame", "turns": 1, "crop": {"x": 4, "y": 6, "width": 20, "height": 30}}


class TakesOfAPictureTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(steps=[plain(2)])

    def names(self) -> list[str]:
        return [take["name"] for take in self.send("get", f"/pictures/{self.picture['id']}/takes").json()]

    def another(self) -> str:
        id_: str = self.send("post", f"/pictures/{self.picture['id']}/takes", {"steps": [plain(3)]}).json()["id"]
        return id_

    def test_takes_are_renamed_reordered_discarded_and_brought_back(self) -> None:
        second, third = self.another(), self.another()
        self.send("patch", f"/takes/{second}", {"name": "softer"})
        self.assertEqual(self.names(), ["A", "softer", "C"])
        self.send("post", f"/pictures/{self.picture['id']}/takes/order", {"ids": [third, second]})
        self.assertEqual(self.names(), ["C", "softer", "A"])
        self.assertEqual(self.send("delete", f"/takes/{second}").status_code, 204)
        self.assertEqual(self.names(), ["C", "A"])
        self.assertEqual(self.send("get", f"/takes/{second}").status_code, 404)
        self.assertEqual(self.send("post", f"/takes/{second}/restore").json()["steps"][0]["target"]["factor"], 3)
        self.assertEqual(self.names(), ["C", "softer", "A"])

    def test_a_verdict_a_note_and_one_chosen_take(self) -> None:
        second = self.another()
        for take in (str(self.take.id), second):
            self.send("patch", f"/takes/{take}", {"chosen": True, "verdict": "good", "note": "rope holds"})
        takes = self.send("get", f"/pictures/{self.picture['id']}/takes").json()
        self.assertEqual([take["chosen"] for take in takes], [False, True])
        self.assertEqual({(take["verdict"], take["note"]) for take in takes}, {("good", "rope holds")})
        self.send("patch", f"/takes/{second}", {"chosen": False, "verdict": ""})
        again = self.send("get", f"/takes/{second}").json()
        self.assertEqual((again["chosen"], again["verdict"], again["note"]), (False, "", "rope holds"))
        Take.objects.filter(id=second).update(chosen=True)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Take.objects.filter(id=self.take.id).update(chosen=True)

    def test_one_take_for_each_engine_in_one_action(self) -> None:
        path = f"/takes/{self.take.id}/engines"
        made = self.send("post", path, {"engines": ["plain", "faithful"]}).json()
        self.assertEqual([take["name"] for take in made], ["Plain", "Faithful"])
        self.assertEqual([take["steps"][-1]["engine"] for take in made], ["plain", "faithful"])
        self.assertEqual({take["plan"]["factor"] for take in made}, {2})
        self.assertEqual(self.send("post", path, {"engines": ["plain"]}).json()[0]["name"], "Plain 2")
        before = self.names()
        refused = self.send("post", path, {"engines": ["plain", "nonesuch"]})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("nonesuch", refused.json()["message"])
        self.assertEqual(self.names(), before)
        self.send("put", f"/takes/{self.take.id}", {"steps": []})
        self.assertIn("no enlarge step", self.send("post", path, {"engines": ["plain"]}).json()["message"])

    def test_what_belongs_to_others_is_not_touched(self) -> None:
        crow = self.as_stranger()
        spot = self.send("post", f"/pictures/{self.picture['id']}/spots", {"x": 5, "y": 5}).json()[0]["id"]
        take = self.take.id
        for method, path, body in (
            ("delete", f"/takes/{take}", None),
            ("post", f"/takes/{take}/restore", None),
            ("post", f"/takes/{take}/engines", {"engines": ["plain"]}),
            ("get", f"/pictures/{self.picture['id']}/takes", None),
            ("get", f"/pictures/{self.picture['id']}/spots", None),
            ("post", f"/pictures/{self.picture['id']}/spots", {"x": 1, "y": 1}),
            ("patch", f"/spots/{spot}", {"name": "mine"}),
            ("delete", f"/spots/{spot}", None),
            ("post", f"/spots/{spot}/restore", None),
            ("put", f"/takes/{take}/marks/{spot}", {"value": "bad"}),
        ):  # fmt: skip
            self.assertEqual(self.send(method, path, body, crow).status_code, 404, path)


class SpotsTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(steps=[CROP, plain(3)])
        self.path = f"/pictures/{self.picture['id']}/spots"

    def test_a_spot_pinned_in_a_result_holds_in_the_source_and_in_every_take(self) -> None:
        (spot,) = self.send("post", self.path, {"x": 30, "y": 45, "take_id": str(self.take.id), "name": "knot"}).json()
        # 30, 45 in the result is 10, 15 in the crop, 14, 21 in the turned picture, and 21, 26 in the 60×40 source.
        self.assertEqual((spot["x"], spot["y"]), (21, 26))
        other = self.send("post", f"/pictures/{self.picture['id']}/takes", {"steps": [plain(2)]}).json()["id"]
        places = self.send("get", self.path).json()[0]["places"]
        self.assertEqual(places[str(self.take.id)], {"x": 30, "y": 45})
        self.assertEqual(places[other], {"x": 42, "y": 52})

    def test_a_spot_that_is_cropped_off_is_nowhere_and_comes_back(self) -> None:
        (spot,) = self.send("post", self.path, {"x": 1, "y": 1}).json()
        self.assertIsNone(spot["places"][str(self.take.id)])
        self.send("put", f"/takes/{self.take.id}", {"steps": [plain(2)]})
        self.assertEqual(self.send("get", self.path).json()[0]["places"][str(self.take.id)], {"x": 2, "y": 2})

    def test_spots_are_named_moved_ordered_removed_and_restored(self) -> None:
        self.send("post", self.path, {"x": 1, "y": 1})
        first, second = self.send("post", self.path, {"x": 9, "y": 9}).json()
        self.assertEqual((first["name"], second["name"]), ("spot 1", "spot 2"))
        moved = self.send("patch", f"/spots/{first['id']}", {"x": 30, "y": 20, "name": "rope"}).json()[0]
        self.assertEqual((moved["name"], moved["x"], moved["y"]), ("rope", 30, 20))
        ordered = self.send("post", f"{self.path}/order", {"ids": [second["id"]]}).json()
        self.assertEqual([spot["name"] for spot in ordered], ["spot 2", "rope"])
        self.send("delete", f"/spots/{second['id']}")
        self.assertEqual([spot["name"] for spot in self.send("get", self.path).json()], ["rope"])
        self.assertEqual(len(self.send("post", f"/spots/{second['id']}/restore").json()), 2)

    def test_a_spot_outside_the_picture_is_refused(self) -> None:
        for place in ({"x": -1, "y": 3}, {"x": 60, "y": 3}, {"x": 3, "y": 40.5}):
            self.assertEqual(self.send("post", self.path, place).status_code, 400)
        self.assertEqual(self.send("get", self.path).json(), [])

    def test_takes_of_another_picture_of_the_same_stand_beside(self) -> None:
        (spot,) = self.send("post", self.path, {"x": 21, "y": 26}).json()
        # The same at twice the size, and a picture of another shape.
        finer, other = self.picture_and_take(png_bytes(120, 80), steps=[plain(2)])
        odd, _ = self.picture_and_take(png_bytes(50, 40))
        beside = f"/pictures/{self.picture['id']}/beside"
        (told,) = self.send("put", beside, {"picture_id": finer["id"]}).json()
        self.assertEqual(told["places"][str(other.id)], {"x": 84, "y": 104})
        self.assertEqual(self.send("get", f"/pictures/{self.picture['id']}").json()["beside_id"], finer["id"])
        (marked,) = self.send("put", f"/takes/{other.id}/marks/{spot['id']}", {"value": "good"}).json()
        self.assertEqual(marked["marks"], {str(other.id): "good"})
        # Its own board knows nothing of it, and a picture taken out stands nowhere.
        self.assertEqual(self.send("get", f"/pictures/{finer['id']}/spots").json(), [])
        self.send("delete", f"/pictures/{finer['id']}")
        self.assertNotIn(str(other.id), self.send("get", self.path).json()[0]["places"])
        self.send("post", f"/pictures/{finer['id']}/restore")
        (without,) = self.send("put", beside, {"picture_id": None}).json()
        self.assertNotIn(str(other.id), without["places"])
        refused = self.send("put", beside, {"picture_id": odd["id"]})
        self.assertIn("another shape", refused.json()["message"])
        for wanted, client in ((self.picture["id"], None), (finer["id"], self.as_stranger())):
            self.assertEqual(self.send("put", beside, {"picture_id": wanted}, client).status_code, 404)

    def test_cells_are_marked_and_unmarked(self) -> None:
        (spot,) = self.send("post", self.path, {"x": 21, "y": 26}).json()
        path = f"/takes/{self.take.id}/marks/{spot['id']}"
        for value in ("good", "bad"):
            marks = self.send("put", path, {"value": value}).json()[0]["marks"]
            self.assertEqual(marks, {str(self.take.id): value})
        self.assertEqual(self.send("put", path, {"value": ""}).json()[0]["marks"], {})


class CellsTest(CommittedTestCase):
    def test_spots_are_proposed_once_with_reasons(self) -> None:
        picture, _ = self.picture_and_take(png_bytes(200, 160))
        path = f"/pictures/{picture['id']}/spots"
        made = self.send("post", f"{path}/propose").json()
        spots = self.send("get", path).json()
        self.assertEqual([spot["id"] for spot in spots], made)
        self.assertGreaterEqual(len(spots), 4)
        self.assertTrue(all(spot["reason"] for spot in spots))
        self.assertEqual(self.send("post", f"{path}/propose").json(), [])

    def shown(self, take: Take, chain: str, query: str) -> np.ndarray:
        answer = self.client.get(f"/api/takes/{take.id}/tiles/{chain}/0/0_0.png?{query}")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        return np.asarray(Image.open(io.BytesIO(answer.content)))

    def test_differences_and_clipping_are_told_and_need_the_same_frame(self) -> None:
        picture, take = self.picture_and_take(steps=[plain(2)])
        other = self.send("post", f"/pictures/{picture['id']}/takes", {"steps": [CROP, plain(2)]}).json()["id"]
        chain = self.send("get", f"/takes/{take.id}").json()["plan"]["chain"]
        self.assertEqual(set(self.shown(take, chain, "show=difference&against=original").ravel()), {128})
        take.save_steps([{**plain(2), "engine": "faithful"}])
        chain = self.send("get", f"/takes/{take.id}").json()["plan"]["chain"]
        self.assertGreater(self.shown(take, chain, "show=difference&against=original&gain=8").std(), 5)
        clipped = self.shown(take, chain, "show=clipping")
        self.assertTrue(np.any(np.ptp(clipped, axis=2) > 20) and np.any(np.ptp(clipped, axis=2) == 0))
        refused = self.client.get(f"/api/takes/{take.id}/tiles/{chain}/0/0_0.png?show=difference&against={other}")
        self.assertIn("framed differently", refused.json()["message"])

    def test_a_histogram_counts_the_result(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        found = self.send("get", f"/takes/{take.id}/histogram").json()
        self.assertEqual([sum(counts) for counts in found["counts"]], [120 * 80] * 3)
        self.assertTrue(all(share > 0 for share in found["highlights"]))

    def test_a_cut_is_the_result_and_the_plain_cut_is_plain(self) -> None:
        _, take = self.picture_and_take(steps=[CROP, plain(3)])
        resolved = self.send("get", f"/takes/{take.id}").json()["plan"]
        region = "10_12_30_40"
        result, plainly = (
            self.client.get(f"/api/takes/{take.id}/cuts/{resolved[chain]}/{region}.png")
            for chain in ("chain", "plain_chain")
        )
        pixels = np.asarray(Image.open(io.BytesIO(result.content)))
        self.assertEqual(pixels.shape, (40, 30, 3))
        np.testing.assert_array_equal(pixels, np.asarray(Image.open(io.BytesIO(plainly.content))))
        whole = self.client.get(f"/api/takes/{take.id}/tiles/{resolved['chain']}/0/0_0.png")
        np.testing.assert_array_equal(pixels, np.asarray(Image.open(io.BytesIO(whole.content)))[12:52, 10:40])
        for bad in ("50_12_30_40", "0_0_0_5", "0_0_5000_1"):
            self.assertEqual(
                self.client.get(f"/api/takes/{take.id}/cuts/{resolved['chain']}/{bad}.png").status_code, 404
            )
        self.assertEqual(self.client.get(f"/api/takes/{take.id}/cuts/{'0' * 32}/{region}.png").status_code, 409)
