"""Money in the browser: paying in parts, losing seats and asking them back, and the cashier's desk."""

from __future__ import annotations

import re
import tempfile
from datetime import timedelta
from pathlib import Path

from playwright.sync_api import Page, expect

from gremba.demo.season import MORNING
from gremba.demo.tariffs import DUE
from gremba.store.database import connect, connected, fetch_sql
from tests.support.browsing import BrowserTest

CARD = "9000000000000001"


class Account(BrowserTest):
    """In the order of their names: the clock goes on from one to the next."""

    def rows(self, sql: str, *values: object) -> list[tuple[object, ...]]:
        database = connect(self.url)
        with connected(database):
            found = fetch_sql(database, sql, values)
        database.close_all()
        return found

    def pay(self, page: Page, card: str = CARD) -> None:
        page.get_by_label("Card number").fill(card)
        page.get_by_role("button", name=re.compile("^Pay ")).click()

    def account_of(self, username: str) -> Page:
        page = self.open(username)
        page.get_by_role("link", name="Account").first.click()
        expect(page.get_by_role("heading", name="Account", level=1)).to_be_visible()
        return page

    def test_a_bram_joins_the_installments_pays_the_first_and_sees_his_seats_safe(self) -> None:
        self.set_clock(MORNING)
        page = self.account_of("bram")
        main = page.get_by_role("main")
        expect(page.get_by_test_id("due")).to_have_text("1,275.00")
        expect(main).to_contain_text("Until then your four seats are yours")
        expect(page.get_by_test_id("balance")).to_have_text("3,140.00")
        self.look_for_barriers(page, "account")
        main.get_by_role("button", name="another sum").click()
        main.get_by_label("Sum to pay").fill("12,50")
        expect(main).to_contain_text("Write it like 250 or 250.00.")
        main.get_by_role("button", name="in four parts").click()
        expect(main).to_contain_text("515.00 at once")
        self.look_for_barriers(page, "installments")
        main.get_by_role("button", name="Pay in four parts").click()
        expect(page.get_by_test_id("due")).to_have_text("515.00")
        expect(main).to_contain_text("is due now. Your four seats hang on it.")
        expect(main).to_contain_text("19 April: 515.00 due now")
        # Declined first: nothing is charged, and it can be tried again.
        main.get_by_role("button", name="Pay 515.00").click()
        expect(page.get_by_label("Card number")).to_be_visible()
        self.look_for_barriers(page, "the payment page")
        self.pay(page, "9000000000000019")
        expect(page.get_by_test_id("payment-told")).to_contain_text("Nothing was charged")
        main.get_by_role("button", name="Pay 515.00").click()
        self.pay(page)
        expect(page.get_by_test_id("payment-told")).to_contain_text("Paid. 515.00 is on your account.")
        expect(main).to_contain_text("Your four seats are safe.")
        expect(page.get_by_test_id("balance")).to_have_text("2,625.00")
        expect(page.get_by_test_id("line-entry")).to_contain_text("by card")
        # A drop in the cart tells what it brings back, and what is due then.
        page.get_by_role("link", name="Week").first.click()
        drop = page.get_by_role("button", name=re.compile("^Drop CHEM 330"))
        drop.click()
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("735.00 comes back until 27 Aug 24:00")
        expect(cart.get_by_role("row", name=re.compile("^Due 10 Sep"))).to_contain_text("515.00")
        page.goto(f"{self.server.url}/harvest-2027/account/print")
        expect(page.get_by_role("heading", name="Bram Oakes, Harvest 2027")).to_be_visible()
        self.look_for_barriers(page, "statement on paper")

    def test_b_unpaid_seats_are_warned_of_lost_and_asked_back_and_somebody_who_waits_gets_one(self) -> None:
        username, waiter, number = self.somebody_in_a_full_section()
        self.set_clock(DUE - timedelta(days=3) + timedelta(minutes=5))
        page = self.account_of(username)
        messages = page.get_by_role("link", name=re.compile(r"messages?$"))
        expect(messages).to_be_visible(timeout=20_000)
        messages.click()
        expect(page.get_by_role("main")).to_contain_text("your seats go to those who wait", timeout=20_000)
        page.get_by_role("link", name="Account").first.click()
        self.set_clock(DUE - timedelta(seconds=2))
        lost = page.get_by_test_id("lost")
        expect(lost).to_contain_text("Your seats were taken back", timeout=180_000)
        expect(lost).to_contain_text(number)
        self.look_for_barriers(page, "seats lost")
        # The head of the waitlist has it, or an offer of it.
        states: set[object] = set()
        for _ in range(120):
            states = {
                state
                for (state,) in self.rows(
                    "SELECT e.state FROM waitlist_entries e JOIN sections s ON s.id = e.section_id "
                    "WHERE e.student_term_id = %s AND s.reference_number = %s",
                    waiter,
                    number,
                )
            }
            if states & {"offered", "given"}:
                break
            page.wait_for_timeout(1_000)
        self.assertTrue(states & {"offered", "given"}, states)
        lost.get_by_role("button", name=re.compile("^Pay ")).click()
        self.pay(page)
        lost.get_by_role("button", name="Ask them back").click()
        # Some are had again; the one that somebody else has is told apart.
        expect(lost).to_contain_text("Went through", timeout=20_000)

    def somebody_in_a_full_section(self) -> tuple[str, object, str]:
        """Who is registered for a full section with somebody in line for it, and has paid nothing."""
        found = self.rows(
            """
            SELECT p.username, s.reference_number,
                   (SELECT e.student_term_id FROM waitlist_entries e
                    WHERE e.section_id = s.id AND e.state = 'waiting' ORDER BY e.id LIMIT 1) AS waiter
            FROM registrations r JOIN sections s ON s.id = r.section_id
            JOIN seat_pools o ON o.id = s.pool_id AND o.taken = o.seat_limit
            JOIN student_terms st ON st.id = r.student_term_id AND st.term_id = 3
            JOIN persons p ON p.id = st.student_id
            WHERE r.state = 'registered' AND s.component <> 'lab'
                AND NOT EXISTS (SELECT 1 FROM ledger_entries l WHERE l.student_term_id = st.id)
                AND NOT EXISTS (SELECT 1 FROM anticipated_payments m WHERE m.student_term_id = st.id)
                AND NOT EXISTS (SELECT 1 FROM holds h WHERE h.student_id = st.student_id)
                AND (SELECT count(*) FROM waitlist_entries e
                     WHERE e.section_id = s.id AND e.state = 'waiting') BETWEEN 1 AND 3
                AND (SELECT count(*) FROM registrations x
                     WHERE x.student_term_id = st.id AND x.state = 'registered') >= 4
            ORDER BY r.id LIMIT 1
            """
        )
        ((username, number, waiter),) = found
        return str(username), waiter, str(number)

    def test_c_the_cashier_undoes_a_wrong_entry_and_sees_what_the_cut_did(self) -> None:
        page = self.open("cass")
        self.look_for_barriers(page, "accounts")
        page.get_by_label("Student").fill("Bram")
        page.get_by_role("link", name="Bram Oakes").click()
        main = page.get_by_role("main")
        main.get_by_role("button", name="Post an entry").click()
        main.get_by_label("Sum", exact=True).fill("5150")
        main.get_by_label("In the words of the statement").fill("in cash")
        self.look_for_barriers(page, "the desk")
        main.get_by_role("button", name="Post 5,150.00").click()
        expect(page.get_by_test_id("owes")).to_contain_text("2,525.00 was paid too much")
        main.get_by_role("button", name=re.compile(r"^Undo entry")).click()
        main.get_by_label(re.compile("^Why entry")).fill("515.00 was meant.")
        main.get_by_role("button", name="Undo it").click()
        expect(page.get_by_test_id("balance")).to_have_text("2,625.00")
        expect(main.get_by_text("undone", exact=True)).to_have_count(2)
        page.get_by_role("link", name="Nonpayment").click()
        expect(page.get_by_test_id("nonpayment-done")).to_contain_text("dropped", timeout=180_000)
        main.get_by_role("button", name="View results").click()
        expect(main.get_by_role("table").first).to_contain_text("was due, 0.00 paid")
        self.look_for_barriers(page, "nonpayment")
        page.get_by_role("link", name="The day").click()
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "day.csv"
            file.write_text('id,student,kind,amount,what,reason\nT-1,bram,payment,"40,00",transfer,\n')
            main.get_by_label("File", exact=True).set_input_files(file)
            expect(main).to_contain_text("Line 2: Write the amount with a point")
            self.look_for_barriers(page, "the day")
            file.write_text("id,student,kind,amount,what,reason\nT-1,bram,payment,40.00,transfer,\n")
            main.get_by_label("File", exact=True).set_input_files(file)
            expect(main).to_contain_text("1 entry was taken over")

    def test_d_on_a_phone(self) -> None:
        page = self.open("bram")
        page.set_viewport_size({"width": 390, "height": 844})
        page.goto(f"{self.server.url}/harvest-2027/account")
        expect(page.get_by_test_id("balance")).to_be_visible()
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        self.look_for_barriers(page, "account on a phone")

    def test_e_from_another_site_one_is_still_signed_in(self) -> None:
        page = self.open("bram")
        # The same server by another name is another site, as a payment service or a mail is.
        page.goto(self.server.url.replace("127.0.0.1", "localhost"))
        page.evaluate(f"location.assign('{self.server.url}/harvest-2027/account')")
        expect(page.get_by_test_id("balance")).to_be_visible()
