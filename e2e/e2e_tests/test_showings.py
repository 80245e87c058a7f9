"""A showing is made, opened on a telephone by its passphrase, answered; what was said comes back, and the delivery goes on."""

from __future__ import annotations

import io
import re
from zipfile import ZipFile

from e2e_tests.base import BrowserTestCase, Page, expect
from e2e_tests.test_access import AXE, SERIOUS

JOB = "Tern Sands: catalogue and banner"
PICTURE = "Kite days poster.png"
TELEPHONE = {"width": 390, "height": 780}
#: What a page may weigh before its pictures, bytes.
LIGHT = 300_000


class ShowingsTest(BrowserTestCase):
    def client_page(self, path: str, **more: object) -> Page:
        """A browser of somebody who has the link and nothing else."""
        context = self.browser.new_context(**more)  # type: ignore[arg-type]
        self.addCleanup(context.close)
        context.set_default_timeout(30_000)
        page = context.new_page()
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("request", self._stays_here)
        page.goto(f"{self.application.address}{path}")
        return page

    def show(self, **filled: str) -> str:
        """Make a showing of one picture, by the dialog that is open; gives the path of its link."""
        page = self.page
        dialog = page.get_by_role("dialog", name="Make a showing")
        for box in dialog.get_by_role("checkbox", name=re.compile("^Show ")).all():
            box.set_checked(PICTURE in (box.get_attribute("aria-label") or ""))
        for label, text in filled.items():
            dialog.get_by_label(label.replace("_", " ")).fill(text)
        dialog.get_by_role("button", name="Make it: 1 picture").click()
        link = dialog.get_by_label("Link", exact=True).input_value()
        dialog.get_by_role("button", name="Done").click()
        return link.removeprefix(self.application.address)

    def test_a_client_approves_what_they_are_shown(self) -> None:
        page = self.page
        self.open_job(JOB)
        page.get_by_role("button", name="Make a showing").click()
        path = self.show(Passphrase="seven gulls", To_your_client="Please look at the tails.")
        showing = page.get_by_label("Showings", exact=True)
        expect(showing.get_by_text("not looked at yet")).to_be_visible(timeout=60_000)

        client = self.opened_on_a_telephone(path)
        self.answered_by_keys(client)
        self.seen_on_the_bench()

        # A second round keeps the first, which is answered no more.
        page.go_back()
        page.get_by_label(f"Next round of {JOB}").click()
        second = self.show()
        expect(page.get_by_label("Showings", exact=True).get_by_text("Ines Marlow asks for changes")).to_be_visible()
        client.reload()
        expect(client.get_by_text("There is a newer round of this showing")).to_be_visible()
        expect(client.get_by_role("button", name=f"Approve {PICTURE}")).to_have_count(0)
        again = self.client_page(second)
        again.get_by_role("button", name=f"Approve {PICTURE}").click(timeout=60_000)
        again.get_by_label("Your name").fill("Ines Marlow")
        again.get_by_role("button", name="Approve", exact=True).click()
        expect(again.get_by_text("Approved by Ines Marlow")).to_be_visible()
        page.reload()
        expect(page.get_by_text("approved by Ines Marlow").first).to_be_visible()
        expect(page.get_by_role("link", name="Download")).to_have_count(1, timeout=90_000)
        content = page.request.get(
            f"{self.application.address}/api{page.url.split(self.application.address)[1]}/bundle"
        ).body()
        with ZipFile(io.BytesIO(content)) as bundle:
            self.assertIn("By Ines Marlow", bundle.read("ledger.html").decode())

        # Closed, its link opens nothing.
        page.get_by_label(f"More about {JOB}").first.click()
        page.get_by_text("Close it now").click()
        again.reload()
        expect(again.get_by_role("alert")).to_contain_text("has been closed")

    def opened_on_a_telephone(self, path: str) -> Page:
        """The client's page, behind its passphrase, found usable."""
        client = self.client_page(path, viewport=TELEPHONE, has_touch=True)
        client.get_by_label("passphrase").fill("eight gulls")
        client.get_by_role("button", name="Open").click()
        expect(client.get_by_role("alert")).to_contain_text("not the passphrase")
        client.get_by_label("passphrase").fill("seven gulls")
        client.get_by_role("button", name="Open").click()
        expect(client.get_by_text("Please look at the tails.")).to_be_visible()
        expect(client.get_by_role("heading", name=PICTURE)).to_be_visible()
        expect(client.get_by_alt_text(f"{PICTURE}, after")).to_be_visible()
        wide = client.evaluate("() => document.documentElement.scrollWidth")
        self.assertLessEqual(wide, TELEPHONE["width"], "nothing has to be moved sideways")
        client.get_by_text("What was done to it").click()
        expect(client.get_by_text(re.compile("Brought to "))).to_be_visible()
        client.evaluate(AXE.read_text())
        self.assertEqual(client.evaluate(SERIOUS), [])
        return client

    def answered_by_keys(self, client: Page) -> None:
        """The divider, a note, moved a little, and the answer."""
        divider = client.get_by_label(f"How much of {PICTURE} is shown before")
        divider.focus()
        client.keyboard.press("Home")
        expect(divider).to_have_value("0")
        client.get_by_role("button", name="leave a note").press("Enter")
        client.get_by_label("What about it?").fill("This tail is torn.")
        client.get_by_label("Your name").fill("Ines Marlow")
        client.get_by_role("button", name=re.compile("Place of the note")).focus()
        client.keyboard.press("ArrowRight")
        client.get_by_role("button", name="Leave the note").press("Enter")
        expect(client.get_by_text("This tail is torn.")).to_be_visible()
        client.get_by_role("button", name=f"Ask for changes of {PICTURE}").click()
        client.get_by_label("What should change?").fill("Mend the tail.")
        client.get_by_role("button", name="Ask for changes", exact=True).click()
        expect(client.get_by_text("Changes asked for by Ines Marlow")).to_be_visible()

    def seen_on_the_bench(self) -> None:
        """What was said comes back: on the job, and as a pin with the note; a file waits for the client's word on these steps."""
        page = self.page
        page.reload()
        said = page.get_by_label("Showings", exact=True)
        expect(said.get_by_text("Ines Marlow asks for changes")).to_be_visible()
        expect(said.get_by_text("This tail is torn.")).to_be_visible()
        self.open_bench(PICTURE)
        expect(page.get_by_label("Note 1 of Ines Marlow: This tail is torn.").first).to_be_visible()
        page.keyboard.press("Shift+N")
        page.get_by_label("Note 1 is seen to").check()
        expect(page.get_by_label("Note 1 of Ines Marlow: This tail is torn.")).to_have_count(0)
        page.get_by_role("button", name="Deliver").first.click()
        dialog = page.get_by_role("dialog", name="Deliver")
        dialog.get_by_role("button", name="JPEG", exact=True).click()
        dialog.get_by_label("once the client approves").check()
        dialog.get_by_role("button", name="Deliver", exact=True).click()
        expect(dialog.get_by_text("waits for the client")).to_be_visible()
        dialog.get_by_role("button", name="Close").click()

    def test_the_page_is_light_and_knows_nothing_else(self) -> None:
        page = self.page
        self.open_job(JOB)
        page.get_by_role("button", name="Make a showing").click()
        path = self.show(Words_across_the_pictures="not for print")
        expect(page.get_by_label("Showings", exact=True).get_by_text("not looked at yet")).to_be_visible(timeout=60_000)
        client = self.client_page("/")
        fetched: set[str] = set()
        client.on("request", lambda asked: fetched.add(asked.url))
        client.goto(f"{self.application.address}{path}")
        expect(client.get_by_alt_text(f"{PICTURE}, after")).to_be_visible()
        client.wait_for_load_state("networkidle")
        pages = {url for url in fetched if url.startswith(f"{self.application.address}{path}") or "/assets/" in url}
        pages |= {url for url in fetched if "/api/" in url and not url.endswith(".jpg")}
        weight = {url: len(client.request.get(url).body()) for url in pages if f"{path}/pictures" not in url}
        self.assertGreater(len(weight), 3)
        self.assertLess(sum(weight.values()), LIGHT, weight)
        self.assertEqual([url for url in weight if "/api/" in url and "/api/shown/" not in url], [])
        # Nothing of the workshop opens without a sign-in.
        for address in ("/api/jobs", "/api/deliveries", "/api/queue", f"/api{path}/../../jobs"):
            self.assertIn(client.request.get(f"{self.application.address}{address}").status, (401, 404), address)
