"""A demo of its own in a real browser, for tests of what people do."""

from __future__ import annotations

import re
import unittest
from datetime import datetime
from pathlib import Path

from playwright.sync_api import Browser, BrowserContext, Page, Playwright, expect, sync_playwright

from gremba.actions.context import ActionContext
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.decision import decide
from gremba.demo.cast import PASSWORD
from gremba.demo.morning import SetClock
from gremba.demo.season import MORNING
from gremba.standins.clock import set_campus_time
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected, fetch_sql
from gremba.store.registration.situations import read_seats, read_situations
from tests.support.browser import FLAGS
from tests.support.servers import Server, new_database

_PATIENCE = 20_000
"""Milliseconds that are waited for anything in a page: the machine may do much else beside."""

expect.set_options(timeout=_PATIENCE)

AXE = Path(__file__).parents[2] / "frontend/node_modules/axe-core/axe.min.js"


def sections_that_fit(url: str, username: str) -> tuple[list[str], str]:
    """Three sections that would go through one after another, and one that clashes with the
    first of them and with nothing else."""
    database = connect(url)
    context = ActionContext(database, CatalogueCache(database), SetClock(MORNING))
    term = context.term("harvest-2027")
    with connected(database):
        found = fetch_sql(
            database,
            "SELECT st.id FROM student_terms st JOIN persons p "
            "ON p.id = st.student_id WHERE p.username = %s AND st.term_id = %s",
            (username, term.id),
        )
        row = found[0][0]
        seats = read_seats(database, {s.pool for s in term.sections})
        situation = read_situations(database, {row: term}, seats)[row]
        in_cart = [
            r[0]
            for r in fetch_sql(
                database,
                "SELECT s.reference_number FROM cart_changes c "
                "JOIN sections s ON s.id = c.section_id WHERE c.student_term_id = %s "
                "ORDER BY c.position",
                (row,),
            )
        ]
    database.close_all()
    chosen: list[str] = []
    clashing = ""

    def codes(numbers: list[str]) -> list[list[str]]:
        request = Request(tuple(Change(Kind.ADD, n) for n in numbers))
        outcomes = decide(situation, request, MORNING).outcomes
        return [[f.code for f in o.findings] for o in outcomes]

    for section in term.sections:
        if section.linked_sections or section.bundle or not section.meetings:
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


class BrowserTest(unittest.TestCase):
    """Serves a demo of its own, and opens pages on it."""

    database = "demo"
    url: str
    server: Server
    playwright: Playwright
    browser: Browser

    @classmethod
    def setUpClass(cls) -> None:
        cls.url = new_database(cls.database)
        if cls.database == "demo":
            # The campus clock goes on from where it was when the demo was made.
            cls.set_clock(MORNING)
        cls.server = Server(cls.url, demo=cls.database == "demo")
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.browser.close()
        cls.playwright.stop()
        cls.server.stop()

    def open(self, username: str, width: int = 1280, height: int = 800) -> Page:
        """A page on which somebody has signed in; complaints of the browser fail the test."""
        context = self.browser.new_context(viewport={"width": width, "height": height})
        self.addCleanup(context.close)
        page = self.new_page(context)
        page.goto(self.server.url)
        page.get_by_label("Name").fill(username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in", exact=True).first.click()
        expect(page.get_by_role("heading", level=1)).not_to_have_text("Sign in")
        return page

    def new_page(self, context: BrowserContext) -> Page:
        """A page whose complaints are noted."""
        page = context.new_page()
        page.set_default_timeout(_PATIENCE)
        self.complaints: list[str] = []
        page.on("pageerror", lambda e: self.complaints.append(str(e)))
        return page

    @classmethod
    def set_clock(cls, moment: datetime) -> None:
        """Move the campus clock, as somebody else would."""
        database = connect(cls.url)
        with connected(database):
            set_campus_time(database, moment)
        database.close_all()

    def look_for_barriers(self, page: Page, where: str) -> None:
        """WCAG 2.2 AA and best practices by axe-core, at the size that the page has: nothing at all."""
        page.evaluate(AXE.read_text())
        found = page.evaluate("axe.run(document, {})")
        barriers = [f"{v['id']}: {v['nodes'][0]['html'][:160]}" for v in found["violations"]]
        self.assertEqual(barriers, [], where)
        sideways = "document.documentElement.scrollWidth - document.documentElement.clientWidth"
        self.assertLessEqual(page.evaluate(sideways), 0, f"{where} scrolls sideways")
        self.assertEqual(self.complaints, [], where)

    def take_all_out(self, page: Page) -> None:
        """Empty the cart, change by change."""
        cart = page.get_by_role("complementary", name="Cart")
        changes = cart.get_by_test_id(re.compile("^change-")).first
        expect(changes.or_(cart.get_by_text("Type or paste the"))).to_be_visible()
        take_out = page.get_by_role("button", name=re.compile("^Take .* out of the cart$"))
        while take_out.count():
            before = take_out.count()
            take_out.first.click()
            expect(take_out).to_have_count(before - 1)
