"""The print planner: every size at once, one made the take's own, sharpened for its paper, undone in one go."""

from __future__ import annotations

from e2e_tests.base import BrowserTestCase, expect


class PrintsTest(BrowserTestCase):
    def test_a_print_is_planned_and_becomes_the_takes_size(self) -> None:
        self.sign_in()
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        before = self.page.get_by_test_id("result-size").inner_text()
        self.page.keyboard.press("j")
        planner = self.page.get_by_label("Print planner")
        sizes = planner.get_by_label("Sizes")
        small = sizes.get_by_role("button", name="15 × 10 cm")
        expect(small).to_contain_text("with ×4")
        # Seen from far away nothing has to be enlarged; from near by more than from its diagonal.
        planner.get_by_label("Seen from, cm").fill("300")
        expect(small).to_contain_text("as it stands")
        planner.get_by_label("Seen from, cm").fill("50")
        sizes.get_by_role("button", name="30 × 20 cm").click()
        told = planner.get_by_label("Chosen size")
        expect(told).to_contain_text("seen from 50 cm: good with 2063 × 1376 px (175 ppi)")
        planner.get_by_role("button", name="Make this print").click()
        expect(planner).to_have_count(0)
        # 640 × 480 px cover 30 × 20 cm: the width decides, the height reaches over.
        expect(self.page.get_by_test_id("result-size")).to_have_text("2067 × 1550 px")
        steps = self.page.get_by_label("Steps")
        expect(steps.get_by_role("button", name="sharpen on")).to_be_visible()
        self.page.keyboard.press("Control+z")
        expect(self.page.get_by_test_id("result-size")).to_have_text(before)

    def test_borders_that_leave_nothing_are_told(self) -> None:
        self.sign_in()
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        self.page.get_by_title("Print planner (J)").click()
        planner = self.page.get_by_label("Print planner")
        planner.get_by_label("Width", exact=True).fill("10")
        planner.get_by_label("Height", exact=True).fill("15")
        expect(planner.get_by_label("Chosen size")).to_contain_text("15 × 10 cm")
        planner.get_by_label("Border, mm").fill("60")
        expect(planner.get_by_text("leaves nothing", exact=False)).to_be_visible()
