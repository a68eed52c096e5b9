"""One picture of each main view, from the demo."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright

from gremba.demo.cast import PASSWORD
from tests.support.browser import FLAGS
from tests.support.servers import Server, new_database, stop_all

_STILL_READING = re.compile("^Reading .*…$")
TARGET = Path(__file__).parents[2] / "docs/screenshots"


def _page(browser: Browser, url: str, username: str, width: int = 1280, height: int = 800) -> Page:
    page = browser.new_context(viewport={"width": width, "height": height}).new_page()
    page.goto(url)
    expect(page.get_by_text("Wren Halloway").first).to_be_visible()
    if username:
        page.get_by_label("Name").fill(username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in", exact=True).first.click()
        expect(page.get_by_role("heading", level=1)).not_to_have_text("Sign in")
    page.wait_for_timeout(1200)
    return page


def _take(page: Page, name: str) -> None:
    page.wait_for_timeout(900)
    expect(page.get_by_text(_STILL_READING)).to_have_count(0)
    page.screenshot(path=str(TARGET / f"{name}.png"))


def main() -> None:
    """Take them all."""
    TARGET.mkdir(parents=True, exist_ok=True)
    server = Server(new_database("demo"), demo=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        _take(_page(browser, server.url, ""), "sign-in")
        _offices(browser, server.url)
        _registrar(browser, server.url)
        _blocked(browser, server.url)
        _finding(browser, server.url)
        _fitting(browser, server.url)
        phone = _page(browser, server.url, "isolde", 390, 844)
        phone.goto(f"{server.url}/harvest-2027/cart")
        _take(phone, "phone-cart")
        _third_year(browser, server.url)
        browser.close()


def _offices(browser: Browser, url: str) -> None:
    idris = _page(browser, url, "idris")
    _take(idris, "advisor")
    petra = _page(browser, url, "petra")
    petra.goto(f"{url}/teaching/harvest-2027/requests")
    _take(petra, "answering")
    cass = _page(browser, url, "cass")
    _take(cass, "cashier")
    bram = _page(browser, url, "bram")
    bram.goto(f"{url}/harvest-2027/account")
    _take(bram, "account")


def _registrar(browser: Browser, url: str) -> None:
    maud = _page(browser, url, "maud")
    maud.goto(f"{url}/office/thaw-2028")
    _take(maud, "term")
    maud.goto(f"{url}/office/thaw-2028/windows")
    maud.get_by_label("First slots on").fill("18 Oct 2027")
    maud.get_by_label("All close on").fill("12 Nov 2027")
    maud.get_by_label("Seed of the draw").fill("chestnut")
    maud.get_by_role("button", name="Look at it").click()
    expect(maud.get_by_test_id("preview")).to_be_visible()
    _take(maud, "windows")
    maud.goto(f"{url}/office/harvest-2027/sections?number=30208")
    maud.get_by_role("button", name="Change 30208").click()
    maud.get_by_label("Wed").uncheck()
    maud.get_by_label("Thu").check()
    maud.get_by_role("button", name="Preview impact").click()
    expect(maud.get_by_test_id("told")).to_be_visible()
    _take(maud, "sections")
    maud.goto(f"{url}/office/harvest-2027")
    maud.get_by_role("button", name="Change An offer is held").click()
    maud.get_by_label("An offer is held").fill("36")
    maud.get_by_role("button", name="Set it").click()
    expect(maud.get_by_text("36 hours")).to_be_visible()
    maud.goto(f"{url}/office/harvest-2027/record")
    expect(maud.get_by_text("24 hours → 36 hours")).to_be_visible()
    maud.get_by_role("button", name="Verify that nothing was altered").click()
    _take(maud, "record")


def _fitting(browser: Browser, url: str) -> None:
    juniper = _page(browser, url, "juniper")
    juniper.goto(f"{url}/harvest-2027/timetables")
    juniper.get_by_role("button", name="Take over 5 courses").click()
    work, best = "free=TR+13:00-24:00;+Work", "best=starts+late,few+gaps,seats+left"
    juniper.goto(f"{juniper.url}&{work}&{best}")
    wall = juniper.get_by_role("listbox").get_by_role("option")
    juniper.get_by_role("button", name="As plan A").click()
    wall.nth(3).click()
    juniper.get_by_role("button", name="As plan B").click()
    wall.nth(1).click()
    _take(juniper, "timetables")
    juniper.goto(f"{url}/harvest-2027/plan")
    _take(juniper, "plan")


def _blocked(browser: Browser, url: str) -> None:
    tobin = _page(browser, url, "tobin")
    tobin.get_by_role("link", name="Clearance").first.click()
    _take(tobin, "clearance")
    tobin.get_by_role("button", name="Pay 62.00 and lift the hold").click()
    tobin.get_by_label("Card number").fill("9000000000000001")
    tobin.get_by_role("button", name="Pay 62.00", exact=True).click()
    tobin.get_by_role("button", name="Read and accept").click()
    tobin.get_by_label("I have read it and agree.").check()
    tobin.get_by_role("button", name="Accept the agreement").click()
    tobin.get_by_role("button", name="Confirm or correct").click()
    tobin.get_by_role("button", name="These are right").click()
    expect(tobin.get_by_test_id("sentence")).to_contain_text("You are clear")


def _finding(browser: Browser, url: str) -> None:
    wren = _page(browser, url, "wren")
    wren.goto(f"{url}/harvest-2027/find?subject=SOIL&subject=APIC&day=M&day=T&day=W&day=R&sort=fit")
    _take(wren, "find")
    wren.goto(f"{url}/harvest-2027/find?section=30309")
    _take(wren, "section")
    isolde = _page(browser, url, "isolde")
    isolde.goto(f"{url}/harvest-2027/waitlists")
    _take(isolde, "waitlists")
    isolde.get_by_role("button", name="Look and accept").click()
    swap = isolde.get_by_label("Take it")
    swap.select_option(index=5)
    _take(isolde, "offer")


def _third_year(browser: Browser, url: str) -> None:
    wren = _page(browser, url, "wren")
    _take(wren, "week")
    row = wren.get_by_test_id(re.compile("^registered-")).filter(has_text="HIST 250")
    row.get_by_role("button", name="Swap HIST 250").click()
    wren.get_by_role("button", name=re.compile(r"^Put \d")).click()
    expect(wren.get_by_test_id("outcome")).to_be_visible()
    wren.get_by_role("link", name="Confirmations").first.click()
    wren.get_by_role("main").get_by_role("link").first.click()
    _take(wren, "confirmation")


if __name__ == "__main__":
    try:
        main()
    finally:
        stop_all()
