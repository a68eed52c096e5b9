"""The README's tour, followed in order on one demo: what it names is there, and does what it says."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from gremba.demo.cast import OFFICES, STUDENTS
from gremba.demo.season import FIRST_YEARS_WINDOW, MORNING, moments
from tests.support.browsing import BrowserTest

README = (Path(__file__).parents[2] / "README.md").read_text()
TOUR = README[README.index("## A tour") : README.index("| | |\n")]


def part(of: str) -> str:
    """The paragraph of the tour that begins with somebody."""
    return next(line for line in TOUR.splitlines() if line.startswith(f"- **{of}**"))


def quoted(of: str, after: str) -> str:
    """What stands in quotes, or as code, after some words of somebody's paragraph."""
    found = re.search(re.escape(after) + r' [`"]([^`"]+)[`"]', part(of))
    assert found, (of, after)
    return found[1]


class Tour(BrowserTest):
    def test_it_names_people_and_moments_that_there_are(self) -> None:
        for player in (*STUDENTS, *OFFICES):
            self.assertIn(f"(`{player.username}`)", TOUR)
        known = {name for name, _ in moments()}
        named = set(re.findall(r'(?:to|back to) "([^"]+)"', TOUR))
        self.assertEqual(named - known, set())
        self.assertGreaterEqual(len(named), 5)

    def test_followed_in_order(self) -> None:
        self.set_clock(MORNING)
        self.anybody()
        self.wren()
        self.tobin()
        self.isolde()
        self.juniper()
        self.odo()
        self.petra()
        self.bram()
        self.cass_and_maud()

    def anybody(self) -> None:
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.server.url)
        page.get_by_role("link", name="Look through the sections without signing in").click()
        page.get_by_role("searchbox").fill(quoted("Anybody", "Type"))
        expect(page).to_have_url(re.compile("part=evening"), timeout=15_000)
        expect(page).to_have_url(re.compile("seats=open"))
        expect(page.get_by_test_id(re.compile("^section-")).first).to_be_visible()

    def wren(self) -> None:
        page = self.open("wren")
        expect(page.get_by_test_id(re.compile("^change-")).first).to_be_visible()
        page.keyboard.press("n")
        expect(page.get_by_label("Reference numbers")).to_be_focused()
        pasted = quoted("Wren", "paste")
        page.keyboard.insert_text(pasted)
        page.keyboard.press("Enter")
        through, over, clashing = re.findall(r"\d{5}", pasted)
        expect(page.get_by_test_id(f"change-{through}")).to_contain_text("Will go through")
        expect(page.get_by_test_id(f"change-{over}")).to_contain_text("your limit is 18")
        expect(page.get_by_test_id(f"change-{clashing}")).to_contain_text("Clashes with SOIL 140 " + through)
        page.get_by_role("button", name=re.compile(r"^Put \d changes through$")).click()
        expect(page.get_by_test_id(f"registered-{through}")).to_be_visible()
        page.keyboard.press("/")
        expect(page.get_by_role("searchbox")).to_be_focused()
        page.keyboard.insert_text(quoted("Wren", "and type"))
        expect(page.get_by_role("main")).to_contain_text(re.compile("beekeeping", re.I))
        page.get_by_role("button", name="Fits my week").click()
        expect(page).to_have_url(re.compile("fits="))
        page.keyboard.press("w")
        page.get_by_test_id(re.compile("^registered-")).filter(has_text="HIST 250").get_by_role(
            "button", name="Swap HIST 250"
        ).click()
        expect(page.get_by_role("group", name="Swap HIST 250 for")).to_be_visible()

    def tobin(self) -> None:
        page = self.open("tobin")
        page.keyboard.press("c")
        main = page.get_by_role("main")
        main.get_by_role("button", name="Read and accept").click()
        main.get_by_label("I have read it and agree.").check()
        main.get_by_role("button", name="Accept the agreement").click()
        main.get_by_role("button", name="Confirm or correct").click()
        main.get_by_role("button", name="These are right").click()
        main.get_by_role("button", name="Pay 62.00 and lift the hold").click()
        self.pay(page, "62.00")
        expect(page.get_by_test_id("sentence")).to_contain_text("You are clear")
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("would go through then")
        self.set_clock(dict(moments())[quoted("Tobin", "move the clock to")])
        page.reload()
        put = cart.get_by_role("button", name=re.compile("^Put .* through$"))
        expect(put).to_be_enabled(timeout=60_000)
        self.set_clock(MORNING)

    def pay(self, page: Page, sum_of: str) -> None:
        """On the payment page, with the card that is always taken."""
        page.get_by_label("Card number").fill("9000 0000 0000 0001")
        page.get_by_role("button", name=f"Pay {sum_of}", exact=True).click()

    def isolde(self) -> None:
        page = self.open("isolde")
        expect(page.get_by_role("banner")).to_contain_text(re.compile("offer", re.I))
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Petra Lunn")
        expect(cart).to_contain_text("Clashes with")
        expect(cart.get_by_role("button", name=re.compile("^Swap .* for it$"))).to_be_visible()
        page.keyboard.press("a")
        page.get_by_role("button", name="Look and accept").click()
        look = page.get_by_role("dialog")
        expect(look).to_contain_text("your limit is")
        look.get_by_label("Take it").select_option(index=1)
        look.get_by_role("button", name=re.compile("^Accept")).click()
        expect(look).to_have_count(0)
        page.keyboard.press("w")
        expect(page.get_by_test_id(re.compile("^registered-")).filter(has_text="BAKE 101")).to_be_visible()

    def juniper(self) -> None:
        page = self.open("juniper")
        page.keyboard.press("f")
        page.get_by_role("button", name="Take over 5 courses").click()
        expect(page.locator("h1 + p")).to_contain_text("timetables work")
        wall = page.get_by_role("listbox").get_by_role("option")
        page.get_by_role("button", name="As plan A").click()
        wall.nth(1).click()
        page.get_by_role("button", name="As plan B").click()
        self.set_clock(dict(moments())[quoted("Juniper", "move the clock to")])
        page.reload()
        cart = page.get_by_role("complementary", name="Cart")
        put = cart.get_by_role("button", name=re.compile("^Put plan A through, else B"))
        expect(put).to_be_enabled(timeout=60_000)
        put.click()
        expect(page.get_by_test_id("outcome")).to_contain_text("Plan A was taken", timeout=30_000)
        page.goto(f"{self.server.url}/harvest-2027/timetables?want=FERM+205")
        expect(page.get_by_text("No timetable works; here is why")).to_be_visible()

    def odo(self) -> None:
        idris = self.open("idris")
        idris.get_by_test_id("advisee-odo").get_by_role("button", name="Release").click()
        page = self.open("odo")
        page.keyboard.press("c")
        page.get_by_role("button", name="Go through it").click()
        for _ in range(2):
            page.get_by_role("button", name="Next page").click()
        page.get_by_role("button", name="Finish").click()
        self.set_clock(FIRST_YEARS_WINDOW)
        page.reload()
        seminar = quoted("Odo", "enter")
        page.get_by_label("Reference numbers").fill(seminar)
        page.keyboard.press("Enter")
        change = page.get_by_test_id(f"change-{seminar}")
        change.get_by_role("button", name=re.compile(r"^Add 2 sections of the bundle")).click()
        cart = page.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("your limit is 13 on probation")
        way = cart.get_by_role("button", name=re.compile("^Take FERM 110 .* out of the cart$"))
        way.filter(has_text="Take FERM 110").first.click()
        expect(page.get_by_role("button", name="Put 5 changes through")).to_be_enabled()

    def petra(self) -> None:
        self.set_clock(MORNING)
        page = self.open("petra")
        page.goto(f"{self.server.url}/teaching/harvest-2027/requests")
        cards = page.get_by_test_id(re.compile(r"^answer-\d+$"))
        expect(cards).to_have_count(3)
        waiting = cards.filter(has=page.get_by_role("button", name=re.compile("^Yes")))
        expect(waiting).to_have_count(2)
        waiting.first.get_by_role("button", name=re.compile("^Yes")).click()
        page.get_by_role("button", name="Say yes").click()
        expect(page.get_by_role("button", name="Not now")).to_have_count(0)
        expect(waiting).to_have_count(1)
        waiting.first.get_by_role("button", name=re.compile("^No")).click()
        self.fill_in(page, "No seat is left in it.", "Say no")
        expect(waiting).to_have_count(0)
        page.get_by_role("link", name=re.compile("^1 more in Thaw 2027")).click()
        expect(waiting).to_have_count(1)
        waiting.first.get_by_role("button", name=re.compile("^Ask back")).click()
        self.fill_in(page, "Which course was it?", "Ask back")
        expect(page.get_by_role("main")).to_contain_text("Which course was it?")
        number = quoted("Petra", "open CERM 260")
        page.goto(f"{self.server.url}/teaching/harvest-2027")
        page.get_by_role("listitem").filter(has_text=number).get_by_role("link").click()
        page.get_by_label("Only for (user name)").fill("wren")
        give = page.get_by_role("button", name="Give out a code")
        expect(give).to_be_disabled()
        page.get_by_role("checkbox", name="requisites").check()
        give.click()
        line = page.get_by_role("listitem").filter(has_text="for Wren Halloway")
        code = line.locator("span").first.inner_text()
        self.use(self.open("wren"), number, code)

    def use(self, page: Page, number: str, code: str) -> None:
        page.get_by_label("Reference numbers").fill(number)
        page.keyboard.press("Enter")
        change = page.get_by_test_id(f"change-{number}")
        expect(change).to_contain_text("CERM 260 needs")
        change.get_by_role("button", name=re.compile("consent", re.I)).first.click()
        change.get_by_label("Permission code").fill(code.lower())
        change.get_by_role("button", name="Set").click()
        expect(change).not_to_contain_text("CERM 260 needs")

    def fill_in(self, page: Page, words: str, press: str) -> None:
        """The form of an answer."""
        form = page.locator("form").filter(has=page.get_by_role("button", name="Not now"))
        form.get_by_role("textbox").fill(words)
        form.get_by_role("button", name=press).click()
        expect(form).to_have_count(0)

    def bram(self) -> None:
        page = self.open("bram")
        page.keyboard.press("Escape")
        page.get_by_role("link", name="Account").first.click()
        main = page.get_by_role("main")
        expect(main).to_contain_text("13 August")
        due = page.get_by_test_id("due")
        whole = due.inner_text()
        main.get_by_role("button", name="in four parts").click()
        main.get_by_role("button", name="Pay in four parts").click()
        expect(due).not_to_have_text(whole)
        pay = main.get_by_role("button", name=re.compile("^Pay [0-9.,]+$"))
        first = due.inner_text()
        pay.click()
        self.pay(page, first)
        expect(page.get_by_test_id("payment-told")).to_contain_text("Paid.")
        page.keyboard.press("w")
        page.get_by_role("button", name=re.compile("^Drop ")).first.click()
        expect(
            page.get_by_role("complementary", name="Cart").get_by_role("row", name=re.compile("^Due "))
        ).to_be_visible()

    def cass_and_maud(self) -> None:
        page = self.open("cass")
        page.get_by_label("Student").fill("Bram")
        page.get_by_role("link", name="Bram Oakes").click()
        main = page.get_by_role("main")
        main.get_by_role("button", name="Post an entry").click()
        main.get_by_label("Sum", exact=True).fill("12")
        main.get_by_label("In the words of the statement").fill("in cash")
        main.get_by_role("button", name="Post 12.00").click()
        main.get_by_role("button", name=re.compile(r"^Undo entry")).first.click()
        main.get_by_label(re.compile("^Why entry")).fill("Posted twice.")
        main.get_by_role("button", name="Undo it").click()
        expect(main.get_by_text("undone", exact=True)).to_have_count(2)
        page.get_by_role("link", name="Nonpayment").click()
        main.get_by_role("button", name="Preview", exact=True).first.click()
        expect(main.get_by_role("table").first).to_be_visible(timeout=60_000)
        self.set_clock(dict(moments())[quoted("Cass", "move the clock to")])
        expect(page.get_by_test_id("nonpayment-done")).to_contain_text("dropped", timeout=180_000)
        expect(main.get_by_role("table").first).to_contain_text("was due", timeout=60_000)
        maud = self.open("maud")
        maud.get_by_role("link", name="Requests", exact=True).click()
        expect(maud.get_by_role("heading", name="Requests", level=1)).to_be_visible()
        maud.get_by_role("link", name="Mail").click()
        expect(maud.get_by_role("heading", name="Mail that did not arrive")).to_be_visible()
