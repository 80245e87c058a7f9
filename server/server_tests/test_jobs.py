from deliveries.tasks import deliver
from jobs.models import Job
from server_tests.base import CommittedTestCase, ServerTestCase, plain, png_bytes

ORDER = {"width": 60, "height": 90, "unit": "cm", "ppi": 240}


class JobsTest(ServerTestCase):
    def test_begin_change_put_away_bring_back(self) -> None:
        made = self.send("post", "/jobs", {"title": "Kites", "client": "Tern Sands", "order": ORDER})
        self.assertEqual(made.status_code, 201)
        job = made.json()
        self.assertEqual(job["order"], ORDER)
        changed = self.send("put", f"/jobs/{job['id']}", {"title": "Kites, large"}).json()
        self.assertEqual((changed["title"], changed["order"]), ("Kites, large", None))
        self.assertEqual(self.send("delete", f"/jobs/{job['id']}").status_code, 204)
        self.assertEqual(self.send("get", f"/jobs/{job['id']}").status_code, 404)
        self.assertEqual(self.send("post", f"/jobs/{job['id']}/restore").status_code, 200)
        self.assertEqual(self.send("get", f"/jobs/{job['id']}").status_code, 200)

    def test_faults_are_sentences(self) -> None:
        for body, said in (
            ({}, "title"),
            ({"title": ""}, "title"),
            ({"title": "x", "order": {**ORDER, "width": -3}}, "width"),
            ({"title": "x", "order": {**ORDER, "unit": "yd"}}, "unit"),
        ):
            answer = self.send("post", "/jobs", body)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(f"{said}” is not usable", answer.json()["message"])

    def test_the_shelf_counts_and_shows_a_cover(self) -> None:
        picture = self.upload(png_bytes()).json()
        self.upload(png_bytes(seed=2))
        (job,) = self.send("get", "/jobs").json()
        self.assertEqual((job["picture_count"], job["cover"]), (2, picture["id"]))

    def test_the_shelf_counts_pictures_that_are_delivered_once_however_many_files(self) -> None:
        _, take = self.picture_and_take(png_bytes(40, 30), [plain(1)])
        self.upload(png_bytes(40, 30, seed=2))
        for _ in range(2):
            deliver.func(self.send("post", f"/takes/{take.id}/deliveries", {"spec": {}}).json()["id"])
        (job,) = self.send("get", "/jobs").json()
        self.assertEqual((job["picture_count"], job["done_count"], job["delivery_count"]), (2, 1, 2))


class OwnersTest(CommittedTestCase):
    def test_everything_belongs_to_its_owner(self) -> None:
        picture, take = self.picture_and_take()
        job = self.job.id
        stranger = self.as_stranger()
        self.assertEqual(self.send("get", "/jobs", client=stranger).json(), [])
        steps = {"steps": []}
        chain = "0" * 32
        for method, path, body in (
            ("get", f"/jobs/{job}", None),
            ("put", f"/jobs/{job}", {"title": "Mine"}),
            ("delete", f"/jobs/{job}", None),
            ("post", f"/jobs/{job}/restore", None),
            ("get", f"/jobs/{job}/pictures", None),
            ("get", f"/jobs/{job}/deliveries", None),
            ("post", f"/jobs/{job}/pictures?name=a.png", None),
            ("get", f"/pictures/{picture['id']}", None),
            ("get", f"/pictures/{picture['id']}/preview", None),
            ("get", f"/pictures/{picture['id']}/screen", None),
            ("delete", f"/pictures/{picture['id']}", None),
            ("post", f"/pictures/{picture['id']}/restore", None),
            ("post", f"/pictures/{picture['id']}/takes", steps),
            ("get", f"/takes/{take.id}", None),
            ("put", f"/takes/{take.id}", steps),
            ("patch", f"/takes/{take.id}", {"name": "x"}),
            ("post", f"/takes/{take.id}/undo", None),
            ("post", f"/takes/{take.id}/redo", None),
            ("get", f"/takes/{take.id}/tiles/{chain}/0/0_0.png", None),
            ("get", f"/takes/{take.id}/pixel?x=0&y=0", None),
            ("post", f"/takes/{take.id}/estimate", {"spec": {}}),
            ("post", f"/takes/{take.id}/deliveries", {"spec": {}}),
        ):
            with self.subTest(method=method, path=path):
                self.assertEqual(self.send(method, path, body, stranger).status_code, 404)
        self.assertEqual(Job.objects.get().title, "Harbour")
