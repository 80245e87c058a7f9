import io
from typing import Any

import numpy as np
from django.conf import settings

from server_tests.base import CommittedTestCase

CUBE = b'TITLE "Dusk"\nLUT_3D_SIZE 2\n' + b"\n".join(
    b"%.1f %.1f %.1f" % (red * 0.5, green * 0.5, blue * 0.5) for blue in (0, 1) for green in (0, 1) for red in (0, 1)
)


class TablesTest(CommittedTestCase):
    """Look-up tables on the shelf, and what becomes of takes when one is taken off."""

    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(lambda: [path.unlink() for path in settings.TABLES.glob("*")])

    def bring(self, content: bytes, name: str = "x.cube") -> Any:
        file = io.BytesIO(content)
        file.name = name
        return self.client.post("/api/tables", {"file": file})

    def test_a_table_is_brought_used_and_taken_off(self) -> None:
        table = self.bring(CUBE).json()
        self.assertEqual((table["name"], table["size"]), ("Dusk", "2³"))
        self.assertEqual(self.bring(CUBE, "again.cube").json()["id"], table["id"])
        self.assertEqual(self.client.get("/api/tables").json(), [table])
        self.assertEqual(self.client.get(f"/api/tables/{table['id']}/file").content, CUBE)
        _, take = self.picture_and_take(steps=[])
        before = self.client.get(f"/api/takes/{take.id}/pixel?x=5&y=5").json()["result"]
        step = {"kind": "table", "table": table["id"], "name": "Dusk"}
        self.assertEqual(self.send("put", f"/takes/{take.id}", {"steps": [step]}).status_code, 200)
        after = self.client.get(f"/api/takes/{take.id}/pixel?x=5&y=5").json()["result"]
        np.testing.assert_allclose(after, np.array(before) / 2, atol=2)

        self.assertEqual(self.client.delete(f"/api/tables/{table['id']}").status_code, 204)
        self.assertEqual(self.client.get("/api/tables").json(), [])
        told = self.client.get(f"/api/takes/{take.id}").json()
        self.assertIn("not on the shelf any more", told["problem"])
        self.bring(CUBE)
        self.assertIsNone(self.client.get(f"/api/takes/{take.id}").json()["problem"])

    def test_what_is_no_table_is_refused_with_a_sentence(self) -> None:
        for content in (b"", b"\x00\xff", CUBE[:-20], CUBE.replace(b"SIZE 2", b"SIZE 1")):
            answer = self.bring(content)
            self.assertGreaterEqual(answer.status_code, 400)
            self.assertLess(answer.status_code, 500)
            self.assertTrue(answer.json()["message"].endswith("."), answer.content)
        self.assertEqual(list(settings.TABLES.glob("*")), [])
        self.assertEqual(self.client.delete(f"/api/tables/{'0' * 32}").status_code, 400)
