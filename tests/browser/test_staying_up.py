"""Pages that stay up: what cannot be shown leaves the rest, nothing polls, and what changes elsewhere
comes by the stream."""

from __future__ import annotations

import json
import re

from playwright.sync_api import Page, Route, expect

from gremba.store.database import connect, connected, fetch_sql, run_sql
from tests.support.browsing import BrowserTest, sections_that_fit
from tests.support.signing_in import signed_in_client
from tests.support.soon import soon

TERM = "harvest-2027"


class StayingUp(BrowserTest):
    def sql(self, statement: str, *parameters: object) -> list[tuple[object, ...]]:
        """Ask the tables."""
        database = connect(self.url)
        with connected(database):
            found = fetch_sql(database, statement, parameters)
        database.close_all()
        return found

    def spoil(self, page: Page, path: str, **other: object) -> None:
        """Answers at this address lack what the page relies on."""

        def answer(route: Route) -> None:
            found = route.fetch()
            route.fulfill(response=found, body=json.dumps({**found.json(), **other}))

        page.route(path, answer)

    def test_a_cart_that_cannot_be_shown_leaves_the_rest(self) -> None:
        page = self.open("wren")
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart.get_by_role("table")).to_be_visible()
        self.spoil(page, f"**/api/terms/{TERM}/cart", changes=[{"id": 1}])
        page.reload()
        expect(cart).to_contain_text("The cart could not be shown")
        expect(page.get_by_role("heading", level=1)).to_contain_text("Week")
        page.get_by_role("link", name="Confirmations").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Confirmations")
        told = "SELECT detail FROM audit_entries WHERE kind = 'page failed' AND detail LIKE 'cart at %%'"
        soon(lambda: bool(self.sql(told)))
        self.assertIn(f"/{TERM}/schedule", str(self.sql(told)))
        page.unroute(f"**/api/terms/{TERM}/cart")
        cart.get_by_role("button", name="Load the page anew").click()
        expect(cart.get_by_role("table")).to_be_visible()

    def test_a_screen_that_cannot_be_shown_leaves_the_others_and_the_cart(self) -> None:
        page = self.open("wren")
        self.spoil(page, f"**/api/terms/{TERM}/confirmations", confirmations=[{"id": 1}])
        page.get_by_role("link", name="Confirmations").click()
        expect(page.get_by_role("alert")).to_contain_text("This screen could not be shown")
        expect(page.get_by_role("complementary", name="Cart").get_by_role("table")).to_be_visible()
        page.get_by_role("link", name="Week", exact=True).click()
        expect(page.get_by_role("alert")).to_have_count(0)
        expect(page.get_by_role("heading", level=1)).to_contain_text("Week")

    def test_a_frame_that_cannot_be_shown_says_so_and_has_a_way_on(self) -> None:
        page = self.open("wren")
        self.spoil(page, "**/api/session", person={"role": "student"}, terms=None)
        page.evaluate("document.getElementById('session')?.remove()")
        database = connect(self.url)
        with connected(database):
            # Whatever has the page ask who is signed in: here, that the clock was moved.
            run_sql(database, "UPDATE campus_clock SET campus_time = campus_time + interval '1 second'")
        database.close_all()
        expect(page.get_by_role("alert")).to_contain_text("This page could not be shown")
        page.unroute("**/api/session")
        page.get_by_role("link", name="To the first page").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Week")

    def test_nothing_polls(self) -> None:
        page = self.open("wren")
        expect(page.get_by_role("complementary", name="Cart").get_by_role("table")).to_be_visible()
        page.wait_for_timeout(2_500)
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        page.wait_for_timeout(12_000)
        self.assertEqual(asked, [])

    def test_what_is_done_in_another_window_comes_by_the_stream(self) -> None:
        (number, *_), _ = sections_that_fit(self.url, "wren")
        page = self.open("wren")
        expect(page.get_by_role("complementary", name="Cart").get_by_role("table")).to_be_visible()
        other = signed_in_client(self.server.url, "wren")
        self.addCleanup(other.close)
        other.post(f"/api/terms/{TERM}/cart/changes", json={"kind": "add", "text": number})
        expect(page.get_by_test_id(f"change-{number}")).to_be_visible()
        cart = other.get(f"/api/terms/{TERM}/cart").json()
        own = next(c["id"] for c in cart["changes"] if c["original"]["number"] == number)
        other.delete(f"/api/terms/{TERM}/cart/changes/{own}")
        expect(page.get_by_test_id(f"change-{number}")).to_have_count(0)

    def test_an_address_without_a_term_is_asked_for_once(self) -> None:
        page = self.open("wren")
        # What the page before still asks for is not what this one asks.
        page.goto("about:blank")
        asked: list[str] = []
        page.on("request", lambda request: asked.append(request.url))
        page.goto(f"{self.server.url}/harvest-2099/schedule")
        expect(page.get_by_test_id("not-found")).to_contain_text("There is no such term")
        page.wait_for_timeout(5_000)
        self.assertEqual([url for url in asked if "/api/" in url], [])
        page.goto(f"{self.server.url}/{TERM}/no-such-screen")
        expect(page.get_by_test_id("not-found")).to_contain_text("There is nothing at this address")
        self.look_for_barriers(page, "not found")
        page.get_by_role("link", name="To the first page").click()
        expect(page.get_by_role("heading", level=1)).to_contain_text("Week")

    def test_signed_out_everywhere_else(self) -> None:
        here, there = self.open("tobin"), self.open("tobin")
        here.get_by_role("button", name="Tobin Marsh").click()
        here.get_by_role("button", name="Where you are signed in").click()
        sheet = here.get_by_role("dialog", name="Where you are signed in")
        expect(sheet.get_by_role("listitem").filter(has_text=", here")).to_have_count(1)
        self.look_for_barriers(here, "sessions")
        sheet.get_by_role("button", name="Sign out everywhere else").click()
        expect(sheet).to_contain_text("You are signed in nowhere else.")
        expect(there.get_by_role("dialog", name="Your session has ended")).to_be_visible()
        there.get_by_label("Password").fill("orchard-gate")
        there.get_by_role("button", name="Sign in", exact=True).click()
        expect(there.get_by_role("dialog")).to_have_count(0)
        expect(there.get_by_role("heading", level=1)).to_contain_text("Week")

    def test_what_opens_below_a_button_closes_by_it_by_escape_and_by_a_press_elsewhere(self) -> None:
        page = self.open("wren")
        button = page.get_by_role("button", name=re.compile("^Campus clock"))
        opened = page.get_by_role("dialog", name="Campus clock")
        button.click()
        expect(opened).to_be_visible()
        button.click()
        expect(opened).to_have_count(0)
        button.focus()
        page.keyboard.press("Enter")
        expect(opened).to_be_visible()
        page.keyboard.press("Escape")
        expect(opened).to_have_count(0)
        expect(button).to_be_focused()
        button.click()
        page.get_by_role("heading", level=1).click()
        expect(opened).to_have_count(0)
