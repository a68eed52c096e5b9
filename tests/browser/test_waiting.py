"""Waitlists in a real browser: an offer taken as a swap, one that lapses, a trade of two."""

from __future__ import annotations

import re
from contextlib import closing
from datetime import timedelta

from playwright.sync_api import expect

from gremba.actions.context import ActionContext
from gremba.core.registration.changes import Change, Kind, Request
from gremba.core.registration.decision import decide
from gremba.demo.morning import SetClock
from gremba.demo.season import MORNING, OFFER_UNTIL
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected, fetch_sql
from gremba.store.registration.situations import read_seats, read_situations
from tests.support.browsing import BrowserTest, sections_that_fit
from tests.support.campus import outcome
from tests.support.signing_in import signed_in_client

HARVEST = "/api/terms/harvest-2027"


class Waiting(BrowserTest):
    def ask(self, sql: str, *parameters: object) -> list[tuple[object, ...]]:
        database = connect(self.url)
        with connected(database):
            found = fetch_sql(database, sql, parameters)
        database.close_all()
        return found

    def test_a_an_offer_is_looked_at_and_taken_as_a_swap(self) -> None:
        page = self.open("isolde")
        expect(page.get_by_role("link", name=re.compile("^1 offer, 0[01]:"))).to_be_visible()
        page.keyboard.press("a")
        offer = page.get_by_test_id(re.compile("^place-")).filter(has_text="A seat is held for you")
        expect(offer).to_have_count(1)
        number = offer.get_by_role("link").first.inner_text()
        waiting = page.get_by_test_id(re.compile("^place-")).filter(has_text="waiting")
        expect(waiting.first).to_contain_text(re.compile(r"Number \d of \d"))
        self.look_for_barriers(page, "waitlists")
        offer.get_by_role("button", name="Look and accept").click()
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text("It would make 19 credits; your limit is 18.")
        expect(sheet.get_by_role("button", name="Accept")).to_be_disabled()
        options = sheet.get_by_label("Take it").locator("option")
        swap = next(o for o in options.all_inner_texts() if "SMTH 205" in o)
        sheet.get_by_label("Take it").select_option(label=swap)
        expect(sheet).to_contain_text("It would go through.")
        self.look_for_barriers(page, "an offer")
        sheet.get_by_role("button", name="Accept").click()
        expect(sheet).to_have_count(0)
        expect(page.get_by_text(re.compile("^1 offer"))).to_have_count(0)
        page.keyboard.press("w")
        expect(page.get_by_test_id(f"registered-{number}")).to_be_visible()
        expect(page.get_by_test_id("registered-30593")).to_have_count(0)
        page.get_by_role("link", name=re.compile("[Mm]essage")).first.click()
        expect(page.get_by_role("main")).to_contain_text("A seat for you in BAKE 101")
        self.look_for_barriers(page, "messages")

    def full_with_room_to_wait(self, username: str) -> str:
        """A full section whose waitlist somebody could join, and that nothing else could replace."""
        database = connect(self.url)
        self.addCleanup(database.close_all)
        context = ActionContext(database, CatalogueCache(database), SetClock(MORNING))
        term = context.term("harvest-2027")
        ((row,),) = self.ask(
            "SELECT st.id FROM student_terms st JOIN persons p ON p.id = st.student_id "
            "WHERE p.username = %s AND st.term_id = %s",
            username,
            term.id,
        )
        with connected(database):
            seats = read_seats(database, {s.pool for s in term.sections})
            situation = read_situations(database, {int(str(row)): term}, seats)[int(str(row))]
        for section in term.sections:
            if section.linked_sections or len(term.by_course[section.course.key]) > 1:
                continue
            added = Request((Change(Kind.ADD, section.reference_number),))
            (found,) = decide(situation, added, MORNING).outcomes
            ways = [way for f in found.findings for way in f.remedies]
            if [f.code for f in found.findings] == ["seat.full"] and "Wait for a seat" in ways[0].text:
                return section.reference_number
        self.fail("no such section")

    def test_d_a_full_section_in_the_cart_leads_to_its_waitlist_by_the_first_button(self) -> None:
        number = self.full_with_room_to_wait("isolde")
        page = self.open("isolde")
        page.get_by_label("Reference numbers", exact=True).fill(number)
        page.keyboard.press("Enter")
        change = page.get_by_test_id(f"change-{number}")
        expect(change).to_contain_text("Full:")
        first = change.get_by_role("listitem").first.get_by_role("button")
        expect(first).to_have_text(re.compile("^Wait for a seat: you would be number"))
        first.click()
        expect(change).to_contain_text("You would be number")
        page.get_by_role("complementary", name="Cart").get_by_role(
            "button", name=re.compile("^Put|^Send|wait", re.I)
        ).last.click()
        page.get_by_role("link", name="Waitlists").click()
        expect(page.get_by_test_id(re.compile("^place-")).filter(has_text=number)).to_be_visible()

    def test_b_an_offer_lapses_and_the_roster_says_who_is_next(self) -> None:
        # The instructor of a full section with some who wait sees their order.
        found = self.ask(
            "SELECT s.reference_number, p.id, s.pool_id FROM sections s "
            "JOIN seat_pools p ON p.id = s.pool_id JOIN terms t ON t.id = s.term_id "
            "WHERE t.code = 'harvest-2027' AND s.waitlist_way = 'offer' "
            "AND p.taken >= p.seat_limit AND NOT s.cancelled AND (SELECT count(*) FROM waitlist_entries w "
            "WHERE w.pool_id = p.id AND w.state = 'waiting') >= 2 AND NOT EXISTS (SELECT 1 FROM "
            "waitlist_entries w JOIN student_terms st ON st.id = w.student_term_id JOIN persons i "
            "ON i.id = st.student_id WHERE i.username = 'isolde' AND w.pool_id = p.id) "
            "ORDER BY s.id LIMIT 1"
        )
        number, pool, _ = found[0]
        first, second = (
            str(r[0])
            for r in self.ask(
                "SELECT p.full_name FROM waitlist_entries w JOIN student_terms st ON st.id = w.student_term_id "
                "JOIN persons p ON p.id = st.student_id WHERE w.pool_id = %s AND w.state = 'waiting' "
                "ORDER BY w.id LIMIT 2",
                pool,
            )
        )
        self.ask(
            "INSERT INTO section_instructors SELECT s.id, p.id FROM sections s, persons p "
            "WHERE s.reference_number = %s AND s.term_id = 3 AND p.username = 'petra' "
            "ON CONFLICT DO NOTHING RETURNING 1",
            number,
        )
        self.ask("UPDATE terms SET catalogue_version = catalogue_version + 1 RETURNING 1")
        page = self.open("petra")
        page.goto(f"{self.server.url}/teaching/harvest-2027/{number}")
        queue = page.get_by_role("list", name="Waiting, the next first").get_by_role("listitem")
        expect(queue.first).to_contain_text(f"{first}next, since")
        # A seat more is offered to the first; nobody answers in time, and the next is offered it.
        self.ask("UPDATE seat_pools SET seat_limit = seat_limit + 1 WHERE id = %s RETURNING 1", pool)
        expect(queue.first).to_contain_text(f"{first}offered a seat until", timeout=15_000)
        self.look_for_barriers(page, "a waitlist for its instructor")
        # So many seats more that the fourth-year's other place comes up as well; she lets it lapse.
        isolde = self.open("isolde")
        self.ask(
            "UPDATE seat_pools SET seat_limit = seat_limit + 9 WHERE id = (SELECT w.pool_id "
            "FROM waitlist_entries w JOIN student_terms st ON st.id = w.student_term_id JOIN persons p "
            "ON p.id = st.student_id WHERE p.username = 'isolde' AND w.state = 'waiting') "
            "RETURNING 1"
        )
        ((waited_for,),) = self.ask(
            "SELECT c.subject || ' ' || c.number FROM waitlist_entries w "
            "JOIN student_terms st ON st.id = w.student_term_id JOIN persons p ON p.id = st.student_id "
            "JOIN sections s ON s.id = w.section_id JOIN courses c ON c.id = s.course_id "
            "WHERE p.username = 'isolde' AND w.state IN ('waiting', 'offered')"
        )
        isolde.keyboard.press("a")
        entry = isolde.get_by_test_id(re.compile("^place-")).filter(has_text=str(waited_for))
        expect(entry).to_contain_text("A seat is held for you", timeout=15_000)
        self.set_clock(OFFER_UNTIL + timedelta(days=1))
        expect(queue.first).to_contain_text(f"{second}offered a seat until", timeout=20_000)
        expect(entry).to_have_count(0, timeout=15_000)
        isolde.get_by_text(re.compile("that ha(s|ve) ended")).click()
        expect(isolde.get_by_role("main")).to_contain_text(
            re.compile(rf"{waited_for}.* \d{{5}}: not answered in time")
        )

    def test_c_two_students_swap_through_a_trade(self) -> None:
        self.set_clock(OFFER_UNTIL - timedelta(hours=1))
        (one, two, *_), _ = sections_that_fit(self.url, "wren")
        # Wren has one of the two, and an early student the other; both sections are full.
        with closing(signed_in_client(self.server.url, "wren")) as wren:
            sent = {"changes": [{"kind": "add", "number": one}]}
            answer = wren.post(
                f"{HARVEST}/submissions", json=sent, headers={"Idempotency-Key": "trade-wren-has"}
            )
            self.assertEqual(outcome(answer), "a")
        holder = self.ask(
            "SELECT r.student_term_id FROM registrations r JOIN sections s ON s.id = r.section_id "
            "WHERE s.reference_number = %s AND r.state = 'registered' AND r.student_term_id <> "
            "(SELECT st.id FROM student_terms st JOIN persons p ON p.id = st.student_id WHERE "
            "p.username = 'wren' AND st.term_id = 3) ORDER BY r.id LIMIT 1",
            two,
        )[0][0]
        self.ask(
            "UPDATE seat_pools p SET seat_limit = p.taken + p.offered FROM sections s "
            "WHERE s.pool_id = p.id AND s.reference_number = ANY(%s) AND s.term_id = 3 "
            "RETURNING 1",
            [one, two],
        )
        self.ask(
            "UPDATE sections SET waitlist_limit = 20 WHERE reference_number = ANY(%s) RETURNING 1", [one, two]
        )
        self.ask(
            "INSERT INTO waitlist_entries (student_term_id, term_id, section_id, pool_id, state, joined_at, "
            "in_exchange_id) SELECT %s, 3, a.id, a.pool_id, 'waiting', now(), b.id "
            "FROM sections a, sections b WHERE a.reference_number = %s AND a.term_id = 3 "
            "AND b.reference_number = %s AND b.term_id = 3 RETURNING id",
            holder,
            one,
            two,
        )
        page = self.open("wren")
        self.take_all_out(page)
        page.goto(f"{self.server.url}/harvest-2027/find?section={two}")
        self.ask("UPDATE terms SET catalogue_version = catalogue_version + 1 RETURNING 1")
        with closing(signed_in_client(self.server.url, "wren")) as wren:
            sent = {"changes": [{"kind": "wait", "number": two, "in_exchange": one}]}
            answer = wren.post(
                f"{HARVEST}/submissions", json=sent, headers={"Idempotency-Key": "trade-wren-waits"}
            )
            self.assertEqual(outcome(answer), "w", answer.text)
        page.goto(f"{self.server.url}/harvest-2027/messages")
        expect(page.get_by_role("main")).to_contain_text("changed places in one step", timeout=15_000)
        page.keyboard.press("w")
        expect(page.get_by_test_id(f"registered-{two}")).to_be_visible()
        expect(page.get_by_test_id(f"registered-{one}")).to_have_count(0)
