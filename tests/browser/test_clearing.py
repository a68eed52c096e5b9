"""From a blocked morning to a full week: clearing, paying, being released, bundles, swaps."""

from __future__ import annotations

import re
from datetime import timedelta

from playwright.sync_api import expect

from gremba.demo.season import FIRST_YEARS_WINDOW, MORNING, TOBINS_WINDOW
from gremba.store.database import connect, connected, fetch_sql
from tests.support.browsing import BrowserTest, sections_that_fit


class Clearing(BrowserTest):
    def setUp(self) -> None:
        self.set_clock(MORNING)

    def one(self, sql: str) -> str:
        database = connect(self.url)
        with connected(database):
            found = fetch_sql(database, sql)
        database.close_all()
        return str(found[0][0])

    def test_second_year_clears_pays_watches_the_window_open_and_registers(self) -> None:
        page = self.open("tobin")
        reasons = page.get_by_label("What stands in the way")
        reasons.get_by_role("button", name=re.compile("^Pay 62.00")).click()
        sentence = page.get_by_test_id("sentence")
        expect(sentence).to_contain_text("1 hold, the agreement and your contact details stand")
        self.look_for_barriers(page, "clearance")
        main = page.get_by_role("main")
        main.get_by_role("button", name="Read and accept").click()
        accept = main.get_by_role("button", name="Accept the agreement")
        expect(accept).to_be_disabled()
        main.get_by_label("I have read it and agree.").check()
        accept.click()
        expect(page.get_by_test_id("item-agreement")).to_contain_text("done")
        main.get_by_role("button", name="Confirm or correct").click()
        main.get_by_label("Phone", exact=True).fill("555-0199")
        main.get_by_role("button", name="These are right").click()
        expect(page.get_by_test_id("item-details")).to_contain_text("done")
        main.get_by_role("button", name="Pay 62.00 and lift the hold").click()
        # Off to the payment service's own page, and back with a word on what became of it.
        for typed, said in (
            ("9000 0000 0000 0010", "has a slip in it"),
            ("9000 0000 0000 0019", None),
        ):
            page.get_by_label("Card number").fill(typed)
            expect(page.get_by_role("heading", name="62.00")).to_be_visible()
            self.look_for_barriers(page, "payment")
            page.get_by_role("button", name="Pay 62.00", exact=True).click()
            if said:
                expect(page.get_by_role("alert")).to_contain_text(said)
        expect(page.get_by_test_id("payment-told")).to_contain_text("Nothing was charged")
        main.get_by_role("button", name="Pay 62.00 and lift the hold").click()
        page.get_by_label("Card number").fill("9000 0000 0000 0035")
        page.get_by_role("button", name="Pay 62.00", exact=True).click()
        expect(page.get_by_test_id("payment-told")).to_contain_text("Paid. The hold is lifted.")
        expect(sentence).to_contain_text("You are clear. Your window opens on Monday 19 April")
        expect(reasons).to_have_count(0)
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Will go through on 19 Apr 09:00")
        # Some seconds before the minute; then the cart turns live by itself.
        self.set_clock(TOBINS_WINDOW - timedelta(seconds=15))
        # The server has heard of it when the page has.
        expect(page.get_by_role("button", name=re.compile("^Campus clock: .* 08:59"))).to_be_visible()
        page.reload()
        expect(page.get_by_role("button", name=re.compile("^Window opens in"))).to_be_disabled()
        put = page.get_by_role("button", name=re.compile(r"^Put \d changes? through"))
        expect(put).to_be_enabled(timeout=30_000)
        put.click()
        expect(page.get_by_test_id("outcome")).to_contain_text("went through.")
        page.keyboard.press("w")
        expect(page.get_by_test_id(re.compile("^registered-")).first).to_contain_text("APIC 310")

    def test_first_year_is_released_and_takes_the_bundle_with_linked_sections(self) -> None:
        odo = self.open("odo")
        cart = odo.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Idris Quill has not released you to register yet")
        # The advisor, in a browser of his own.
        idris = self.open("idris")
        idris.get_by_label("Name of a student").fill("fennick")
        row = idris.get_by_test_id("advisee-odo")
        row.get_by_role("button", name="Release").click()
        expect(row).to_contain_text("Released")
        self.look_for_barriers(idris, "advisor")
        # He sees the cart as Odo does.
        row.get_by_role("link", name="Odo Fennick").click()
        expect(idris.get_by_text("You see and act for")).to_contain_text("Odo Fennick")
        theirs = idris.get_by_role("complementary", name="Cart")
        expect(theirs).to_contain_text("Orientation is not finished")
        expect(theirs).to_contain_text("DAIR 120")
        self.look_for_barriers(idris, "acting for a student")
        # Odo finishes orientation, and the day comes.
        odo.keyboard.press("c")
        odo.get_by_role("button", name="Go through it").click()
        for _ in range(2):
            odo.get_by_role("button", name="Next page").click()
        odo.get_by_role("button", name="Finish").click()
        expect(odo.get_by_test_id("sentence")).to_contain_text("You are clear")
        self.set_clock(FIRST_YEARS_WINDOW + timedelta(minutes=1))
        odo.reload()
        # One of a bundle: the others are one press away.
        seminar = self.one(
            "SELECT s.reference_number FROM sections s JOIN bundles b ON b.id = s.bundle_id "
            "JOIN courses c ON c.id = s.course_id WHERE c.subject = 'SEMR' ORDER BY b.name LIMIT 1"
        )
        odo.get_by_label("Reference numbers").fill(seminar)
        odo.keyboard.press("Enter")
        change = odo.get_by_test_id(f"change-{seminar}")
        expect(change).to_contain_text("It is taken only together with")
        self.look_for_barriers(odo, "bundle")
        change.get_by_role("button", name="Add 2 sections of the bundle").click()
        # Sixteen credits are too many on probation: the fermenting waits for another term.
        expect(cart).to_contain_text("your limit is 13 on probation")
        expect(change).to_contain_text("Left as it is, because")
        ways = odo.get_by_role("button", name=re.compile("^Take FERM 110 .* out of the cart$"))
        ways.filter(has_text="Take FERM 110").first.click()
        expect(change).to_contain_text("Will go through")
        put = odo.get_by_role("button", name="Put 5 changes through")
        expect(put).to_be_enabled()
        put.click()
        expect(odo.get_by_test_id("outcome")).to_contain_text("5 changes went through.")
        odo.keyboard.press("w")
        expect(odo.get_by_role("main")).to_contain_text("SEMR 1")
        expect(odo.get_by_role("main")).to_contain_text("DAIR 120 lab")

    def test_third_year_swaps_and_adjusts(self) -> None:
        (wanted, *_), _ = sections_that_fit(self.url, "wren")
        page = self.open("wren")
        self.take_all_out(page)
        held = page.get_by_test_id(re.compile("^registered-")).filter(has_text="HIST 250")
        given_up = held.get_attribute("data-testid").removeprefix("registered-")  # type: ignore[union-attr]
        held.get_by_role("button", name="Swap HIST 250").click()
        # Others of the course drawn over the week, or any by its number.
        expect(held.get_by_role("group", name="Swap HIST 250 for")).to_be_visible()
        held.get_by_label("Or by its number").fill(wanted)
        held.get_by_role("button", name="Take it").click()
        expect(held).to_contain_text("swap is in the cart")
        change = page.get_by_test_id(f"change-{wanted}")
        expect(change).to_contain_text(f"Swap HIST 250 {given_up} for")
        expect(change).to_contain_text("Will go through")
        self.look_for_barriers(page, "swap")
        page.get_by_role("button", name="Put 1 change through").click()
        expect(page.get_by_test_id("outcome")).to_contain_text("1 change went through.")
        expect(page.get_by_test_id(f"registered-{given_up}")).to_have_count(0)
        moved = page.get_by_test_id(f"registered-{wanted}")
        expect(moved).to_be_visible()
        moved.get_by_role("button", name="Adjust").click()
        moved.get_by_label("Grading").select_option("pass/no pass")
        moved.get_by_role("button", name="Put it into the cart", exact=True).click()
        expect(page.get_by_test_id(f"change-{wanted}")).to_contain_text("Will go through")
        self.look_for_barriers(page, "adjusting")
        page.get_by_role("button", name="Put 1 change through").click()
        expect(page.get_by_test_id("outcome")).to_contain_text("1 change went through.")
        expect(moved).to_contain_text("pass/no pass")

    def test_a_consent_code_from_the_instructor_serves_a_student(self) -> None:
        petra = self.open("petra")
        # Wren has neither clay nor cloth on her record: such a section asks for more than she has.
        number = self.one(
            "SELECT s.reference_number FROM sections s JOIN courses c ON c.id = s.course_id "
            "JOIN section_instructors i ON i.section_id = s.id "
            "JOIN persons p ON p.id = i.person_id JOIN terms t ON t.id = s.term_id "
            "WHERE p.username = 'petra' AND t.code = 'harvest-2027' AND NOT s.cancelled "
            "AND c.requisites IS NOT NULL ORDER BY 1 LIMIT 1"
        )
        petra.get_by_role("listitem").filter(has_text=number).get_by_role("link").click()
        petra.get_by_label("Only for (user name)").fill("wren")
        petra.get_by_role("checkbox", name="requisites").check()
        petra.get_by_role("button", name="Give out a code").click()
        line = petra.get_by_role("listitem").filter(has_text="for Wren Halloway")
        expect(line).to_be_visible()
        self.look_for_barriers(petra, "instructor")
        code = line.locator("span").first.inner_text()
        self.assertRegex(code, r"^[A-Z0-9]{8}$")
        page = self.open("wren")
        page.get_by_label("Reference numbers").fill(number)
        page.keyboard.press("Enter")
        change = page.get_by_test_id(f"change-{number}")
        expect(change).to_contain_text(re.compile(r"[A-Z]{4} \d{3} needs "))
        change.get_by_role("button", name=re.compile("consent", re.I)).first.click()
        change.get_by_label("Permission code").fill(code.lower())
        change.get_by_role("button", name="Set").click()
        expect(change).to_contain_text("With the consent of Petra Lunn")
        expect(change).not_to_contain_text(re.compile(r"[A-Z]{4} \d{3} needs "))

    def test_the_cashier_places_and_lifts_a_hold(self) -> None:
        page = self.open("cass")
        page.get_by_label("Only with something open").uncheck()
        page.get_by_label("Student").fill("halloway")
        page.get_by_role("link", name="Wren Halloway").click()
        page.get_by_label("Reason, as the student will read it").fill("A kiln fee is unpaid.")
        page.get_by_label("Amount").fill("40")
        page.get_by_role("button", name="Place a fee hold").click()
        row = page.get_by_role("listitem").filter(has_text="A kiln fee is unpaid.")
        self.look_for_barriers(page, "cashier")
        row.get_by_role("button", name="Lift").click()
        row.get_by_label("Why it is lifted").fill("paid in cash")
        row.get_by_role("button", name="Lift the hold").click()
        expect(row).to_contain_text("lifted")
        expect(row).to_contain_text("paid in cash")
