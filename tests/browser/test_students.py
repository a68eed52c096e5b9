"""What students do, from start to end, in a real browser; axe-core looks at every screen."""

from __future__ import annotations

import re
import unittest
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright

from gremba.actions.desk import Desk
from gremba.core.changes import Change, Kind, Request
from gremba.core.decision import decide
from gremba.demo.cast import PASSWORD
from gremba.demo.morning import SetClock
from gremba.demo.season import MORNING
from gremba.store.catalogue_cache import CatalogueCache
from gremba.store.database import connect, connected, rows
from gremba.store.situations import read_seats, read_situations
from tests.support.browser import FLAGS
from tests.support.servers import Server, new_database

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"

def sections_that_fit(url: str, username: str) -> tuple[list[str], str]:
    """Three sections that would go through one after another, and one that clashes with the
    first of them and with nothing else."""
    database = connect(url)
    desk = Desk(database, CatalogueCache(database), SetClock(MORNING))
    term = desk.term("harvest-2027")
    with connected(database):
        found = rows(database, "SELECT st.id FROM student_terms st JOIN persons p "
                     "ON p.id = st.student_id WHERE p.username = %s AND st.term_id = %s",
                     (username, term.id))  # fmt: skip
        row = found[0][0]
        seats = read_seats(database, {s.pool for s in term.sections})
        situation = read_situations(database, {row: term}, seats)[row]
        in_cart = [r[0] for r in rows(database, "SELECT s.reference_number FROM cart_changes c "
                   "JOIN sections s ON s.id = c.section_id WHERE c.student_term_id = %s "
                   "ORDER BY c.position", (row,))]  # fmt: skip
    database.close_all()
    chosen: list[str] = []
    clashing = ""

    def codes(numbers: list[str]) -> list[list[str]]:
        request = Request(tuple(Change(Kind.ADD, n) for n in numbers))
        outcomes = decide(situation, request, MORNING).outcomes
        return [[f.code for f in o.findings] for o in outcomes]

    for section in term.sections:
        if section.companions or section.bundle or not section.meetings:
            continue
        number = section.reference_number
        if number in in_cart or section.credits_for(None) > 3:
            continue
        if len(chosen) < 3 and codes([*chosen, number]) == [[]] * (len(chosen) + 1):
            chosen.append(number)
        elif len(chosen) == 3 and codes([number]) == [[]]:
            if codes([chosen[0], number]) == [[], ["time.conflict"]] and codes(
                [chosen[1], chosen[2], number]
            ) == [[], [], []]:
                clashing = number
                break
    return chosen, clashing


