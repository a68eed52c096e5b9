"""On a slow line, at the pace of a hand, and with the answer lost: nothing typed is lost, nothing is
done twice, and nothing is taken that belongs to other words."""

from __future__ import annotations

import re
import time
from collections.abc import Callable
from contextlib import suppress

from playwright.sync_api import APIResponse, Error, Page, Route, expect

from gremba.store.database import connect, connected, fetch_sql
from tests.support.browsing import BrowserTest, sections_that_fit

TERM = "harvest-2027"


def pass_on(route: Route, found: APIResponse) -> None:
    """Answers with what the server said, where anybody still waits for it."""
    with suppress(Error):
        route.fulfill(response=found)


def slowed(seconds: float) -> Callable[[Route], None]:
    """Answers so much later."""

    def answer(route: Route) -> None:
        found = route.fetch()
        time.sleep(seconds)
        pass_on(route, found)

    return answer


def lose_first_answer(page: Page, path: str) -> None:
    """The server gets the first request to this address, and the page gets no answer to it."""
    lost: list[Route] = []

    def answer(route: Route) -> None:
        found = route.fetch()
        if lost or route.request.method == "GET":
            pass_on(route, found)
        else:
            lost.append(route)
            route.abort()

    page.route(path, answer)


# What is not an answer to a press is drawn by a message or a timer of the page, and a busy browser
# lets keys go before both.
DRAW_LATE = """() => {
    const post = MessagePort.prototype.postMessage;
    const wait = window.setTimeout;
    window.setTimeout = (call, delay, ...all) => wait(call, (delay || 0) + 400, ...all);
    MessagePort.prototype.postMessage = function (...all) {
        wait(() => post.apply(this, all), 400);
    };
}"""


class NumbersOneAfterAnother(BrowserTest):
    def test_all_are_taken_while_answers_are_slow(self) -> None:
        numbers, clashing = sections_that_fit(self.url, "wren")
        page = self.open("wren")
        cart = page.get_by_role("complementary", name="Cart")
        page.route(f"**/api/terms/{TERM}/cart/changes", slowed(0.7))
        field = page.get_by_label("Reference numbers", exact=True)
        field.click()
        for number in (*numbers, clashing):
            page.keyboard.type(number, delay=30)
            page.keyboard.press("Enter")
            expect(field).to_have_value("")
        expect(page.get_by_test_id("numbers-waiting")).to_contain_text(clashing)
        for number in (*numbers, clashing):
            expect(cart.get_by_test_id(f"change-{number}")).to_be_visible()
        expect(page.get_by_test_id("numbers-waiting")).to_have_count(0)
        expect(field).to_have_value("")

    def test_what_is_not_taken_comes_back_before_what_was_typed_since(self) -> None:
        page = self.open("odo")
        page.route(f"**/api/terms/{TERM}/cart/changes", slowed(0.7))
        field = page.get_by_label("Reference numbers", exact=True)
        field.click()
        for slip in ("99998", "99999"):
            page.keyboard.type(slip, delay=30)
            page.keyboard.press("Enter")
        page.keyboard.type("303", delay=30)
        expect(field).to_have_value("99998 99999 303")
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("99998 No section of Harvest 2027 has this number")
        expect(cart).to_contain_text("99999 No section of Harvest 2027 has this number")
        # Whoever types on behind what came back makes no one number of the two.
        field.fill("99997")
        page.keyboard.press("Enter")
        expect(field).to_have_value("99997 ")
        page.keyboard.type("303")
        expect(field).to_have_value("99997 303")

    def test_what_comes_back_is_kept_where_the_page_is_drawn_late(self) -> None:
        page = self.open("odo")
        page.route(f"**/api/terms/{TERM}/cart/changes", slowed(0.5))
        field = page.get_by_label("Reference numbers", exact=True)
        field.click()
        page.evaluate(DRAW_LATE)
        page.keyboard.type("99998")
        with page.expect_response(f"**/api/terms/{TERM}/cart/changes"):
            page.keyboard.press("Enter")
            page.keyboard.type("123456789012345678901234567890", delay=60)
        expect(field).to_have_value("99998 123456789012345678901234567890")

    def test_an_entry_without_an_answer_comes_back_and_does_no_harm_again(self) -> None:
        numbers, _ = sections_that_fit(self.url, "wren")
        page = self.open("tobin")
        lose_first_answer(page, f"**/api/terms/{TERM}/cart/changes")
        field = page.get_by_label("Reference numbers", exact=True)
        field.fill(numbers[0])
        page.keyboard.press("Enter")
        expect(field).to_have_value(f"{numbers[0]} ")
        page.keyboard.press("Enter")
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart.get_by_test_id(f"change-{numbers[0]}")).to_have_count(1)
        expect(cart).to_contain_text("is in your cart already")


