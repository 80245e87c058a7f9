"""Everybody can use it: nothing serious is found by axe on any page, in dark and in light, and the focus is never lost."""

from __future__ import annotations

from e2e_tests.base import REPOSITORY, BrowserTestCase, expect

AXE = REPOSITORY / "web" / "node_modules" / "axe-core" / "axe.min.js"
SERIOUS = """() => axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'best-practice'] }).then(({ violations }) =>
  violations.filter(({ impact }) => ['serious', 'critical'].includes(impact))
    .map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 120)).join(' | ')}`))"""


class AccessTest(BrowserTestCase):
    def nothing_serious(self, where: str) -> None:
        self.page.evaluate(f"{AXE.read_text()}; undefined")
        with self.subTest(where):
            self.assertEqual(self.page.evaluate(SERIOUS), [])

    def go_round(self) -> None:
        page = self.page
        for path in ("", "deliveries", "cards", "engines", "settings"):
            page.goto(f"{self.application.address}/{path}")
            expect(page.get_by_role("link", name="Deliveries")).to_be_visible()
            expect(page.get_by_role("heading", level=1).first).to_be_visible()
            page.wait_for_timeout(400)
            self.nothing_serious(path or "shelf")
        page.goto(self.application.address)
        self.open_job("Tern Sands: catalogue and banner")
        page.get_by_label("Open Kites in the wind.mp4").click()
        expect(page.get_by_text("frame 1 of 30")).to_be_visible()
        expect(page.get_by_role("button", name="Pull", exact=True).first).to_be_visible(timeout=60_000)
        self.nothing_serious("clip")
        page.goto(self.application.address)
        self.open_job("Tern Sands: exhibition")
        self.nothing_serious("job")
        self.open_bench("Harbour wall 1988.jpg")
        page.get_by_role("button", name="enlarge", exact=False).filter(has_text="faithful").click()
        page.keyboard.press("l")
        page.keyboard.press("v")
        page.wait_for_timeout(600)
        self.nothing_serious("bench")
        for key, dialog in (("d", "Deliver"), ("j", "Print planner"), ("?", "Keys")):
            page.keyboard.press(key)
            expect(page.get_by_role("dialog", name=dialog, exact=True)).to_be_visible()
            page.wait_for_timeout(500)
            self.nothing_serious(dialog)
            page.keyboard.press("Escape")
            expect(page.get_by_role("dialog")).to_have_count(0)

    def test_dark(self) -> None:
        self.go_round()

    def test_light(self) -> None:
        self.page.evaluate("localStorage.setItem('surround', 'paper')")
        self.go_round()

    def test_the_focus_stays_in_the_dialog_while_a_file_is_made_and_goes_back_after(self) -> None:
        page = self.page
        self.open_job("Tern Sands: exhibition")
        self.open_bench("Festival 2003 web.jpg")
        opener = page.get_by_role("button", name="Deliver")
        opener.focus()
        page.keyboard.press("Enter")
        dialog = page.get_by_role("dialog", name="Deliver", exact=True)
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        expect(dialog.get_by_text("Done:", exact=False)).to_be_visible(timeout=120_000)
        self.assertTrue(page.evaluate("document.querySelector('[role=dialog]').contains(document.activeElement)"))
        self.assertNotEqual(page.evaluate("document.activeElement.tagName"), "BODY")
        page.keyboard.press("Escape")
        expect(opener).to_be_focused()

    def test_a_password_is_changed_by_who_knows_the_old_one(self) -> None:
        self.page.goto(f"{self.application.address}/settings")
        form = self.page.get_by_role("form", name="Password")
        form.get_by_label("The one you sign in with now").fill("not this one")
        form.get_by_label("New password").fill("kites-over-the-dunes")
        form.get_by_label("The new one again").fill("kites")
        expect(form.get_by_text("Not the same as the new one.")).to_be_visible()
        expect(form.get_by_role("button", name="Change it")).to_be_disabled()
        form.get_by_label("The new one again").fill("kites-over-the-dunes")
        form.get_by_role("button", name="Change it").click()
        expect(form.get_by_role("alert")).to_have_text("This is not the password you sign in with now.")
