"""One picture of each main view, from the demo."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Browser, Page, expect, sync_playwright

from gremba.demo.cast import PASSWORD
from tests.support.browser import FLAGS
from tests.support.servers import Server, new_database, stop_all

TARGET = Path(__file__).parents[2] / "docs/screenshots"

def _page(browser: Browser, url: str, username: str, width: int = 1280, height: int = 800) -> Page:
    page = browser.new_context(viewport={"width": width, "height": height}).new_page()
    page.goto(url)
    expect(page.get_by_text("Wren Halloway").first).to_be_visible()
    if username:
        page.get_by_label("Name").fill(username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in", exact=True).first.click()
        expect(page.get_by_role("heading", name="Week", exact=True)).to_be_visible()
    page.wait_for_timeout(1200)
    return page


def _take(page: Page, name: str) -> None:
    page.screenshot(path=str(TARGET / f"{name}.png"))


def main() -> None:
    """Take them all."""
    TARGET.mkdir(parents=True, exist_ok=True)
    server = Server(new_database("demo"), demo=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        _take(_page(browser, server.url, ""), "sign-in")
        _take(_page(browser, server.url, "tobin"), "not-yet")
        phone = _page(browser, server.url, "isolde", 390, 844)
        phone.goto(f"{server.url}/harvest-2027/cart")
        phone.wait_for_timeout(1200)
        _take(phone, "phone-cart")
        wren = _page(browser, server.url, "wren")
        _take(wren, "week")
        wren.get_by_role("button", name=re.compile(r"^Put \d")).click()
        wren.wait_for_timeout(1500)
        _take(wren, "outcome")
        wren.get_by_role("link", name="Receipts").first.click()
        wren.wait_for_timeout(1000)
        _take(wren, "receipts")
        wren.get_by_role("main").get_by_role("link").first.click()
        wren.wait_for_timeout(1000)
        _take(wren, "receipt")
        browser.close()


if __name__ == "__main__":
    try:
        main()
    finally:
        stop_all()
