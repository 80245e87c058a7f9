from jobs.models import Job
from server_tests.base import ServerTestCase, plain, png_bytes
from takes.models import Take


class TakesTest(ServerTestCase):
    def test_a_new_picture_begins_with_the_order_never_with_other_settings(self) -> None:
        order = {"width": 4, "height": 6, "unit": "cm", "ppi": 100}
        job = Job.objects.create(owner=self.owner, title="Prints", order=order)
        self.picture_and_take()[1].save_steps([plain(7)])
        picture = self.upload(png_bytes(), "lying.png", job).json()
        take = self.send("get", f"/takes/{picture['takes'][0]['id']}").json()
        self.assertEqual([step["kind"] for step in take["steps"]], ["frame", "enlarge"])
        # The picture lies, so the order is laid too: 6 cm wide at 100 ppi.
        self.assertEqual(take["plan"]["size"], {"width": 236, "height": 157})

    def test_an_order_beyond_reach_begins_at_the_largest_factor(self) -> None:
        job = Job.objects.create(
            owner=self.owner, title="Banner", order={"width": 300, "height": 200, "unit": "cm", "ppi": 300}
        )
        take = self.send("get", f"/takes/{self.upload(png_bytes(), 'a.png', job).json()['takes'][0]['id']}").json()
        self.assertEqual(take["plan"]["factor"], 8)

    def test_steps_are_saved_and_undone_and_redone_over_reloads(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        path = f"/takes/{take.id}"
        for factor in (3, 4):
            self.assertEqual(self.send("put", path, {"steps": [plain(factor)]}).json()["plan"]["factor"], factor)
        self.assertEqual(self.send("post", f"{path}/undo").json()["plan"]["factor"], 3)
        again = self.send("get", path).json()
        self.assertEqual((again["plan"]["factor"], again["can_undo"], again["can_redo"]), (3, True, True))
        self.assertEqual(self.send("post", f"{path}/redo").json()["plan"]["factor"], 4)
        self.send("post", f"{path}/undo")
        self.assertEqual(self.send("put", path, {"steps": [plain(5)]}).json()["can_redo"], False)
        self.assertEqual(self.send("post", f"{path}/redo").json()["plan"]["factor"], 5)
        for _ in range(9):
            last = self.send("post", f"{path}/undo").json()
        self.assertFalse(last["can_undo"])

    def test_the_same_steps_again_are_no_new_state(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        before = take.states.count()
        self.send("put", f"/takes/{take.id}", {"steps": [plain(2)]})
        self.assertEqual(take.states.count(), before)

    def test_settings_that_make_no_sense_are_refused_and_change_nothing(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        for steps in (
            [plain(0)],
            [plain(1000)],
            [{"kind": "fog"}],
            [{**plain(), "engine": "../x"}],
            [{"kind": "frame", "turns": 9}],
        ):
            answer = self.send("put", f"/takes/{take.id}", {"steps": steps})
            self.assertEqual(answer.status_code, 422)
            self.assertIn("is not usable", answer.json()["message"])
        self.assertEqual(Take.objects.get(id=take.id).core.steps[0].target.factor, 2)

    def test_settings_that_do_not_fit_the_picture_are_refused_and_nothing_changes(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        before = self.send("get", f"/takes/{take.id}").json()
        too_large = {"by": "print", "width": 90, "height": None, "unit": "cm", "ppi": 300, "mode": "fit"}
        outside = {"kind": "frame", "crop": {"x": 5000, "y": 0, "width": 10, "height": 10}}
        for steps in ([{**plain(), "target": too_large}], [outside]):
            answer = self.send("put", f"/takes/{take.id}", {"steps": steps})
            self.assertEqual(answer.status_code, 422)
            self.assertNotIn("steps", answer.json()["message"])
            self.assertEqual(self.send("get", f"/takes/{take.id}").json(), before)
        answer = self.send("put", f"/takes/{take.id}", {"steps": [{**plain(), "target": too_large}]})
        self.assertIn("between 0.5 and 8", answer.json()["message"])

    def test_a_setting_that_is_not_usable_is_called_by_its_step_and_name(self) -> None:
        _, take = self.picture_and_take(steps=[plain(2)])
        answer = self.send("put", f"/takes/{take.id}", {"steps": [{"kind": "frame"}, plain(100)]})
        self.assertIn("“enlarge: factor” is not usable", answer.json()["message"])

    def test_duplicating_and_naming(self) -> None:
        picture, take = self.picture_and_take(steps=[plain(3)])
        twin = self.send("post", f"/pictures/{picture['id']}/takes", {"steps": [plain(3)]}).json()
        self.assertEqual((twin["name"], twin["steps"]), ("B", self.send("get", f"/takes/{take.id}").json()["steps"]))
        self.assertEqual(
            self.send("patch", f"/takes/{twin['id']}", {"name": "for the wall"}).json()["name"], "for the wall"
        )
