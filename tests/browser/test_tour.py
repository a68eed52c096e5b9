"""The README's tour, followed in order on one demo: what it names is there, and does what it says."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from gremba.demo.cast import OFFICES, STUDENTS
from gremba.demo.season import FIRST_YEARS_WINDOW, MORNING, moments
from tests.support.browsing import BrowserTest

README = (Path(__file__).parents[2] / "README.md").read_text()
TOUR = README[README.index("## A tour") : README.index("| | |\n")]


def part(of: str) -> str:
    """The paragraph of the tour that begins with somebody."""
    return next(line for line in TOUR.splitlines() if line.startswith(f"- **{of}**"))


def quoted(of: str, after: str) -> str:
    """What stands in quotes, or as code, after some words of somebody's paragraph."""
    found = re.search(re.escape(after) + r' [`"]([^`"]+)[`"]', part(of))
    assert found, (of, after)
    return found[1]


class Tour(BrowserTest):
    def test_it_names_people_and_moments_that_there_are(self) -> None:
        for player in (*STUDENTS, *OFFICES):
            self.assertIn(f"(`{player.username}`)", TOUR)
        known = {name for name, _ in moments()}
        named = set(re.findall(r'(?:to|back to) "([^"]+)"', TOUR))
        self.assertEqual(named - known, set())
        self.assertGreaterEqual(len(named), 5)

    def test_followed_in_order(self) -> None:
        self.set_clock(MORNING)
        self.anybody()
        self.wren()
        self.isolde()
        self.odo()
        self.petra()

    def anybody(self) -> None:
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.server.url)
        page.get_by_role("link", name="Look through the sections without signing in").click()
        page.get_by_role("searchbox").fill(quoted("Anybody", "Type"))
        expect(page).to_have_url(re.compile("part=evening"), timeout=15_000)
        expect(page).to_have_url(re.compile("seats=open"))
        expect(page.get_by_test_id(re.compile("^section-")).first).to_be_visible()

    def wren(self) -> None:
        page = self.open("wren")
        expect(page.get_by_test_id(re.compile("^change-")).first).to_be_visible()
        page.keyboard.press("n")
        expect(page.get_by_label("Reference numbers")).to_be_focused()
        pasted = quoted("Wren", "paste")
        page.keyboard.insert_text(pasted)
        page.keyboard.press("Enter")
        through, over, clashing = re.findall(r"\d{5}", pasted)
        expect(page.get_by_test_id(f"change-{through}")).to_contain_text("Will go through")
        expect(page.get_by_test_id(f"change-{over}")).to_contain_text("your limit is 18")
        expect(page.get_by_test_id(f"change-{clashing}")).to_contain_text("Clashes with SOIL 140 " + through)
        page.get_by_role("button", name=re.compile(r"^Put \d changes through$")).click()
        expect(page.get_by_test_id(f"registered-{through}")).to_be_visible()
        page.keyboard.press("/")
        expect(page.get_by_role("searchbox")).to_be_focused()
        page.keyboard.insert_text(quoted("Wren", "and type"))
        expect(page.get_by_role("main")).to_contain_text(re.compile("beekeeping", re.I))
        page.get_by_role("button", name="Fits my week").click()
        expect(page).to_have_url(re.compile("fits="))
        page.keyboard.press("w")
        page.get_by_test_id(re.compile("^registered-")).filter(has_text="HIST 250").get_by_role(
            "button", name="Swap HIST 250"
        ).click()
        expect(page.get_by_role("group", name="Swap HIST 250 for")).to_be_visible()

    def isolde(self) -> None:
        page = self.open("isolde")
        expect(page.get_by_role("banner")).to_contain_text(re.compile("offer", re.I))
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Petra Lunn")
        expect(cart).to_contain_text("Clashes with")
        expect(cart.get_by_role("button", name=re.compile("^Swap .* for it$"))).to_be_visible()
        page.keyboard.press("a")
        page.get_by_role("button", name="Look and accept").click()
        expect(page.get_by_role("dialog")).to_contain_text("your limit is")

    def odo(self) -> None:
        idris = self.open("idris")
        idris.get_by_test_id("advisee-odo").get_by_role("button", name="Release").click()
        page = self.open("odo")
        page.keyboard.press("c")
        page.get_by_role("button", name="Go through it").click()
        for _ in range(2):
            page.get_by_role("button", name="Next page").click()
        page.get_by_role("button", name="Finish").click()
        self.set_clock(FIRST_YEARS_WINDOW)
        page.reload()
        seminar = quoted("Odo", "enter")
        page.get_by_label("Reference numbers").fill(seminar)
        page.keyboard.press("Enter")
        change = page.get_by_test_id(f"change-{seminar}")
        change.get_by_role("button", name=re.compile(r"^Add 2 sections of the bundle")).click()
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("your limit is 13 on probation")
        way = cart.get_by_role("button", name=re.compile("^Take FERM 110 .* out of the cart$"))
        way.filter(has_text="Take FERM 110").first.click()
        expect(page.get_by_role("button", name="Put 5 changes through")).to_be_enabled()

    def petra(self) -> None:
        self.set_clock(MORNING)
        page = self.open("petra")
        page.goto(f"{self.server.url}/teaching/harvest-2027/requests")
        cards = page.get_by_test_id(re.compile(r"^answer-\d+$"))
        expect(cards).to_have_count(3)
        number = quoted("Petra", "open CERM 260")
        page.goto(f"{self.server.url}/teaching/harvest-2027")
        page.get_by_role("listitem").filter(has_text=number).get_by_role("link").click()
        page.get_by_label("Only for (user name)").fill("wren")
        give = page.get_by_role("button", name="Give out a code")
        expect(give).to_be_disabled()
        page.get_by_role("checkbox", name="requisites").check()
        give.click()
        line = page.get_by_role("listitem").filter(has_text="for Wren Halloway")
        code = line.locator("span").first.inner_text()
        self.use(self.open("wren"), number, code)

    def use(self, page: Page, number: str, code: str) -> None:
        page.get_by_label("Reference numbers").fill(number)
        page.keyboard.press("Enter")
        change = page.get_by_test_id(f"change-{number}")
        expect(change).to_contain_text("CERM 260 needs")
        change.get_by_role("button", name=re.compile("consent", re.I)).first.click()
        change.get_by_label("Consent code").fill(code.lower())
        change.get_by_role("button", name="Set").click()
        expect(change).not_to_contain_text("CERM 260 needs")
