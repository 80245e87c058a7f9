"""The check board: spots by takes at pixel level, driven by pointer and by key."""

from __future__ import annotations

from pathlib import Path
from tempfile import TemporaryDirectory

from PIL import Image
from playwright.sync_api import Locator

from e2e_tests.base import REPOSITORY, BrowserTestCase, expect
from e2e_tests.pixels import found, on_screen, result_of


class BoardTest(BrowserTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.open_job("Tern Sands: exhibition")

    def open_board(self, picture: str) -> Locator:
        self.open_bench(picture)
        self.page.keyboard.press("v")
        board = self.page.get_by_label("Check board", exact=True)
        expect(board.get_by_role("button", name="Propose spots")).to_be_visible()
        return board

    def all_cells_are_there(self) -> None:
        expect(self.page.locator(".board[data-missing='0']")).to_be_visible(timeout=90_000)

    def test_spots_and_takes_are_judged_cell_by_cell_and_kept(self) -> None:
        board = self.open_board("Workshop at night.jpg")
        expect(board.get_by_text("Pin the places that must look right")).to_be_visible()
        board.get_by_role("button", name="Propose spots").click()
        expect(board.get_by_role("columnheader").filter(has_text="even tone")).to_be_visible()

        board.get_by_role("button", name="Try engines").click()
        self.page.get_by_label("Crisp").check()
        self.page.get_by_label("Plain").check()
        self.page.get_by_role("button", name="Make 2 takes").click()
        expect(self.page.get_by_text("2 takes made: Crisp, Plain.")).to_be_visible()
        self.all_cells_are_there()
        expect(board.get_by_role("row")).to_have_count(5)

        # A cell at 100 % is a part of the file, pixel by pixel.
        board.get_by_role("group", name="Board zoom").get_by_role("button", name="100 %").click()
        self.all_cells_are_there()
        cell = board.get_by_role("img", name="A, even tone")
        cell.scroll_into_view_if_needed()
        self.assertTrue(found(on_screen(self.page, cell)[30:60, 40:80], result_of(self.page, self.application.address)))

        # By key: the cell right below, good; the take chosen.
        cell.click()
        self.page.keyboard.press("ArrowDown")
        self.page.keyboard.press("+")
        below = board.get_by_role("img", name="Crisp, even tone")
        expect(below.get_by_title("good")).to_be_visible()
        self.page.keyboard.press("c")
        expect(board.get_by_role("button", name="Choose take Crisp")).to_have_attribute("aria-pressed", "true")
        board.get_by_label("Note on take Plain").fill("too soft")
        board.get_by_label("Note on take Plain").press("Tab")
        board.get_by_label("Take Plain is bad").click()
        expect(board.get_by_label("Take Plain is bad")).to_have_attribute("aria-pressed", "true")

        # Enter sends the cell to the large view: its take, its spot in the middle.
        below.click()
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_label("Take", exact=True)).to_have_text("take Crisp ▾")
        pin = self.page.get_by_role("button", name="Check spot 2, even tone").bounding_box()
        view = self.page.locator(".view").bounding_box()
        assert pin and view
        self.assertLess(abs(pin["x"] + pin["width"] / 2 - view["x"] - view["width"] / 2), 4)
        self.assertLess(abs(pin["y"] + pin["height"] / 2 - view["y"] - view["height"] / 2), 4)

        self.page.reload()
        board = self.page.get_by_label("Check board", exact=True)
        expect(board.get_by_role("img", name="Crisp, even tone").get_by_title("good")).to_be_visible()
        expect(board.get_by_role("button", name="Choose take Crisp")).to_have_attribute("aria-pressed", "true")
        expect(board.get_by_label("Note on take Plain")).to_have_value("too soft")

    def test_takes_are_renamed_moved_discarded_and_brought_back(self) -> None:
        board = self.open_board("Festival 2003 web.jpg")
        self.page.keyboard.press("k")
        self.page.keyboard.press("n")
        expect(board.get_by_role("button", name="Choose take B")).to_be_visible()
        board.get_by_label("More for take B").click()
        self.page.get_by_text("Rename", exact=True).click()
        board.get_by_label("Name of the take").fill("calmer")
        board.get_by_label("Name of the take").press("Enter")
        expect(board.get_by_role("rowheader")).to_contain_text(["original", "A", "calmer"])
        board.get_by_label("More for take calmer").click()
        self.page.get_by_text("Move up", exact=True).click()
        expect(board.get_by_role("rowheader")).to_contain_text(["original", "calmer", "A"])
        board.get_by_label("More for take calmer").click()
        self.page.get_by_text("Discard", exact=True).click()
        expect(board.get_by_role("rowheader")).to_contain_text(["original", "A"])
        expect(self.page.get_by_label("Take", exact=True)).to_have_text("take A ▾")
        self.page.get_by_role("button", name="Bring back").click()
        expect(board.get_by_role("rowheader")).to_contain_text(["original", "calmer", "A"])

    def test_a_spot_is_pinned_dragged_named_and_taken_off(self) -> None:
        board = self.open_board("Harbour wall 1988.jpg")
        view = self.page.locator(".view").bounding_box()
        assert view
        middle = (view["x"] + view["width"] / 2, view["y"] + view["height"] / 2)
        self.page.mouse.dblclick(*middle)
        pin = self.page.get_by_role("button", name="Check spot 1")
        expect(pin).to_be_visible()
        before = pin.bounding_box()
        assert before
        self.assertLess(abs(before["x"] + before["width"] / 2 - middle[0]), 3)
        self.page.mouse.move(*middle)
        self.page.mouse.down()
        self.page.mouse.move(middle[0] + 40, middle[1] - 25, steps=4)
        self.page.mouse.up()
        expect(pin).not_to_have_css("left", f"{middle[0] - view['x']}px")
        self.page.wait_for_timeout(500)
        after = pin.bounding_box()
        assert after
        self.assertLess(abs(after["x"] - before["x"] - 40) + abs(after["y"] - before["y"] + 25), 3)
        board.get_by_text("spot 1", exact=False).first.dblclick()
        board.get_by_label("Name of the spot").fill("rope")
        board.get_by_label("Name of the spot").press("Enter")
        expect(self.page.get_by_role("button", name="Check spot 1, rope")).to_be_visible()
        board.get_by_label("Take check spot rope off").click()
        expect(pin).to_have_count(0)
        self.page.get_by_role("button", name="Put back").click()
        expect(self.page.get_by_role("button", name="Check spot 1, rope")).to_be_visible()

    def test_a_fidelity_report_is_measured_kept_and_leads_to_places(self) -> None:
        self.open_bench("Festival 2003 web.jpg")
        self.page.keyboard.press("y")
        card = self.page.get_by_label("Fidelity", exact=True)
        card.get_by_role("button", name="Measure").click()
        expect(card.get_by_text("Texture kept")).to_be_visible(timeout=120_000)
        expect(card.get_by_role("listitem")).to_have_count(6)
        card.get_by_role("listitem").filter(has_text="Back at source size").get_by_role("button").first.click()
        expect(self.page.get_by_label("Zoom in percent")).to_have_value("100")
        self.page.reload()
        self.page.get_by_role("button", name="fidelity").click()
        expect(card.get_by_text("Texture kept")).to_be_visible()

    def test_what_was_delivered_has_been_measured_unasked(self) -> None:
        self.open_bench("Harbour wall 1988.jpg")
        self.page.keyboard.press("y")
        card = self.page.get_by_label("Fidelity", exact=True)
        expect(card.get_by_text("Texture kept")).to_be_visible(timeout=120_000)

    def test_a_result_made_elsewhere_is_laid_on_the_picture_as_a_row(self) -> None:
        board = self.open_board("Festival 2003 web.jpg")
        self.page.keyboard.press("k")
        with TemporaryDirectory() as folder:
            made = Path(folder) / "from the lab.png"
            with Image.open(REPOSITORY / "demo/pictures/Festival 2003 web.jpg") as source:
                source.resize((1600, 1200), Image.Resampling.BICUBIC).save(made)
            other = Path(folder) / "another.png"
            with Image.open(REPOSITORY / "demo/clean/loft-bench.jpg") as clean:
                clean.resize((640, 480)).save(other)
            board.get_by_label("File of a take made elsewhere").set_input_files(other)
            expect(self.page.get_by_text("does not show the same picture")).to_be_visible()
            board.get_by_label("File of a take made elsewhere").set_input_files(made)
            expect(board.get_by_role("rowheader").filter(has_text="from the lab")).to_contain_text("made elsewhere")
        steps = self.page.get_by_label("Steps")
        expect(steps.get_by_text("It has no steps; it is here to be compared.")).to_be_visible()
        expect(steps.get_by_text("add a step")).to_have_count(0)
        expect(self.page.get_by_role("button", name="Deliver")).to_be_disabled()
        expect(self.page.get_by_label("Size")).to_contain_text("1600 × 1200")
        board.get_by_label("More for take from the lab").click()
        expect(self.page.get_by_text("Duplicate", exact=True)).to_have_count(0)
        self.page.get_by_text("Discard", exact=True).click()
        expect(board.get_by_role("rowheader")).to_contain_text(["original", "A"])

    def test_four_panes_look_at_one_place_and_difference_and_clipping_are_told(self) -> None:
        self.open_board("Harbour wall 1988.jpg")
        self.page.keyboard.press("n")
        expect(self.page.get_by_label("Take", exact=True)).to_have_text("take C ▾")
        self.page.keyboard.press("v")
        self.page.keyboard.press("v")
        self.page.keyboard.press("3")
        self.page.get_by_role("button", name="four").click()
        panes = self.page.get_by_label("Pane", exact=False)
        expect(panes).to_have_count(4)
        self.wait_until_computed()
        # Takes C and A are alike, so their panes must show the same pixels; a pane may begin a pixel beside the other.
        first, third = (on_screen(self.page, panes.nth(index)) for index in (0, 2))
        part = first[60:150, 100:300]
        shifts = [(dy, dx) for dy in range(-2, 3) for dx in range(-2, 3)]
        alike = [(part == third[60 + dy : 150 + dy, 100 + dx : 300 + dx]).mean() for dy, dx in shifts]
        self.assertGreater(max(alike), 0.98)
        self.page.get_by_label("Zoom in percent").fill("150")
        self.page.get_by_label("Zoom in percent").press("Enter")
        expect(self.page.get_by_label("Zoom in percent")).to_have_value("150")
        self.page.get_by_role("button", name="one", exact=True).click()
        self.page.keyboard.press("2")
        self.page.keyboard.press("x")
        expect(self.page.get_by_label("Scale of the difference")).to_be_visible()
        expect(self.page.get_by_text("C − original, ×4")).to_be_visible()
        self.page.keyboard.press("w")
        expect(self.page.get_by_text("C − A, ×4")).to_be_visible()
        self.wait_until_computed()
        self.page.wait_for_timeout(300)
        grey = on_screen(self.page, self.page.locator(".view"))[100:250, 200:400]
        self.assertEqual((int(grey.min()), int(grey.max())), (128, 128))
        self.page.keyboard.press("h")
        expect(self.page.get_by_label("Histogram", exact=True).get_by_text("clipped")).to_be_visible()