class Students(unittest.TestCase):
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        cls.url = new_database("demo")
        cls.server = Server(cls.url, demo=True)
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=FLAGS
        )

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        cls.server.stop()

    def open(self, username: str, width: int = 1280, height: int = 800) -> Page:
        """A page on which somebody has signed in; complaints of the browser fail the test."""
        context = self.browser.new_context(viewport={"width": width, "height": height})
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(20_000)
        self.complaints: list[str] = []
        page.on("pageerror", lambda e: self.complaints.append(str(e)))
        page.goto(self.server.url)
        page.get_by_label("Name").fill(username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in", exact=True).first.click()
        expect(page.get_by_role("heading", name="Week", exact=True)).to_be_visible()
        return page

    def look_for_barriers(self, page: Page, where: str) -> None:
        """WCAG 2.2 AA by axe-core: nothing serious."""
        page.evaluate(AXE.read_text())
        found = page.evaluate(
            "axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']})"
        )
        serious = [
            f"{v['id']}: {v['nodes'][0]['html'][:120]}"
            for v in found["violations"] if v["impact"] in ("serious", "critical")
        ]  # fmt: skip
        self.assertEqual(serious, [], where)
        self.assertEqual(self.complaints, [], where)

    def test_sign_in_page(self) -> None:
        page = self.browser.new_page()
        self.addCleanup(page.close)
        self.complaints = []
        page.goto(self.server.url)
        expect(page.get_by_text("Wren Halloway").first).to_be_visible()
        self.look_for_barriers(page, "sign-in")
        page.get_by_label("Name").fill("wren")
        page.get_by_label("Password").fill("wrong")
        page.get_by_role("button", name="Sign in", exact=True).first.click()
        expect(page.get_by_text("The name or the password is not right")).to_be_visible()

    def test_second_year_sees_why_registering_is_not_possible_yet(self) -> None:
        page = self.open("tobin")
        expect(page.get_by_test_id("window-state")).to_have_text(
            re.compile(r"Window opens in 00:\d\d:\d\d")
        )
        reasons = page.get_by_label("What stands in the way")
        expect(reasons).to_contain_text("Your window opens on Monday 19 April at 09:00")
        expect(reasons).to_contain_text("A workshop fee of 62.00 from Thaw 2027 is unpaid")
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("APIC 210 is in progress (Thaw 2027)")
        expect(cart).to_contain_text("your record shows a D+ in SOIL 110")
        expect(page.get_by_role("button", name="Nothing can go through yet")).to_be_disabled()
        self.look_for_barriers(page, "blocked cart")

    def test_third_year_registers_reorders_and_drops(self) -> None:
        (one, two, three), clashing = sections_that_fit(self.url, "wren")
        self.assertTrue(clashing)
        page = self.open("wren")
        take_out = page.get_by_role("button", name=re.compile("^Take .* out of the cart$"))
        for _ in range(take_out.count()):
            take_out.first.click()
            page.wait_for_timeout(300)
        page.keyboard.press("n")
        field = page.get_by_label("Reference numbers")
        expect(field).to_be_focused()
        # By keyboard alone from here: four numbers, of which the last clashes with the first.
        page.keyboard.insert_text(f"{one}, {two} {three};{clashing}")
        page.keyboard.press("Enter")
        expect(page.get_by_test_id(f"change-{clashing}")).to_contain_text("Stopped. Clashes with")
        expect(page.get_by_role("button", name="Put 3 changes through")).to_be_enabled()
        self.look_for_barriers(page, "cart with a clash")
        # Moved to the top it wins, and the other is stopped instead.
        handle = page.get_by_test_id(f"change-{clashing}").get_by_role("button").first
        handle.focus()
        for _ in range(3):
            page.keyboard.press("Alt+ArrowUp")
            page.wait_for_timeout(500)
        expect(page.get_by_test_id(f"change-{one}")).to_contain_text("Stopped. Clashes with")
        expect(page.get_by_test_id(f"change-{clashing}")).to_contain_text("Will go through")
        page.get_by_role("button", name="Put 3 changes through").press("Enter")
        outcome = page.get_by_test_id("outcome")
        expect(outcome).to_contain_text("3 changes went through.")
        for number in (two, three, clashing):
            expect(page.get_by_test_id(f"registered-{number}")).to_be_visible()
        expect(page.get_by_test_id(f"registered-{one}")).to_have_count(0)
        # The refused one is still in the cart, and so it is after a reload.
        page.reload()
        expect(page.get_by_test_id(f"change-{one}")).to_be_visible()
        page.keyboard.press("r")
        expect(page.get_by_role("heading", name="Receipts")).to_be_visible()
        self.look_for_barriers(page, "receipts")
        page.get_by_role("link", name=re.compile("^Receipt ")).first.click()
        expect(page.get_by_role("heading", name=re.compile(r"^Receipt \d+"))).to_be_visible()
        for number in (two, three, clashing):
            expect(page.get_by_role("main")).to_contain_text(number)
        self.look_for_barriers(page, "receipt")
        # Dropping goes through the cart too.
        page.keyboard.press("w")
        page.get_by_test_id(f"registered-{two}").get_by_role("button").click()
        expect(page.get_by_test_id(f"registered-{two}")).to_contain_text("drop is in the cart")
        page.get_by_role("button", name=re.compile("^Take .* out of the cart$")).first.click()
        page.get_by_role("button", name="Put 1 change through").click()
        expect(page.get_by_test_id("outcome")).to_contain_text("1 change went through.")
        expect(page.get_by_test_id(f"registered-{two}")).to_have_count(0)
        self.look_for_barriers(page, "week")

    def test_fourth_year_on_a_phone(self) -> None:
        page = self.open("isolde", 390, 844)
        page.get_by_role("link", name=re.compile("^Cart")).click()
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Stopped. Clashes with")
        cart.get_by_role("button", name=re.compile("^Drop .* in the same cart$")).click()
        expect(page.get_by_role("button", name="Put 2 changes through")).to_be_enabled()
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        self.look_for_barriers(page, "phone cart")

    def test_an_ended_session_in_mid_cart_loses_nothing(self) -> None:
        page = self.open("odo")
        field = page.get_by_label("Reference numbers")
        field.fill("30001 30002")
        database = connect(self.url)
        with connected(database):
            database.execute_sql("UPDATE sessions SET ended_at = now() WHERE person_id = "
                                 "(SELECT id FROM persons WHERE username = 'odo')")  # fmt: skip
        database.close_all()
        field.press("Enter")
        dialog = page.get_by_role("dialog", name="Your session has ended")
        expect(dialog).to_be_visible()
        dialog.get_by_label("Password").fill(PASSWORD)
        dialog.get_by_role("button", name="Sign in").click()
        expect(dialog).to_have_count(0)
        expect(field).to_have_value("30001 30002")
