"""A college of its own, from an empty installation: invited from the command line, read in from the example
folder, and a student registers."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
import zipfile
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.support.browsing import BrowserTest

EXAMPLE = Path(__file__).parents[2] / "examples/quernside"
DAY = re.compile(r"\b(20\d\d-\d\d-\d\d)\b")


def example_ahead(folder: Path) -> Path:
    """The example with its days moved, as whole weeks, until its term lies ahead and its windows are open."""
    today = datetime.now(UTC).date()
    last_start = date(2028, 9, 1)
    weeks = max(0, -(-(today - last_start).days // 364)) * 52
    for file in EXAMPLE.iterdir():
        text = file.read_bytes().decode()
        if file.suffix == ".csv" and weeks:
            text = DAY.sub(lambda m: (date.fromisoformat(m[1]) + timedelta(weeks=weeks)).isoformat(), text)
        (folder / file.name).write_bytes(text.encode())
    return folder


class OwnCollege(BrowserTest):
    database = "empty"

    def run_command(self, *arguments: str) -> str:
        done = subprocess.run(
            [sys.executable, "-m", "gremba", *arguments],
            env={**os.environ, "GREMBA_DATABASE_URL": self.url},
            capture_output=True,
            text=True,
        )
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        return done.stdout

    def welcome(self, link: str, password: str) -> Page:
        """Open an invitation, set a password and sign in."""
        context = self.browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        page = self.new_page(context)
        page.goto(link)
        page.get_by_label("New password").fill("too short")
        expect(page.get_by_text("3 more signs.")).to_be_visible()
        expect(page.get_by_role("button", name="Set the password")).to_be_disabled()
        self.look_for_barriers(page, "welcome")
        page.get_by_label("New password").fill(password)
        page.get_by_role("button", name="Set the password").click()
        expect(page.get_by_role("heading", level=1)).to_have_text("Your password is set")
        page.get_by_label("Password", exact=True).fill(password)
        page.get_by_role("button", name="Sign in", exact=True).click()
        expect(page).not_to_have_url(re.compile("welcome"))
        return page

    def invited(self, *arguments: str) -> str:
        told = self.run_command("invite", *arguments, "--at", self.server.url)
        found = re.search(r"http\S+/welcome#\S+", told)
        assert found, told
        return found[0]

    def test_from_nothing_to_a_confirmation(self) -> None:
        maud = ("maud", "--role", "registrar", "--full-name", "Maud Pellow", "--email", "m@quernside.example")
        page = self.welcome(self.invited(*maud), "a heron above the weir")
        expect(page.get_by_role("heading", level=1)).to_have_text("There is no term yet")
        expect(page.get_by_text("Welcome, Maud Pellow.")).to_be_visible()
        self.look_for_barriers(page, "no term yet")
        with tempfile.TemporaryDirectory() as held:
            folder = example_ahead(Path(held))
            told = self.run_command("import", str(folder), "--trial")
            self.assertIn("sections: 7 new", told)
            self.assertIn("This was a trial; nothing was changed.", told)
            packed = Path(held) / "quernside.zip"
            with zipfile.ZipFile(packed, "w") as archive:
                for file in folder.glob("*.csv"):
                    archive.write(file, file.name)
            # By page: first a trial, then on a press.
            page.get_by_label("Drop the folder here").set_input_files(packed)
            report = page.get_by_test_id("report")
            expect(report.get_by_role("heading").first).to_have_text("quernside.zip: this would change")
            expect(report).to_contain_text("sections7 new")
            page.get_by_role("button", name="Take it over").click()
            self.assertIn("Everything in it is there already", self.run_command("import", str(folder)))
        # The term is there, and nobody but her sees it yet.
        expect(page.get_by_role("heading", level=1)).to_have_text("Autumn 2028")
        tam = self.welcome(self.invited("tam"), "six kettles and a drum")
        expect(tam.get_by_role("heading", level=1)).to_have_text("There is no term yet")
        page.get_by_role("button", name="Open it", exact=True).click()
        opening = page.get_by_role("dialog")
        expect(opening).to_contain_text("register as their windows say")
        opening.get_by_role("button", name=re.compile("^Open it")).click()
        expect(page.get_by_text("Open: students see it")).to_be_visible()
        tam.goto(self.server.url)
        expect(tam.get_by_role("heading", level=1)).to_have_text("Week")
        cart = tam.get_by_role("complementary", name="Cart")
        expect(cart).to_contain_text("Type or paste one or many")
        tam.keyboard.press("n")
        expect(tam.get_by_label("Reference numbers")).to_be_focused()
        tam.keyboard.insert_text("10101 10102 10201")
        tam.keyboard.press("Enter")
        put = tam.get_by_role("button", name=re.compile(r"^Put 3 changes through$"))
        expect(put).to_be_enabled()
        # The server was running when they came: it knows their seats.
        expect(tam.get_by_test_id("change-10201")).to_contain_text("16 left of 16")
        put.click()
        expect(tam.get_by_test_id("outcome")).to_contain_text("went through.")
        expect(tam.get_by_test_id("registered-10101")).to_contain_text("CLAY 101")
        tam.get_by_role("link", name="Confirmations").first.click()
        tam.get_by_role("link", name=re.compile("^Confirmation")).first.click()
        expect(tam.get_by_role("main")).to_contain_text("CLAY 101")
        # Asks for what she may not have: the rules came with the folder.
        tam.keyboard.press("n")
        expect(tam.get_by_label("Reference numbers")).to_be_focused()
        tam.keyboard.insert_text("10110")
        tam.keyboard.press("Enter")
        expect(tam.get_by_test_id("change-10110")).to_contain_text("CLAY 201 needs CLAY 101")
