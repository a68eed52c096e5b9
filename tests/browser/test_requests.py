"""Asking somebody and answering, an advisor's day, and the same on a phone."""

from __future__ import annotations

import re
import tempfile
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, Route, expect

from gremba.demo.requests_of_cast import certificate
from gremba.demo.season import MORNING
from gremba.store.database import connect, connected, fetch_sql
from tests.support.browsing import BrowserTest


class Requests(BrowserTest):
    def setUp(self) -> None:
        self.set_clock(MORNING)

    def rows(self, sql: str, *values: Any) -> list[Any]:
        database = connect(self.url)
        with connected(database):
            found = fetch_sql(database, sql, values)
        database.close_all()
        return list(found)

    def somebody_who_asked(self, course: str) -> str:
        """The user name of the one of the crowd who asks Petra for a course."""
        subject, number = course.split()
        return str(
            self.rows(
                "SELECT p.username FROM permission_requests r JOIN student_terms st ON st.id = r.student_term_id "
                "JOIN persons p ON p.id = st.student_id JOIN sections s ON s.id = r.section_id "
                "JOIN courses c ON c.id = s.course_id "
                "WHERE c.subject = %s AND c.number = %s AND p.username <> 'isolde'",
                subject,
                number,
            )[0][0]
        )

    def late_adder(self) -> tuple[str, str]:
        """Somebody who could be added late to a class of Petra's in the running term, and the class."""
        username = self.somebody_who_asked("TXTL 230")
        self.rows("UPDATE permission_requests SET state = 'withdrawn' WHERE state = 'open' RETURNING id")
        return username, "10551"

    def card_of(self, page: Page) -> Any:
        """The request that was made last."""
        last = self.rows("SELECT max(id) FROM permission_requests")[0][0]
        return page.get_by_test_id(f"answer-{last}")

    def test_a_late_add_with_a_pdf_asked_back_granted_and_gone_through_by_itself(self) -> None:
        username, number = self.late_adder()
        student = self.open(username)
        student.goto(f"{self.server.url}/thaw-2027/schedule")
        self.take_all_out(student)
        student.get_by_label(re.compile("^Reference numbers")).fill(number)
        student.get_by_role("button", name="Add", exact=True).click()
        change = student.get_by_test_id(f"change-{number}")
        expect(change).to_contain_text("Stopped.")
        change.get_by_role("button", name="Ask Petra Lunn to allow it").click()
        asking = student.get_by_test_id("asking")
        expect(asking).to_contain_text("Who decides")
        expect(asking.get_by_role("button", name="Ask Petra Lunn")).to_be_disabled()
        self.look_for_barriers(student, "asking")
        words = asking.get_by_label("Your words to Petra Lunn")
        words.fill("I have been in every class since January.")
        # What is typed is there after a reload.
        student.reload()
        expect(asking.get_by_label("Your words to Petra Lunn")).to_have_value(re.compile("since January"))
        with tempfile.TemporaryDirectory() as folder:
            good, bad = Path(folder) / "attendance.pdf", Path(folder) / "attendance.docx"
            good.write_bytes(certificate())
            bad.write_bytes(b"PK")
            chooser = asking.get_by_label("Attach a PDF or a picture")
            chooser.set_input_files(str(bad))
            expect(asking).to_contain_text("is no PDF, PNG or JPEG")
            chooser.set_input_files(str(good))
            expect(asking).to_contain_text("attendance.pdf")
            asking.get_by_role("button", name="Ask Petra Lunn").click()
            mine = student.get_by_test_id(f"request-{number}")
            expect(mine).to_contain_text("With Petra Lunn since 19 Apr")
        expect(mine.get_by_role("link", name="attendance.pdf")).to_be_visible()

        petra = self.open("petra")
        petra.goto(f"{self.server.url}/teaching/thaw-2027/requests")
        expect(petra.get_by_role("main")).to_contain_text("1 student waits for an answer of yours.")
        name = str(self.rows("SELECT full_name FROM persons WHERE username = %s", username)[0][0])
        card = self.card_of(petra)
        expect(card).to_contain_text("A yes is all that is missing")
        self.look_for_barriers(petra, "requests to answer")
        with petra.expect_download() as download:
            card.get_by_role("link", name="attendance.pdf").click()
        self.assertEqual(Path(download.value.path()).read_bytes(), certificate())
        card.get_by_role("button", name=f"Ask back to {name}").click()
        card.get_by_label("Your question").fill("Who has seen you there?")
        card.get_by_role("button", name="Ask back", exact=True).click()
        expect(card).to_contain_text("A question to you")

        # The student's open page follows, without a reload.
        expect(mine).to_contain_text("Who has seen you there?")
        mine.get_by_label("Your answer").fill("All of the third bench.")
        mine.get_by_role("button", name="Answer").click()
        expect(mine).to_contain_text("With Petra Lunn")
        petra.reload()
        card.get_by_role("button", name=f"Yes to {name}").click()
        card.get_by_label("Words to the student, if you like").fill("So they have told me.")
        card.get_by_role("button", name="Say yes").click()
        petra.get_by_text("Answered lately, or with somebody else now").click()
        expect(self.card_of(petra)).to_contain_text("Yes, used on 19 Apr")

        expect(student.get_by_role("main")).to_contain_text(re.compile("[12] requests? that ha(s|ve) ended"))
        student.goto(f"{self.server.url}/thaw-2027/schedule")
        expect(student.get_by_test_id(f"registered-{number}")).to_be_visible()
        expect(student.get_by_role("complementary", name="Cart")).to_contain_text("Type or paste")

    def test_what_was_granted_stands_in_the_cart_with_one_press(self) -> None:
        page = self.open("isolde")
        granted = page.get_by_test_id(re.compile("^granted-"))
        expect(granted).to_contain_text("Petra Lunn has said yes")
        self.look_for_barriers(page, "granted")
        number = str(granted.get_attribute("data-testid")).removeprefix("granted-")
        granted.get_by_role("button", name="Put it through").click()
        expect(page.get_by_test_id("outcome")).to_contain_text("1 change went through.")
        expect(granted).to_have_count(0)
        page.keyboard.press("w")
        expect(page.get_by_test_id(f"registered-{number}")).to_be_visible()

    def test_idris_releases_twelve_and_agrees_a_plan(self) -> None:
        student = self.open("wren")
        student.goto(f"{self.server.url}/harvest-2027/plan")
        main = student.get_by_role("main")
        main.get_by_role("button", name="Write a plan").click()
        main.get_by_label("Course, or several with | between").fill("WSHD 260")
        main.get_by_role("button", name="Write this version").click()
        expect(main).to_contain_text("Version 1")

        page = self.open("idris")
        day = page.get_by_role("region", name="Who needs you now")
        boxes = day.get_by_role("checkbox", name=re.compile("^Release "))
        expect(boxes).to_have_count(12)
        self.look_for_barriers(page, "advising day")
        waiting = int(str(re.search(r"(\d+) students are not released", day.inner_text())[1]))  # type: ignore[index]
        for box in boxes.all():
            box.check()
        day.get_by_role("button", name="Release 12").click()
        expect(day).to_contain_text(f"{waiting - 12} students are not released")
        day.get_by_role("link", name="Wren Halloway has a plan to agree").click()
        page.get_by_role("button", name="Agree to it").click()
        expect(page.get_by_role("main")).to_contain_text("Agreed by both.")
        self.assertIn("Wren Halloway", page.title())

    def test_odo_is_released_right_on_his_clearance(self) -> None:
        page = self.open("idris")
        odo = self.rows("SELECT id FROM persons WHERE username = 'odo'")[0][0]
        page.goto(f"{self.server.url}/advising/{odo}/harvest-2027/clearance")
        expect(page.get_by_test_id("sentence")).to_contain_text("your release stand between Odo Fennick")
        release = page.get_by_test_id("item-release")
        release.get_by_role("button", name="Release").click()
        expect(release).to_contain_text("by Idris Quill")
        self.look_for_barriers(page, "acting, clearance")

    def test_on_a_phone(self) -> None:
        page = self.open("isolde", 390, 844)
        bar = page.get_by_role("banner")
        box = bar.bounding_box()
        assert box is not None
        self.assertLess(box["height"], 60, "one line")
        page.get_by_role("navigation", name="Screens and cart").get_by_role("link", name="Week").click()
        days = page.get_by_role("region", name="The days of this week")
        days.get_by_role("button", name=re.compile("^Tue")).click()
        expect(days.get_by_role("list")).to_contain_text("SMTH 205")
        self.look_for_barriers(page, "week on a phone")
        page.get_by_role("button", name="Isolde Brack").click()
        expect(page.get_by_role("dialog").get_by_label("Term")).to_be_visible()
        self.look_for_barriers(page, "session on a phone")
        page.keyboard.press("Escape")
        page.get_by_role("button", name="More").click()
        page.get_by_role("link", name="Requests").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Requests")
        self.look_for_barriers(page, "requests on a phone")
        page.goto(f"{self.server.url}/harvest-2027/cart")
        expect(page.get_by_role("heading", level=1)).to_have_text("Cart")
        self.look_for_barriers(page, "cart on a phone")

    def test_the_cart_can_be_used_however_little_of_it_is_seen(self) -> None:
        for width, height in ((640, 400), (320, 256), (844, 390)):
            page = self.open("wren", width, height)
            page.goto(f"{self.server.url}/harvest-2027/cart")
            change = page.get_by_test_id(re.compile("^change-")).first
            change.scroll_into_view_if_needed()
            box = change.bounding_box()
            assert box is not None
            self.assertGreater(box["height"], 40, (width, height))
            expect(change).to_be_in_viewport(ratio=0.9)
            self.look_for_barriers(page, f"cart at {width}x{height}")

    def keeps_its_focus(self, page: Page, when: str) -> None:
        """Asks where the focus is, and again once what was pressed has come to rest; a slow machine may take a while."""
        expect(page.locator(":focus"), when).to_have_count(1)
        page.wait_for_timeout(400)
        expect(page.locator(":focus"), when).to_have_count(1)

    def test_the_focus_is_never_lost(self) -> None:
        page = self.open("tobin")
        expect(page.get_by_test_id(re.compile("^change-")).first).to_be_visible()
        take_out = page.get_by_role("button", name=re.compile("^Take .* out of the cart$"))
        before = take_out.count()
        take_out.first.focus()
        page.keyboard.press("Enter")
        expect(take_out).to_have_count(before - 1)
        self.keeps_its_focus(page, "after taking out")
        # A sheet gives it back to where it was opened from.
        page.goto(f"{self.server.url}/harvest-2027/find?words=bees")
        page.wait_for_load_state("networkidle")
        link = page.get_by_test_id(re.compile("^section-")).first.get_by_role("link").first
        link.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_role("dialog")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        expect(link).to_be_focused()
        page.keyboard.press("Control+k")
        expect(page.get_by_role("dialog").get_by_role("combobox")).to_be_focused()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        expect(link).to_be_focused()
        # Adding: the button becomes a word, and the focus stays in the line.
        add = page.get_by_role("main").get_by_role("button", name=re.compile("^Add "))
        before = add.count()
        add.first.focus()
        page.keyboard.press("Enter")
        expect(add).to_have_count(before - 1)
        self.keeps_its_focus(page, "after adding")
        # Releasing, in an office.
        idris = self.open("idris")
        first = idris.get_by_test_id(re.compile("^advisee-")).first
        expect(first.get_by_role("button", name="Release")).to_be_visible()
        # By name: who is released moves down in the list.
        row = idris.get_by_test_id(str(first.get_attribute("data-testid")))
        held: list[Route] = []
        idris.route("**/release", lambda route: held.append(route))
        row.get_by_role("button", name="Release").focus()
        idris.keyboard.press("Enter")
        # While the answer is on its way nothing more can be pressed, and the focus stays all the same.
        expect(row.get_by_role("button", name="A moment")).to_be_focused()
        idris.keyboard.press("Enter")
        held[0].continue_()
        expect(row.get_by_role("button", name="Take back")).to_be_focused()
        self.assertEqual(len(held), 1)

    def test_keys_of_a_letter_can_be_switched_off(self) -> None:
        page = self.open("wren")
        page.keyboard.press("?")
        page.get_by_label("Keys of a single letter, such as n and /").uncheck()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
        page.keyboard.press("r")
        page.wait_for_timeout(300)
        self.assertNotIn("/confirmations", page.url)
        page.keyboard.press("Control+k")
        expect(page.get_by_role("dialog")).to_be_visible()

    def test_plain_words_become_chips_that_come_off_again(self) -> None:
        page = self.open("wren")
        page.keyboard.press("/")
        field = page.get_by_label("Words, a course, an instructor or a reference number")
        expect(field).to_be_focused()
        page.keyboard.type("evening tuesday")
        expect(page).to_have_url(re.compile("part=evening.*day=T|day=T.*part=evening"))
        expect(field).to_have_value("")
        page.get_by_role("button", name="Any time", exact=True).click()
        expect(page).not_to_have_url(re.compile("part="))
        field.fill("online")
        field.press("Enter")
        expect(page).to_have_url(re.compile("campus=online"))

    def test_a_visitors_press_is_in_the_cart_after_signing_in(self) -> None:
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(f"{self.server.url}/harvest-2027/find?words=felt")
        add = page.get_by_role("button", name=re.compile("^(Add|Wait) TXTL 120")).first
        number = add.inner_text().split()[-1]
        add.click()
        page.get_by_label("Name").fill("juniper")
        page.get_by_label("Password").fill("orchard-gate")
        page.get_by_role("dialog").get_by_role("button", name="Sign in").click()
        expect(page.get_by_test_id(f"change-{number}")).to_be_visible()
        self.assertNotIn("sign-in", page.url)