_PRESS_ENTER_BEFORE_IT_IS_DRAWN = """() => {
  for (let n = 0; n < 3; n++)
    document.activeElement.dispatchEvent(
      new KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true })
    );
}"""


class WordsBeforeTheirList(BrowserTest):
    def test_timetables_take_the_course_that_was_typed_and_only_once(self) -> None:
        page = self.open("juniper")
        page.goto(f"{self.server.url}/{TERM}/timetables")
        page.get_by_role("button", name="Add a course").first.click()
        expect(page.get_by_role("combobox", name="A course")).to_be_focused()
        page.route(re.compile(r"/sections\?.*words="), slowed(1.0))
        page.keyboard.type("maps 130", delay=30)
        page.keyboard.press("Enter")
        page.keyboard.press("Enter")
        expect(page.get_by_text("MAPS 130 is wanted")).to_be_visible()
        page.keyboard.press("Enter")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("want="))
        self.assertEqual(re.findall(r"want=([A-Z]+\+\d+)", page.url), ["MAPS+130"])
        page.keyboard.type("soil 240", delay=30)
        expect(page.get_by_role("option", name="SOIL 240").first).to_be_visible()
        page.evaluate(_PRESS_ENTER_BEFORE_IT_IS_DRAWN)
        expect(page).to_have_url(re.compile("want=SOIL"))
        self.assertEqual(re.findall(r"want=([A-Z]+\+\d+)", page.url), ["MAPS+130", "SOIL+240"])

    def test_quick_search_waits_for_the_list_of_its_words(self) -> None:
        numbers, _ = sections_that_fit(self.url, "wren")
        page = self.open("wren")
        page.route(re.compile(r"/sections\?.*words="), slowed(1.0))
        page.keyboard.press("Control+k")
        expect(page.get_by_placeholder("A screen, a section")).to_be_focused()
        page.keyboard.type(numbers[0], delay=30)
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile(f"section={numbers[0]}"))


class LettersBeforeTheirField(BrowserTest):
    """What is typed before the field is there is typed into it: its script takes a second to come."""

    def open_slowly(self, path: str, login: str = "wren") -> Page:
        page = self.open(login)
        page.goto(f"{self.server.url}/{TERM}/{path}")
        expect(page.get_by_role("heading", level=1)).to_be_visible()
        page.wait_for_load_state("networkidle")
        page.route(re.compile(r"/assets/.*\.js"), slowed(1.0))
        return page

    def test_a_course_wanted(self) -> None:
        page = self.open_slowly("timetables", "juniper")
        page.get_by_role("button", name="Add a course").first.click()
        page.keyboard.type("soil 2400", delay=30)
        page.keyboard.press("Backspace")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("want="))
        self.assertEqual(re.findall(r"want=([A-Z]+\+\d+)", page.url), ["SOIL+240"])
        expect(page.get_by_role("combobox", name="A course")).to_have_value("")

    def test_quick_search(self) -> None:
        numbers, _ = sections_that_fit(self.url, "wren")
        page = self.open_slowly("schedule")
        page.keyboard.press("Control+k")
        page.keyboard.type(numbers[0], delay=30)
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile(f"section={numbers[0]}"))
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text(numbers[0])
        page.keyboard.press("Escape")
        expect(sheet).to_have_count(0)
        page.keyboard.press("Control+k")
        page.keyboard.press("Control+k")
        page.keyboard.type("week")
        expect(page.get_by_placeholder("A screen, a section")).to_have_value("week")

    def test_words_to_find(self) -> None:
        page = self.open_slowly("clearance")
        page.keyboard.press("/")
        page.keyboard.type("bees", delay=30)
        expect(page.get_by_role("searchbox")).to_have_value("bees")
        expect(page).to_have_url(re.compile("words=bees"))

    def test_a_number_to_swap_for(self) -> None:
        page = self.open_slowly("schedule")
        swap = page.get_by_role("button", name=re.compile("^Swap")).first
        swap.click()
        page.keyboard.type("30680", delay=30)
        expect(page.get_by_label("Or by its number")).to_have_value("30680")

    def test_escape_and_a_press_elsewhere_end_the_waiting(self) -> None:
        page = self.open_slowly("schedule")
        held: list[Route] = []
        goes_on = False

        def hold(route: Route) -> None:
            if goes_on:
                route.continue_()
            else:
                held.append(route)

        page.route(re.compile(r"/assets/.*\.js"), hold)
        page.keyboard.press("Control+k")
        page.keyboard.type("abc")
        page.keyboard.press("Escape")
        goes_on = True
        for route in held:
            route.continue_()
        expect(page.get_by_placeholder("A screen, a section")).to_have_value("")


