"""The registrar prepares a term and opens it, changes a section of one that runs, and sees to a student."""

from __future__ import annotations

import re
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect

from gremba.demo.season import MORNING
from gremba.store.database import connect, connected, fetch_sql, run_sql
from tests.support.browsing import BrowserTest

BACK = "UPDATE terms SET state = 'in preparation', catalogue_version = catalogue_version + 1 WHERE code = 'thaw-2028'"


class Registrar(BrowserTest):
    def setUp(self) -> None:
        self.set_clock(MORNING)

    def run_sql(self, sql: str, *values: Any) -> None:
        database = connect(self.url)
        with connected(database):
            run_sql(database, sql, values)
        database.close_all()

    def value(self, sql: str, *values: Any) -> Any:
        database = connect(self.url)
        with connected(database):
            found = fetch_sql(database, sql, values)
        database.close_all()
        return found[0][0]

    def line(self, page: Page, title: str) -> Any:
        """A line of the check list."""
        return page.get_by_role("listitem").filter(has_text=title)

    def test_a_term_is_set_right_assigned_and_opened(self) -> None:
        # Other tests begin with the term that students register for.
        self.addCleanup(self.run_sql, BACK)
        page = self.open("maud")
        heading = page.get_by_role("heading", level=1)
        expect(heading).to_have_text("Harvest 2027")
        expect(page.get_by_text("Open: students see it")).to_be_visible()
        page.get_by_label("Term", exact=True).select_option(label="Thaw 2028 (in preparation)")
        expect(heading).to_have_text("Thaw 2028")
        expect(page.get_by_text("In preparation: only you see it.")).to_be_visible()
        outside = self.line(page, "Every section meets inside its session")
        expect(outside).to_contain_text("its session “first half” runs 17 January to 3 March")
        expect(self.line(page, "No room is used twice at once")).to_contain_text("Look at it")
        self.look_for_barriers(page, "term")

        # What is at fault leads to where it is mended.
        outside.get_by_role("link", name=re.compile(r"^\d{5}$")).click()
        expect(heading).to_have_text("Sections")
        expect(page.get_by_role("status")).to_have_text("1 section")
        self.look_for_barriers(page, "sections")
        page.get_by_role("button", name=re.compile("^Change 1")).click()
        sheet = page.get_by_role("dialog")
        sheet.get_by_label("Last day").fill("3 Mar 2028")
        self.look_for_barriers(page, "a section")
        sheet.get_by_role("button", name="Preview impact").click()
        expect(sheet).to_contain_text("0 registered")
        sheet.get_by_role("button", name="Change it").click()
        expect(sheet).to_be_hidden()

        page.get_by_role("link", name="Windows").click()
        expect(page.get_by_text("2,400 students are expected; none has a window yet.")).to_be_visible()
        page.get_by_label("First slots on").fill("18 Oct 2027")
        page.get_by_label("All close on").fill("12 Nov 2027")
        page.get_by_label("Seed of the draw").fill("chestnut")
        page.get_by_role("button", name="Look at it").click()
        preview = page.get_by_test_id("preview")
        expect(preview).to_contain_text("2,400 windows in 42 slots.")
        preview.get_by_text("As a table").click()
        rows = preview.get_by_role("row")
        expect(rows.nth(1)).to_have_text("18 Oct08:0081 credits and more60")
        self.look_for_barriers(page, "windows")
        preview.get_by_role("button", name="Publish them").click()
        expect(
            page.get_by_text("2,400 windows are published. Students are told when the term is opened.")
        ).to_be_visible()
        expect(page.get_by_text("2,400 students are expected; each has a window.")).to_be_visible()

        page.get_by_role("link", name="Term", exact=True).click()
        expect(self.line(page, "Every student has a window")).to_contain_text("In order")
        expect(self.line(page, "Every section meets inside its session")).to_contain_text("In order")
        wren = self.open("wren")
        expect(wren.get_by_label("Term", exact=True).get_by_role("option")).to_have_count(3)
        page.get_by_role("button", name="Open it", exact=True).click()
        asked = page.get_by_role("dialog")
        expect(asked).to_contain_text("No room is used twice at once")
        asked.get_by_role("button", name="Open it all the same").click()
        expect(page.get_by_text("Open: students see it")).to_be_visible()
        wren.reload()
        wren.get_by_label("Term", exact=True).select_option(label="Thaw 2028")
        expect(wren).to_have_url(re.compile("/thaw-2028/"))
        wren.get_by_role("link", name="Clearance").first.click()
        expect(wren.get_by_test_id("sentence")).to_contain_text(
            re.compile(r"Your window opens on \w+ \d+ October")
        )

    def test_a_past_term_is_carried_forward(self) -> None:
        page = self.open("maud")
        page.goto(f"{self.server.url}/office/thaw-2027")
        page.get_by_role("button", name="Carry it forward").click()
        sheet = page.get_by_role("dialog")
        name = sheet.get_by_label("Name of the new term")
        expect(name).to_have_value("Thaw 2028")
        self.look_for_barriers(page, "carry forward")
        sheet.get_by_role("button", name="Carry it forward").click()
        expect(sheet).to_contain_text("There is such a term already.")
        name.fill("Second Thaw 2028")
        sheet.get_by_role("button", name="Add a break").click()
        sheet.get_by_label("Break 1").fill("spring break")
        sheet.get_by_label("From").fill("6 Mar 2028")
        sheet.get_by_label("Through").fill("10 Mar 2028")
        sheet.get_by_role("button", name="Carry it forward").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Second Thaw 2028")
        expect(page.get_by_text("In preparation: only you see it.")).to_be_visible()
        expect(self.line(page, "Days and deadlines are in order")).to_contain_text("In order")
        page.get_by_role("link", name="Sections").first.click()
        expect(page.get_by_role("status")).to_have_text("483 sections")

    def test_a_folder_with_mistakes_is_told_and_changes_nothing(self) -> None:
        page = self.open("maud")
        page.get_by_role("link", name="In and out").click()
        self.look_for_barriers(page, "in and out")
        with tempfile.TemporaryDirectory() as held:
            packed = Path(held) / "courses.zip"
            with zipfile.ZipFile(packed, "w") as archive:
                archive.writestr(
                    "courses.csv", "subject,number,credits_least,credits_most,title\nSOYL,110,3,3,Soil\n"
                )
                archive.writestr("notes.csv", "a\n")
            page.get_by_label("Drop the folder here").set_input_files(packed)
        report = page.get_by_test_id("report")
        expect(report).to_contain_text("courses.zip: 1 mistake, nothing was changed")
        expect(report).to_contain_text("Not read, being no table of the folder: notes.csv")
        expect(report.get_by_role("row").nth(1)).to_have_text(
            "courses2subjectSOYLthere is no such subject; SOIL?"
        )
        expect(page.get_by_role("button", name="Take it over")).to_have_count(0)
        self.look_for_barriers(page, "mistakes")

    def test_a_folder_is_dropped(self) -> None:
        page = self.open("maud")
        page.get_by_role("link", name="In and out").click()
        area = page.get_by_text("Drop the folder here").locator("..")
        dropped = page.evaluate_handle(
            """() => {
                const data = new DataTransfer();
                data.items.add(new File(["no archive"], "papers.zip"));
                return data;
            }"""
        )
        area.dispatch_event("dragover", {"dataTransfer": dropped})
        expect(area).to_have_class(re.compile("bg-shade"))
        area.dispatch_event("drop", {"dataTransfer": dropped})
        expect(area).not_to_have_class(re.compile("bg-shade"))
        expect(page.get_by_role("main")).to_contain_text("This folder cannot be read.")

    def test_a_setting_is_changed_and_stands_in_the_record(self) -> None:
        page = self.open("maud")
        page.get_by_role("button", name="Change An offer is held").click()
        field = page.get_by_label("An offer is held")
        field.fill("200")
        page.get_by_role("button", name="Set it").click()
        # The browser itself says that it is too much.
        self.assertFalse(field.evaluate("input => input.validity.valid"))
        field.fill("48")
        page.get_by_role("button", name="Set it").click()
        expect(page.get_by_text("48 hours")).to_be_visible()
        page.get_by_role("link", name="Record").click()
        page.get_by_label("Look for words").fill("held 48")
        expect(page.get_by_role("row").nth(1)).to_contain_text("An offer is held: 24 hours → 48 hours")
        page.get_by_role("button", name="Verify that nothing was altered").click()
        expect(page.get_by_text(re.compile(r"entr(y is|ies are) as written"))).to_be_visible()
        self.look_for_barriers(page, "record")
        self.run_sql(
            "UPDATE terms SET policy = policy - 'offer_hours', catalogue_version = catalogue_version + 1"
        )

    def test_a_moved_section_tells_whom_it_reaches_and_reaches_an_open_page(self) -> None:
        number = self.value(
            "SELECT s.reference_number FROM sections s JOIN terms t ON t.id = s.term_id "
            "JOIN meetings m ON m.section_id = s.id JOIN registrations r ON r.section_id = s.id "
            "WHERE t.code = 'harvest-2027' AND m.weekdays = 'MW' AND r.state = 'registered' "
            "AND NOT s.cancelled GROUP BY s.id HAVING count(DISTINCT m.id) = 1 ORDER BY count(r.id) DESC LIMIT 1"
        )
        username = self.value(
            "SELECT p.username FROM registrations r JOIN sections s ON s.id = r.section_id "
            "JOIN student_terms st ON st.id = r.student_term_id JOIN persons p ON p.id = st.student_id "
            "WHERE s.reference_number = %s AND r.state = 'registered' ORDER BY r.id LIMIT 1",
            number,
        )
        student = self.open(username)
        student.goto(f"{self.server.url}/harvest-2027/schedule")
        row = student.get_by_test_id(f"registered-{number}")
        expect(row).to_contain_text("MW ")
        beside = self.open("maud")
        page = self.open("maud")
        for one in (beside, page):
            one.goto(f"{self.server.url}/office/harvest-2027/sections?number={number}")
        expect(beside.get_by_role("row").nth(1)).to_contain_text("MW ")
        page.get_by_role("button", name=f"Change {number}").click()
        sheet = page.get_by_role("dialog")
        sheet.get_by_label("Wed").uncheck()
        sheet.get_by_label("Sat").check()
        sheet.get_by_role("button", name="Preview impact").click()
        expect(sheet.get_by_test_id("told")).to_contain_text(re.compile(r"\d+ registered"))
        sheet.get_by_role("button", name="Change it").click()
        expect(sheet).to_be_hidden()
        # The page of the student is open all the while.
        expect(row).to_contain_text("MS ")
        # So is another one of the registrar's.
        expect(beside.get_by_role("row").nth(1)).to_contain_text("MS ")
        told = self.value(
            "SELECT count(*) FROM messages WHERE kind = 'section moved' AND facts->>'number' = %s", number
        )
        self.assertGreater(told, 0)

    def test_a_hold_and_an_exception_for_one_student(self) -> None:
        page = self.open("maud")
        page.get_by_role("link", name="Students").click()
        page.get_by_label("Look for a student").fill("halloway")
        page.get_by_role("link", name="Wren Halloway").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Wren Halloway")
        self.look_for_barriers(page, "a student")
        page.get_by_role("button", name="Place a hold").click()
        page.get_by_label("Reason, as the student will read it").fill("The library wants its atlas back.")
        page.get_by_label("Where it is settled").fill("The library")
        page.get_by_role("button", name="Place the hold").click()
        expect(page.get_by_text("The library wants its atlas back.", exact=True)).to_be_visible()
        wren = self.open("wren")
        wren.goto(f"{self.server.url}/harvest-2027/clearance")
        expect(wren.get_by_role("main")).to_contain_text("The library wants its atlas back.")
        page.get_by_role("button", name="Lift", exact=True).click()
        page.get_by_label("Why it is lifted").fill("The atlas is back.")
        page.get_by_role("button", name="Lift the hold").click()
        expect(page.get_by_role("button", name="Lift", exact=True)).to_have_count(0)
        # Her page hears of it.
        expect(wren.get_by_test_id("sentence")).to_contain_text("You are clear")
        page.get_by_role("link", name="See and act for them").click()
        expect(page.get_by_label("Acting for a student")).to_contain_text("Wren Halloway")
        expect(page.get_by_role("heading", level=1)).to_have_text("Week")
        page.get_by_role("link", name="Back", exact=True).click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Wren Halloway")

    def test_on_a_phone(self) -> None:
        page = self.open("maud", 390, 844)
        for path in ("", "/sections", "/windows", "/students", "/folder", "/record"):
            page.goto(f"{self.server.url}/office/thaw-2028{path}")
            expect(page.get_by_role("heading", level=1)).not_to_have_text("Term")
            self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390, path)
            self.look_for_barriers(page, f"{path} on a phone")
