"""From a question to a full cart and a week to keep, in a real browser."""

from __future__ import annotations

import re
from contextlib import closing

from playwright.sync_api import BrowserContext, Page, expect

from gremba.demo.cast import PASSWORD
from tests.support.browsing import BrowserTest, sections_that_fit
from tests.support.campus import outcome
from tests.support.signing_in import signed_in_client

FIND = "/harvest-2027/find"
SECTION = re.compile(r"^section-\d{5}$")


class Finding(BrowserTest):
    def visit(self, path: str, width: int = 1280) -> Page:
        """A page of somebody who is not signed in."""
        context = self.browser.new_context(viewport={"width": width, "height": 800})
        self.addCleanup(context.close)
        page = context.new_page()
        page.set_default_timeout(20_000)
        self.complaints: list[str] = []
        page.on("pageerror", lambda e: self.complaints.append(str(e)))
        page.goto(f"{self.server.url}{path}")
        return page

    def choose(self, page: Page, chip: str, value: str) -> None:
        """Open a filter and choose a value."""
        page.get_by_role("search").get_by_role("button", name=chip, exact=True).click()
        page.get_by_role("dialog").get_by_label(re.compile(f"^{value}")).check()
        page.keyboard.press("Escape")

    def test_an_anonymous_visitor_finds_an_evening_in_the_first_half(self) -> None:
        page = self.visit("/")
        page.get_by_role("link", name="Look through the sections").click()
        expect(page.get_by_role("heading", name="Find sections")).to_be_visible()
        expect(page.get_by_test_id(SECTION).first).to_be_visible()
        self.choose(page, "Time", "evening")
        self.choose(page, "Weeks", "first half")
        expect(page).to_have_url(re.compile("part=evening.*session=first"))
        found = page.get_by_test_id(SECTION)
        expect(found.first).to_contain_text(re.compile(r"(MW|TR) 17:30–19:20"))
        for line in found.all():
            expect(line).to_contain_text("23 Aug – 15 Oct")
        self.look_for_barriers(page, "find")
        # The address holds the filters: it can be sent to somebody.
        again = self.visit(page.url.removeprefix(self.server.url))
        expect(again.get_by_test_id(SECTION)).to_have_count(found.count())
        number = found.first.get_by_role("link").inner_text()[:5]
        found.first.get_by_role("link").click()
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text("Add until 25 Aug")
        expect(page).to_have_url(re.compile(f"section={number}"))
        self.look_for_barriers(page, "section sheet")
        page.go_back()
        expect(sheet).to_have_count(0)
        # Adding asks to sign in, over the page; what was looked for stays.
        found.first.get_by_role("button", name=re.compile("^(Add|Wait)")).click()
        page.get_by_label("Name").fill("wren")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("dialog").get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("complementary", name="Cart")).to_be_visible()
        expect(page).to_have_url(re.compile("part=evening.*session=first"))
        expect(page.get_by_test_id(f"section-{number}")).to_be_visible()

    def test_odd_addresses_and_filters_that_exclude_one_another(self) -> None:
        page = self.visit(f"{FIND}?colour=blue&subject=NONE&number=1(2&words=beekeping")
        for told in (
            "a filter “colour” that there is not",
            "“NONE” is no subject",
            "A course number has figures",
            "taken for beekeeping",
        ):
            expect(page.get_by_role("main")).to_contain_text(told)
        page.goto(f"{self.server.url}{FIND}?subject=SMTH&delivery=online any time")
        page.get_by_role("button", name=re.compile("^Without “delivery”: ")).click()
        expect(page.get_by_test_id(SECTION).first).to_be_visible()
        page.goto(f"{self.server.url}{FIND}?words={'x' * 20_000}")
        expect(page.get_by_role("main")).to_contain_text("That is too much to look for")
        page.get_by_role("button", name="Clear all filters").click()
        expect(page.get_by_test_id(SECTION).first).to_be_visible()
        page.goto(f"{self.server.url}{FIND}?section=99999")
        expect(page.get_by_role("dialog")).to_contain_text("has no section 99999")
        self.assertEqual(self.complaints, [])

    def test_third_year_from_words_to_a_full_cart_by_keyboard_alone(self) -> None:
        page = self.open("wren")
        self.take_all_out(page)
        (one, two, *_), _ = sections_that_fit(self.url, "wren")
        page.keyboard.press("/")
        words = page.get_by_label(re.compile("^Words, a course"))
        expect(words).to_be_focused()
        page.keyboard.type("beekeping")
        expect(page.get_by_role("main")).to_contain_text("taken for beekeeping")
        expect(page.get_by_test_id(SECTION).first).to_contain_text(re.compile("fits|clashes|tight|no set"))
        # A reference number goes straight to its section.
        words.press("Control+a")
        page.keyboard.type(one)
        expect(page.get_by_text(f"Enter opens {one}")).to_be_visible()
        page.keyboard.press("Enter")
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text("For you: will go through")
        sheet.get_by_role("button", name=re.compile("^Star")).press("Enter")
        expect(sheet.get_by_role("button", name="Starred")).to_be_visible()
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        expect(sheet).to_contain_text("In your cart.")
        page.keyboard.press("Escape")
        expect(page.get_by_test_id(f"change-{one}")).to_be_visible()
        # The palette reaches the other one.
        page.keyboard.press("Control+k")
        palette = page.get_by_role("dialog", name="Go to, find or do")
        expect(palette.get_by_role("combobox")).to_be_focused()
        page.keyboard.type(two)
        expect(palette.get_by_role("option", name=re.compile(f"^{two}"))).to_be_visible()
        self.look_for_barriers(page, "palette")
        page.keyboard.press("Enter")
        add = sheet.get_by_role("button", name=re.compile("^Add")).first
        expect(add).to_be_visible()
        for _ in range(6):
            if add.evaluate("button => button === document.activeElement"):
                break
            page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        expect(sheet).to_contain_text("In your cart.")
        page.keyboard.press("Escape")
        expect(page.get_by_role("button", name="Put 2 changes through")).to_be_enabled()
        # What was starred is found again.
        page.keyboard.press("Control+k")
        expect(palette.get_by_role("combobox")).to_be_focused()
        page.keyboard.type("starred")
        expect(palette.get_by_role("option", name="Show what I have starred")).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_test_id(SECTION)).to_have_count(1)
        expect(page.get_by_test_id(f"section-{one}")).to_contain_text("in cart")
        self.look_for_barriers(page, "find, signed in")

    def test_two_browsers_see_the_same_seat_go(self) -> None:
        (_, _, number), _ = sections_that_fit(self.url, "wren")
        address = f"{FIND}?words={number}"
        pages = [self.visit(address), self.visit(address)]
        seats = [p.get_by_test_id(f"seats-{number}") for p in pages]
        before = int((seats[0].inner_text().split(" left")[0]).strip())
        # Long enough for both streams to be open.
        pages[0].wait_for_timeout(1500)
        with closing(signed_in_client(self.server.url, "wren")) as client:
            answer = client.post(
                "/api/terms/harvest-2027/submissions",
                json={"changes": [{"kind": "add", "number": number}]},
                headers={"Idempotency-Key": "the-same-seat"},
            )
        self.assertEqual(outcome(answer), "a")
        for shown in seats:
            expect(shown).to_contain_text(f"{before - 1} left", timeout=5000)

    def test_a_lost_connection_is_said_and_mended(self) -> None:
        page = self.visit(f"{FIND}?subject=SOIL")
        expect(page.get_by_test_id(SECTION).first).to_be_visible()
        context: BrowserContext = page.context
        page.wait_for_timeout(1000)
        context.set_offline(True)
        page.get_by_label(re.compile("^Words, a course")).fill("compost")
        expect(page.get_by_text("No answer from the server.")).to_be_visible()
        context.set_offline(False)
        expect(page.get_by_text("No answer from the server.")).to_have_count(0, timeout=15_000)
        expect(page.get_by_test_id(SECTION).first).to_contain_text("1", timeout=10_000)

    def test_the_whole_path_on_a_phone(self) -> None:
        page = self.open("isolde", 390, 844)
        page.goto(f"{self.server.url}{FIND}?seats=open&words=any&delivery=online any time")
        # Pressed both before the page has followed the first: neither undoes the other.
        page.get_by_role("button", name="Clear all", exact=True).evaluate(
            """clear => {
                const fits = [...document.querySelectorAll("button")].find(b => /^Fits my week/.test(b.innerText));
                clear.click();
                fits.click();
            }"""
        )
        expect(page).to_have_url(re.compile(r"find\?fits=true$"))
        # She has room for two credits more.
        self.choose(page, "More", "2 credits")
        self.choose(page, "Seats", "with a seat left$|with a seat left ?[0-9]")
        line = page.get_by_test_id(SECTION).first
        expect(line).to_be_visible()
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, 390)
        line.get_by_role("link").click()
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text("Instructor")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        self.look_for_barriers(page, "section sheet on a phone")
        sheet.get_by_role("button", name=re.compile("^(Add|Swap)")).first.click()
        expect(sheet).to_contain_text("In your cart.")
        sheet.get_by_role("button", name="Close").click()
        page.get_by_role("link", name=re.compile(r"^Cart \d")).click()
        expect(page.get_by_test_id(re.compile("^change-")).first).to_be_visible()
        self.look_for_barriers(page, "cart on a phone")
        page.get_by_role("button", name=re.compile(r"^Put \d changes? through$")).click()
        expect(page.get_by_test_id("outcome")).to_contain_text("went through")

    def test_a_week_is_printed_on_one_page_and_shown_by_a_link(self) -> None:
        page = self.open("isolde")
        page.get_by_role("button", name="Keep or show").click()
        keep = page.get_by_role("dialog", name="Keep or show this week")
        with page.expect_download() as download:
            keep.get_by_role("link", name="Calendar file").click()
        self.assertEqual(download.value.suggested_filename, "classes-harvest-2027.ics")
        keep.get_by_role("button", name="Make a link").click()
        address = keep.get_by_label("Copy it now").input_value()
        self.look_for_barriers(page, "keep or show")
        friend = self.visit(address.removeprefix(self.server.url))
        expect(friend.get_by_role("heading", level=1)).to_have_text("Isolde Brack, Harvest 2027")
        expect(friend.get_by_role("main")).to_contain_text("nothing can be changed here")
        self.look_for_barriers(friend, "shared week")
        keep.get_by_role("button", name="Withdraw").click()
        expect(keep.get_by_role("button", name="Withdraw")).to_have_count(0)
        friend.reload()
        expect(friend.get_by_role("main")).to_contain_text("does not lead anywhere any more")
        keep.get_by_role("link", name="Print it on one page").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Isolde Brack, Harvest 2027")
        self.look_for_barriers(page, "print")
        for paper in ("Letter", "A4"):
            sheet = page.pdf(format=paper, print_background=True)
            self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", sheet)), 1, paper)

    def test_what_belongs_together_moves_as_one(self) -> None:
        page = self.open("wren")
        self.take_all_out(page)
        field = page.get_by_label("Reference numbers")
        (one, *_), _ = sections_that_fit(self.url, "wren")
        page.goto(f"{self.server.url}{FIND}?subject=SHEP&number=101&fits=true&seats=open")
        lecture = page.get_by_test_id(SECTION).filter(has_text="Lecture").first
        expect(lecture).to_contain_text(re.compile(r"fits, with \d of \d labs"))
        field.fill(one)
        field.press("Enter")
        expect(page.get_by_test_id(f"change-{one}")).to_be_visible()
        lecture.get_by_role("button", name="Add").click()
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("is taken with a lab of its own")
        cart.get_by_role("button", name=re.compile("^Add lab ")).first.click()
        group = page.get_by_test_id("group")
        expect(group).to_contain_text("Go through together or not at all")
        expect(group.get_by_test_id(re.compile("^change-"))).to_have_count(2)
        group.get_by_role("button", name=re.compile("^Move ")).press("Alt+ArrowUp")
        order = cart.get_by_test_id(re.compile("^change-"))
        expect(order.last).to_have_attribute("data-testid", f"change-{one}")
        self.look_for_barriers(page, "a group in the cart")
        group.get_by_role("button", name=re.compile("^Take all of these")).click()
        expect(order).to_have_count(1)
