"""Cards: saved from a take, used on other pictures with a strength, handed on as files; and what a person usually wants."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from readings.tasks import read
from server_tests.base import ServerTestCase, plain, png_bytes
from takes.models import Take

BEACH = Path(__file__).parents[2] / "demo" / "pictures" / "Beach, two far faces.jpg"

STEPS: list[dict[str, Any]] = [
    {"kind": "frame", "on": True, "crop": {"x": 5, "y": 5, "width": 20, "height": 20}},
    {"kind": "denoise", "on": True, "luminance": 60, "colour": 80},
    plain(3),
]


class CardsTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.picture, self.take = self.picture_and_take(png_bytes(60, 40), steps=STEPS)
        self.other = self.upload(png_bytes(50, 70, seed=2), "other.png").json()

    def saved(self, name: str = "Softly") -> dict[str, Any]:
        answer = self.send("post", "/cards", {"take_id": str(self.take.id), "name": name, "note": "for skin"})
        self.assertEqual(answer.status_code, 201, answer.content)
        made: dict[str, Any] = answer.json()
        return made

    def test_steps_are_copied_to_other_pictures_without_the_frame_of_theirs(self) -> None:
        path = f"/takes/{self.take.id}/copies"
        made = self.send("post", path, {"pictures": [self.other["id"]]}).json()
        copied = Take.objects.get(id=made[0]["take_id"])
        self.assertEqual((str(copied.picture_id), copied.name), (self.other["id"], f"{self.take.name} of wall"))
        self.assertEqual([step.kind for step in copied.core.steps], ["frame", "denoise", "enlarge"])
        self.assertIsNone(copied.core.steps[0].crop)
        self.assertEqual(copied.plan().size.width, 150)
        answer = self.send("post", path, {"pictures": [self.other["id"]]}, client=self.as_stranger())
        self.assertEqual(answer.status_code, 404)

    def test_a_card_is_used_on_other_pictures_with_a_strength(self) -> None:
        card = self.saved()
        self.assertEqual([step["kind"] for step in card["steps"]], ["denoise", "enlarge"])
        wanted = {"pictures": [self.picture["id"], self.other["id"]], "strength": 50}
        done = self.send("post", f"/cards/{card['id']}/apply", wanted).json()
        self.assertEqual({one["picture_id"] for one in done}, set(wanted["pictures"]))
        for one in done:
            self.assertIsNone(one["problem"])
            take = self.send("get", f"/takes/{one['take_id']}").json()
            self.assertEqual(take["name"], "Softly")
            self.assertEqual([step["kind"] for step in take["steps"]], ["frame", "denoise", "enlarge"])
            self.assertIsNone(take["steps"][0]["crop"])
            self.assertEqual((take["steps"][1]["luminance"], take["steps"][1]["colour"]), (30, 40))
        self.assertEqual(self.take.core, Take.objects.get(id=self.take.id).core)

    def test_a_card_with_faces_waits_for_the_reading_and_gives_every_picture_its_own(self) -> None:
        place = [[10.0, 12.0], [20.0, 12.0]]
        face = {"eyes": place, "mouth": [15.0, 20.0], "strength": 80}
        self.take.save_steps([{"kind": "faces", "strength": 40, "faces": [face]}])
        card = self.saved("people")
        self.assertEqual(card["steps"][0]["faces"], [])
        picture = self.upload(BEACH.read_bytes(), "beach.jpg").json()
        wanted = {"pictures": [picture["id"]]}
        refused = self.send("post", f"/cards/{card['id']}/apply", wanted)
        self.assertEqual(refused.status_code, 400)
        self.assertIn("beach.jpg has not been read yet", refused.json()["message"])
        read.func(picture["sha256"])
        take = Take.objects.get(id=self.send("post", f"/cards/{card['id']}/apply", wanted).json()[0]["take_id"])
        faces = take.core.steps[1]
        self.assertEqual((faces.kind, faces.strength, [one.on for one in faces.faces]), ("faces", 40, [True, True]))
        self.assertTrue(all(one.strength is None for one in faces.faces))

    def test_where_it_cannot_be_done_the_take_says_why_and_the_others_are_made(self) -> None:
        self.take.save_steps([plain(8) | {"target": {"by": "width", "pixels": 400}}])
        card = self.saved()
        done = self.send(
            "post", f"/cards/{card['id']}/apply", {"pictures": [self.picture["id"], self.other["id"]]}
        ).json()
        problems = {one["picture_id"]: one["problem"] for one in done}
        self.assertIsNone(problems[self.picture["id"]])
        small = self.upload(png_bytes(20, 20, seed=3), "tiny.png").json()
        (told,) = self.send("post", f"/cards/{card['id']}/apply", {"pictures": [small["id"]]}).json()
        self.assertIn("factor of 20", told["problem"])

    def test_it_goes_out_as_a_file_and_comes_back(self) -> None:
        card = self.saved()
        file = self.client.get(f"/api/cards/{card['id']}/file")
        self.assertIn('filename="Softly.json"', file["Content-Disposition"])
        self.assertEqual(json.loads(file.content)["kite_glass_card"], 1)
        back = self.client.generic("POST", "/api/cards/file", file.content, "application/json")
        self.assertEqual(back.status_code, 201)
        self.assertEqual(back.json()["steps"], card["steps"])
        self.assertEqual(len(self.send("get", "/cards").json()), 2)
        refused = self.client.generic("POST", "/api/cards/file", b"{}", "application/json")
        self.assertEqual(refused.status_code, 422)
        self.assertIn("not a card", refused.json()["message"])
        self.assertEqual(self.client.get("/api/cards/schema").json()["properties"]["kite_glass_card"]["const"], 1)

    def test_it_is_renamed_put_away_and_brought_back(self) -> None:
        card = self.saved()
        self.assertEqual(self.send("patch", f"/cards/{card['id']}", {"name": "Gently"}).json()["name"], "Gently")
        self.send("delete", f"/cards/{card['id']}")
        self.assertEqual(self.send("get", "/cards").json(), [])
        self.send("post", f"/cards/{card['id']}/restore")
        self.assertEqual([one["note"] for one in self.send("get", "/cards").json()], ["for skin"])

    def test_cards_are_their_owners(self) -> None:
        card = self.saved()
        crow = self.as_stranger()
        self.assertEqual(self.send("get", "/cards", client=crow).json(), [])
        for method, path, body in (
            ("patch", "", {"name": "mine"}), ("delete", "", None), ("get", "/file", None),
            ("post", "/apply", {"pictures": [self.picture["id"]]}),
        ):  # fmt: skip
            self.assertEqual(self.send(method, f"/cards/{card['id']}{path}", body, client=crow).status_code, 404)
        own = self.send("post", f"/cards/{card['id']}/apply", {"pictures": ["00000000-0000-0000-0000-000000000000"]})
        self.assertEqual(own.status_code, 400)


class DefaultsTest(ServerTestCase):
    def put(self, **changed: Any) -> Any:
        return self.send("put", "/defaults", self.send("get", "/defaults").json() | changed)

    def test_new_takes_start_from_them_and_old_ones_stay(self) -> None:
        _, before = self.picture_and_take()
        self.assertEqual(self.put(factor=4, engine="crisp", largest_side=150).status_code, 200)
        _, take = self.picture_and_take(png_bytes(60, 40, seed=5))
        enlarge = take.core.steps[-1]
        self.assertEqual((enlarge.engine, enlarge.target.factor), ("crisp", 2.5))
        self.assertEqual(before.core.steps[-1].target.factor, 2)

    def test_names_are_made_from_the_template(self) -> None:
        picture, take = self.picture_and_take(steps=[{"kind": "denoise", "on": True}, plain(3)])
        self.assertEqual(self.put(name="{picture} {steps} {engine} {factor} {width} {take}").status_code, 200)
        named = self.send("post", f"/takes/{take.id}/estimate", {"spec": {"format": "png"}}).json()["name"]
        self.assertEqual(named, "wall denoise-enlarge plain 3x 180 A.png")
        self.assertEqual(picture["name"], "wall.png")

    def test_what_cannot_be_used_is_refused_with_a_sentence(self) -> None:
        for changed, words in (
            ({"name": "{picture} {mood}"}, "“{mood}” is not known"),
            ({"name": "{picture"}, "not closed"),
            ({"factor": 90}, "factor"),
            ({"engine": "nonesuch"}, "nonesuch"),
        ):
            answer = self.put(**changed)
            self.assertGreaterEqual(answer.status_code, 400)
            self.assertIn(words, answer.json()["message"])
        self.assertEqual(self.send("get", "/defaults").json()["factor"], 2)

    def test_everyone_has_their_own(self) -> None:
        self.put(factor=3)
        self.assertEqual(self.send("get", "/defaults", client=self.as_stranger()).json()["factor"], 2)