class AnswersLost(BrowserTest):
    def count(self, sql: str, *values: object) -> int:
        database = connect(self.url)
        with connected(database):
            ((found,),) = fetch_sql(database, sql, values)
        database.close_all()
        return int(str(found))

    def pressed_twice(self, page: Page, button: str | re.Pattern[str]) -> None:
        """The answer to the first press is lost; it says so, and then the second has one."""
        press = page.get_by_role("main").get_by_role("button", name=button)
        told = page.get_by_role("main").get_by_role("status").filter(has_text="Press again")
        press.click()
        expect(told).to_be_visible()
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            press.click()
        expect(told).to_have_count(0)

    def test_an_entry_an_anticipated_payment_and_a_fee_hold_of_the_cashier(self) -> None:
        page = self.open("cass")
        page.get_by_label("Student").fill("Bram")
        page.get_by_role("link", name="Bram Oakes").click()
        main = page.get_by_role("main")
        lose_first_answer(page, "**/entries")
        main.get_by_role("button", name="Post an entry").click()
        main.get_by_label("Sum", exact=True).fill("12.34")
        self.pressed_twice(page, "Post 12.34")
        self.assertEqual(self.count("SELECT count(*) FROM ledger_entries WHERE amount_cents = 1234"), 1)
        lose_first_answer(page, "**/anticipated-payments")
        main.get_by_role("button", name="Anticipated payment", exact=True).click()
        main.get_by_label("Source").fill("A guild")
        main.get_by_label("Sum", exact=True).fill("23.45")
        self.pressed_twice(page, "Add anticipated payment")
        self.assertEqual(self.count("SELECT count(*) FROM anticipated_payments WHERE amount_cents = 2345"), 1)
        lose_first_answer(page, "**/fee-holds")
        main.get_by_label("Reason, as the student will read it").fill("A fee for a kiln.")
        main.get_by_label("Amount").fill("34.56")
        self.pressed_twice(page, "Place a fee hold")
        self.assertEqual(self.count("SELECT count(*) FROM holds WHERE reason = 'A fee for a kiln.'"), 1)

    def test_a_hold_and_rules_lifted_by_the_registrar(self) -> None:
        number = sections_that_fit(self.url, "wren")[0][0]
        page = self.open("maud")
        page.get_by_role("link", name="Students").click()
        page.get_by_label("Look for a student").fill("halloway")
        page.get_by_role("link", name="Wren Halloway").click()
        lose_first_answer(page, "**/holds")
        page.get_by_role("button", name="Place a hold").click()
        page.get_by_label("Reason, as the student will read it").fill("The library wants its map.")
        page.get_by_label("Where it is settled").fill("The library")
        self.pressed_twice(page, "Place the hold")
        told = "SELECT count(*) FROM holds WHERE reason = 'The library wants its map.'"
        self.assertEqual(self.count(told), 1)
        lose_first_answer(page, "**/lifted-rules")
        page.get_by_role("button", name="Lift a rule").click()
        page.get_by_label("Section").fill(number)
        page.get_by_role("group", name="What is lifted").get_by_role("checkbox").first.check()
        page.get_by_label("Why, as the student will read it").fill("Agreed with the department.")
        self.pressed_twice(page, "Lift it, once")
        told = (
            "SELECT count(*) FROM permission_codes c JOIN sections s ON s.id = c.section_id "
            "WHERE s.reference_number = %s AND c.is_grant"
        )
        self.assertEqual(self.count(told, number), 1)
