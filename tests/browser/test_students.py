"""What students do, from start to end, in a real browser; axe-core looks at every screen."""

from __future__ import annotations

import re

from playwright.sync_api import Page, Route, expect

from gremba.demo.cast import PASSWORD
from gremba.store.database import connect, connected
from tests.support.browsing import BrowserTest, sections_that_fit


class Students(BrowserTest):
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

    def test_what_has_changed_in_another_window_is_shown_before_anything_is_sent(self) -> None:
        (first, second, *_), _ = sections_that_fit(self.url, "wren")
        one = self.open("wren")
        self.take_all_out(one)
        self.enter(one, first)
        other = self.open("wren")
        send = other.get_by_role("button", name="Put 1 change through")
        expect(send).to_be_enabled()
        sent = self.keep_stale(other)
        self.enter(one, second)
        # A change that has failed some time before does not keep the cart from being sent.
        cart = other.get_by_role("complementary", name="Cart")
        other.route(
            "**/cart/mode",
            lambda route: route.fulfill(
                status=422,
                content_type="application/problem+json",
                body='{"title": "Not chosen", "detail": "Try once more.", "status": 422}',
            ),
        )
        cart.get_by_text("All or nothing").click()
        expect(cart).to_contain_text("Not chosen")
        send.click()
        expect(cart).to_contain_text("The cart has changed meanwhile")
        self.assertEqual(len(sent), 1)
        expect(other.get_by_test_id(f"change-{second}")).to_be_visible()
        expect(cart.get_by_test_id("outcome")).to_have_count(0)
        self.take_all_out(one)

    def keep_stale(self, page: Page) -> list[str]:
        """A window that has not heard of anything yet: what is faster than the stream. Gives what it
        sends; from then on it hears the truth."""
        address = f"{self.server.url}/api/terms/harvest-2027/cart"
        old = page.request.get(address).text()
        sent: list[str] = []

        def send(route: Route) -> None:
            sent.append(route.request.url)
            route.continue_()

        def read(route: Route) -> None:
            if sent:
                route.continue_()
            else:
                route.fulfill(content_type="application/json", body=old)

        page.route("**/submissions", send)
        page.route("**/harvest-2027/cart", read)
        return sent

    def enter(self, page: Page, number: str) -> None:
        page.get_by_label("Reference numbers").fill(number)
        page.keyboard.press("Enter")
        expect(page.get_by_test_id(f"change-{number}")).to_be_visible()

    def test_second_year_sees_why_registering_is_not_possible_yet(self) -> None:
        page = self.open("tobin")
        expect(page.get_by_test_id("window-state")).to_have_text(re.compile(r"Window opens in 00:\d\d:\d\d"))
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Your window opens on 19 Apr 09:00")
        reasons = page.get_by_label("What stands in the way")
        for reason in (
            "A workshop fee of 62.00 from Thaw 2027 is unpaid",
            "The registration agreement has not been accepted yet",
            "Your contact details are not confirmed",
        ):
            expect(reasons).to_contain_text(reason)
        expect(cart).to_contain_text("APIC 210 is in progress (Thaw 2027)")
        expect(cart).to_contain_text("your record shows a D+ in SOIL 110")
        expect(page.get_by_role("button", name=re.compile(r"^Window opens in"))).to_be_disabled()
        # The branch nearest to being met, point by point.
        stopped = cart.get_by_test_id(re.compile("^change-")).filter(has_text="SOIL 240 needs")
        stopped.get_by_text("What it needs, point by point").click()
        expect(stopped).to_contain_text("SOIL 110 with C or better: not met")
        self.look_for_barriers(page, "blocked cart")

    def test_third_year_registers_reorders_and_drops(self) -> None:
        (one, two, three), clashing = sections_that_fit(self.url, "wren")
        self.assertTrue(clashing)
        page = self.open("wren")
        self.take_all_out(page)
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
        expect(page.get_by_role("heading", name="Confirmations")).to_be_visible()
        self.look_for_barriers(page, "confirmations")
        page.get_by_role("link", name=re.compile("^Confirmation ")).first.click()
        expect(page.get_by_role("heading", name=re.compile(r"^Confirmation \d+"))).to_be_visible()
        for number in (two, three, clashing):
            expect(page.get_by_role("main")).to_contain_text(number)
        self.look_for_barriers(page, "confirmation")
        # Dropping goes through the cart too.
        page.keyboard.press("w")
        page.get_by_test_id(f"registered-{two}").get_by_role("button", name="Drop").click()
        expect(page.get_by_test_id(f"registered-{two}")).to_contain_text("drop is in the cart")
        page.get_by_role("button", name=re.compile("^Take .* out of the cart$")).first.click()
        page.get_by_role("button", name="Put 1 change through").click()
        expect(page.get_by_test_id("outcome")).to_contain_text("1 change went through.")
        expect(page.get_by_test_id(f"registered-{two}")).to_have_count(0)
        self.look_for_barriers(page, "week")

    def test_fourth_year_on_a_phone(self) -> None:
        page = self.open("isolde", 390, 844)
        page.get_by_role("link", name=re.compile("^Cart")).click()
        cart = page.get_by_role("main", name="Cart")
        expect(cart).to_contain_text("Stopped. Clashes with")
        expect(cart.get_by_role("button", name=re.compile("^Swap .* for it$"))).to_be_visible()
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
            database.execute_sql(
                "UPDATE sessions SET ended_at = now() WHERE person_id = "
                "(SELECT id FROM persons WHERE username = 'odo')"
            )
        database.close_all()
        field.press("Enter")
        dialog = page.get_by_role("dialog", name="Your session has ended")
        expect(dialog).to_be_visible()
        dialog.get_by_label("Password").fill(PASSWORD)
        dialog.get_by_role("button", name="Sign in").click()
        expect(dialog).to_have_count(0)
        # Entered before the page was told, they come back with a space behind them; else they never left.
        expect(field).to_have_value(re.compile("^30001 30002 ?$"))
