"""A damaged file comes in only on somebody's word, and is called damaged from then on."""

from __future__ import annotations

from e2e_tests.base import REPOSITORY, BrowserTestCase, expect


class DamagedTest(BrowserTestCase):
    def test_a_file_that_was_cut_off(self) -> None:
        whole = (REPOSITORY / "demo" / "pictures" / "Harbour wall 1988.jpg").read_bytes()
        half = {"name": "half.jpg", "mimeType": "image/jpeg", "buffer": whole[: len(whole) // 2]}
        self.open_job("Tern Sands: exhibition")
        self.page.get_by_label("Picture files").set_input_files(half)
        expect(self.page.get_by_role("alert").filter(has_text="half.jpg is damaged")).to_be_visible()
        expect(self.page.get_by_label("Open half.jpg on the bench")).to_have_count(0)
        self.page.get_by_role("button", name="Take it in as it is").click()
        expect(self.page.get_by_label("Open half.jpg on the bench")).to_be_visible()
        expect(self.page.get_by_role("note").filter(has_text="Damaged:")).to_be_visible()
