"""The pages as they are sent: compressed, in few files, with what they need first, and 404 where there is
nothing."""

from __future__ import annotations

import gzip
import html
import json
import re
import unittest
from pathlib import Path

import httpx

from gremba.web.access.guard import ACCESS
from gremba.web.requests.compression import WITH_SECRETS
from tests.support.campus import TERM, Campus
from tests.support.servers import Server, new_database

ROOT = Path(__file__).parents[2]

FIRST_VIEW = 111 * 1024
"""Bytes of script, as they are sent, that a first view may need."""


class Pages(unittest.TestCase):
    campus: Campus
    numbers: list[str]
    server: Server
    client: httpx.Client
    student: httpx.Client

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.numbers = [cls.campus.section(seats=5) for _ in range(40)]
        cls.server = Server(cls.campus.url)
        cls.client = httpx.Client(base_url=cls.server.url)
        cls.student = cls.campus.client(cls.campus.person(), cls.server.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.client.close()
        cls.student.close()
        cls.server.stop()
        cls.campus.close()

    def sent(self, client: httpx.Client, path: str) -> dict[str, int]:
        """What is sent of the scripts that a page names, as a browser asks for it."""
        page = client.get(path).text
        names = set(re.findall(r'(?:href|src)="(/assets/[^"]+\.js)"', page))
        found = {}
        for name in names:
            with client.stream("GET", name, headers={"Accept-Encoding": "br, gzip"}) as answer:
                self.assertEqual(answer.headers["Content-Encoding"], "br", name)
                found[name] = len(b"".join(answer.iter_raw()))
        return found

    def test_a_first_view_needs_little_script_in_few_files(self) -> None:
        for client, path in (
            (self.client, "/"),
            (self.client, f"/{TERM}/find"),
            (self.student, f"/{TERM}/schedule"),
        ):
            sent = self.sent(client, path)
            with self.subTest(path, files=len(sent)):
                self.assertLess(sum(sent.values()), FIRST_VIEW)
                self.assertLess(len(sent), 12)

    def test_an_asset_comes_as_it_is_asked_for_and_is_the_same(self) -> None:
        name = re.findall(r'src="(/assets/[^"]+\.js)"', self.client.get("/").text)[0]
        bodies = {}
        for asked, given in (
            ("br, gzip", "br"),
            ("br;q=0, gzip", "gzip"),
            ("gzip", "gzip"),
            ("identity", None),
            ("", None),
        ):
            with self.client.stream("GET", name, headers={"Accept-Encoding": asked}) as answer:
                self.assertEqual(answer.headers.get("Content-Encoding"), given)
                self.assertEqual(answer.headers["Vary"], "Accept-Encoding")
                self.assertIn("immutable", answer.headers["Cache-Control"])
                bodies[given] = b"".join(answer.iter_raw())
        self.assertEqual(gzip.decompress(bodies["gzip"]), bodies[None])
        self.assertLess(len(bodies["br"]), len(bodies["gzip"]))

    def test_answers_over_a_kilobyte_are_compressed_but_none_with_a_secret(self) -> None:
        cases = (
            (self.client, f"/api/terms/{TERM}/search", "gzip"),
            (self.student, f"/api/terms/{TERM}/cart", None),  # An empty one is small.
            (self.student, "/api/session", None),
            (self.student, f"/{TERM}/schedule", None),
        )
        for client, path, given in cases:
            answer = client.get(path, headers={"Accept-Encoding": "gzip"})
            with self.subTest(path):
                self.assertEqual(answer.headers.get("Content-Encoding"), given)
        large = self.client.get(f"/api/terms/{TERM}/search", headers={"Accept-Encoding": "gzip;q=0"})
        self.assertEqual(
            (large.headers.get("Content-Encoding"), large.headers["Vary"]), (None, "Accept-Encoding")
        )
        self.assertIn("csrf_token", self.student.get(f"/{TERM}/schedule").text)
        self.assertLessEqual({"page", "read_session", "open_session"}, WITH_SECRETS)

    def test_what_is_never_compressed_is_named_as_the_routes_are(self) -> None:
        self.assertLessEqual(WITH_SECRETS - {"page"}, set(ACCESS))

    def test_the_session_comes_with_the_page_and_cannot_break_out_of_it(self) -> None:
        page = self.student.get(f"/{TERM}/schedule").text
        told = re.findall(r'<script type="application/json" id="session">(.*?)</script>', page)
        session = json.loads(told[0])
        self.assertEqual(session, {**self.student.get("/api/session").json(), "now": session["now"]})
        who = self.campus.person()
        self.campus.run(
            "UPDATE persons SET full_name = '</script><script>alert(1)</script>' WHERE id = %s", who.id
        )
        with self.campus.client(who, self.server.url) as client:
            self.assertNotIn("<script>alert", client.get("/").text)

    def test_addresses_that_lead_nowhere_say_so_with_the_page(self) -> None:
        for path, status in (
            ("/", 200),
            (f"/{TERM}/find", 200),
            (f"/{TERM}/schedule", 200),
            (f"/{TERM}/confirmations/12", 200),
            (f"/advising/12/{TERM}/cart", 200),
            ("/shared/abc", 200),
            (f"/teaching/{TERM}/40001", 200),
            ("/no-such-term/find", 404),
            (f"/{TERM}/nonsense", 404),
            ("//find", 404),
            ("/a/b/c/d/e", 404),
            (f"/{TERM}/confirmations/x", 404),
            (f"/advising/{'9' * 30}/{TERM}", 404),
        ):
            # Not by way of the client, which makes one slash of two.
            answer = httpx.get(f"{self.server.url}{path}")
            with self.subTest(path):
                self.assertEqual(answer.status_code, status)
                self.assertIn('<div id="root">', answer.text)

    def test_an_address_of_old_leads_to_the_screen(self) -> None:
        for old, new in (
            (f"/{TERM}/week", f"/{TERM}/schedule"),
            (f"/{TERM}/fits?want=SOIL+240&x=%2F", f"/{TERM}/timetables?want=SOIL+240&x=%2F"),
            (f"/{TERM}/receipts/12", f"/{TERM}/confirmations/12"),
            (f"/fees/{TERM}/cut", f"/fees/{TERM}/nonpayment"),
            (f"/{TERM}/find?block=first&words=block%3D1", f"/{TERM}/find?session=first&words=block%3D1"),
            (f"/advising/7/{TERM}/week/print", f"/advising/7/{TERM}/schedule/print"),
        ):
            answer = httpx.get(f"{self.server.url}{old}", follow_redirects=False)
            with self.subTest(old):
                self.assertEqual((answer.status_code, answer.headers["location"]), (308, new))
        for path in (
            "//elsewhere.example/week",
            f"//elsewhere.example/{TERM}/week",
            f"//elsewhere.example/{TERM}/find?block=x",
            "/no-such-term/week",
        ):
            with self.subTest(path):
                # Not by a joined address, which makes one slash of two.
                answer = httpx.get(f"{self.server.url}{path}", follow_redirects=False)
                self.assertEqual(answer.status_code, 404)

    def test_every_address_of_the_screens_is_known_to_the_server(self) -> None:
        """As the front end lists them; those of a student below whatever stands before them."""
        text = (ROOT / "frontend/src/App.tsx").read_text()
        listed = re.findall(r'<Route\s+path="([^"*]+)"', text)
        absolute = [path for path in listed if path.startswith("/")]
        screens = [path for path in listed if not path.startswith("/")]
        self.assertGreater(len(screens), 8)
        above = ("/:term", "/advising/:student/:term")
        for path in absolute + [f"{top}/{screen}" for top in above for screen in screens]:
            for name, value in (("term", TERM), ("student", "12"), ("id", "7"), ("number", "40001")):
                path = re.sub(f":{name}\\b", value, path)
            path = path.replace(":token", "abc")
            answer = httpx.get(f"{self.server.url}{path}")
            with self.subTest(path):
                self.assertNotIn(":", path)
                self.assertEqual(answer.status_code, 200)

    def test_who_comes_from_elsewhere_is_asked_for_the_session_once_more(self) -> None:
        """A strict cookie is not sent with a link from a mail, or on the way back from paying."""
        own = f"/{TERM}/account?payment=1&x=%22%3E%3Cscript%3E"
        away = {"Sec-Fetch-Site": "cross-site"}
        asked = self.client.get(own, headers=away)
        self.assertIn("from-here=", asked.text)
        self.assertNotIn("<script", asked.text)
        again = re.findall(r'url=([^"]+)"', asked.text)[0]
        self.assertIn('id="root"', self.client.get(html.unescape(again), headers=away).text)
        for path, client, headers in (
            (own, self.client, {"Sec-Fetch-Site": "same-origin"}),
            (own, self.client, {}),
            (own, self.student, away),
            (f"/{TERM}/find", self.client, away),
            ("/shared/abc", self.client, away),
            ("/no-such-term/schedule", self.client, away),
        ):
            with self.subTest(path):
                self.assertIn('id="root"', client.get(path, headers=headers).text)

    def test_robots_are_told_and_shared_weeks_are_not_for_them(self) -> None:
        robots = self.client.get("/robots.txt")
        self.assertTrue(robots.headers["Content-Type"].startswith("text/plain"))
        self.assertIn("Disallow: /shared/", robots.text)
        self.assertEqual(self.client.get("/shared/abc").headers["X-Robots-Tag"], "noindex")
        self.assertNotIn("X-Robots-Tag", self.client.get(f"/{TERM}/find").headers)

    def test_the_frame_is_there_before_any_script(self) -> None:
        body = self.client.get(f"/{TERM}/find").text.partition("<body>")[2]
        self.assertIn("Gremba", body.partition("<script")[0])
        # And the first search is on its way before the script asks for it.
        self.assertIn(
            f'href="/api/terms/{TERM}/search?against=&amp;offset=0&amp;limit=100"',
            self.client.get(f"/{TERM}/find").text,
        )
