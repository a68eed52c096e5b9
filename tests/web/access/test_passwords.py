"""Passwords that people set themselves, on a server without the demo."""

from __future__ import annotations

import re
import threading
import unittest
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx
from aiosmtpd.controller import Controller

from gremba.core.states import Role
from gremba.launch.serve import free_port
from gremba.standins.password_links import invite
from gremba.store.database import connect
from tests.support.campus import Campus
from tests.support.servers import Server, new_database
from tests.support.soon import soon

GOOD, OTHER = "seven geese in the reeds", "a kettle on the landing"


class Mailbox:
    """Takes every mail."""

    def __init__(self) -> None:
        self.taken: list[str] = []

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        """Keep it (aiosmtpd)."""
        self.taken.append(envelope.content.decode())
        return "250 Taken"


class Passwords(unittest.TestCase):
    campus: Campus
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.addClassCleanup(cls.campus.close)
        cls.server = Server(cls.campus.url)
        cls.addClassCleanup(cls.server.stop)

    def setUp(self) -> None:
        self.database = connect(self.campus.url)
        self.addCleanup(self.database.close_all)
        self.client = httpx.Client(base_url=self.server.url, headers={"Origin": self.server.url})
        self.addCleanup(self.client.close)

    def invite(self, name: str, role: Role | None = Role.REGISTRAR) -> str:
        return invite(self.database, name, role, f"{name.capitalize()} Fellow").token

    def set(self, token: str, password: str) -> httpx.Response:
        return self.client.post("/api/password-links", json={"token": token, "password": password})

    def sign_in(self, name: str, password: str) -> httpx.Response:
        client = httpx.Client(base_url=self.server.url, headers={"Origin": self.server.url})
        self.addCleanup(client.close)
        answer = client.post("/api/session", json={"username": name, "password": password})
        answer.extensions["client"] = client
        return answer

    def kind(self, answer: httpx.Response) -> str:
        return str(answer.json()["type"]).removeprefix("/problems/")

    def test_the_first_registrar_sets_theirs_once_and_signs_in(self) -> None:
        token = self.invite("first")
        owner = self.client.post("/api/password-links/look", json={"token": token}).json()
        self.assertEqual(owner, {"username": "first", "full_name": "First Fellow"})
        self.assertEqual(self.kind(self.sign_in("first", "none yet")), "sign-in-wrong")
        weak = self.set(token, "first fellow here")
        self.assertEqual((weak.status_code, self.kind(weak)), (422, "password-weak"))
        self.assertEqual(self.set(token, GOOD).status_code, 204)
        self.assertEqual(self.kind(self.set(token, OTHER)), "link-gone")
        self.assertEqual(
            self.kind(self.client.post("/api/password-links/look", json={"token": token})), "link-gone"
        )
        self.assertEqual(self.sign_in("first", GOOD).json()["person"]["role"], "registrar")

    def test_the_registrar_has_a_link_made_which_is_handed_over_or_mailed(self) -> None:
        registrar, forgetful = self.campus.person("registrar"), self.campus.person("instructor")
        link = f"/api/office/people/{forgetful.username}/password-link"
        with self.campus.client(registrar, self.server.url) as office:
            made = office.post(link).json()
            self.assertEqual((made["mailed_to"], made["full_name"]), ("", forgetful.username.title()))
            self.assertEqual(self.set(made["path"].partition("#")[2], GOOD).status_code, 204)
            self.assertEqual(self.sign_in(forgetful.username, GOOD).status_code, 200)
            nobody = office.post("/api/office/people/nobody/password-link")
            self.assertEqual((nobody.status_code, self.kind(nobody)), (404, "person-unknown"))
        with self.campus.client(forgetful, self.server.url) as other:
            self.assertEqual(other.post(link).status_code, 403)

    def test_where_mail_goes_out_only_the_mail_holds_the_link(self) -> None:
        registrar, forgetful = self.campus.person("registrar"), self.campus.person("advisor")
        mailbox = Mailbox()
        post = Controller(mailbox, hostname="127.0.0.1", port=free_port())
        post.start()
        self.addCleanup(post.stop)
        server = Server(self.campus.url, mail=f"127.0.0.1:{post.port}")
        self.addCleanup(server.stop)
        with self.campus.client(registrar, server.url) as office:
            made = office.post(f"/api/office/people/{forgetful.username}/password-link")
        self.assertEqual((made.json()["mailed_to"], made.json()["path"]), ("nobody@college.example", ""))
        [mail] = mailbox.taken
        found = re.search(r"http\S+/welcome#(\S+)", mail)
        assert found is not None, mail
        self.assertNotIn(found[1], made.text)
        self.assertEqual(self.set(found[1], GOOD).status_code, 204)

    def test_everybody_without_a_password_is_sent_a_link_once(self) -> None:
        registrar = self.campus.person("registrar")
        mailbox = Mailbox()
        post = Controller(mailbox, hostname="127.0.0.1", port=free_port())
        post.start()
        self.addCleanup(post.stop)
        server = Server(self.campus.url, mail=f"127.0.0.1:{post.port}")
        self.addCleanup(server.stop)
        new = self.campus.people(60)
        self.campus.run(
            "UPDATE persons SET password_hash = 'none yet' WHERE id = ANY(%s)", [p.id for p in new]
        )
        self.campus.run("UPDATE persons SET email = '' WHERE id = %s", new[3].id)
        path = "/api/office/people/password-links"
        sent, without, after = 0, [], 0
        with self.campus.client(registrar, server.url) as office:
            while after is not None:
                answer = office.post(path, json={"after": after}).json()
                sent, after = sent + answer["sent"], answer["after"]
                # Those of other tests have no address.
                without += [name for name in answer["without_mail"] if name.startswith("student")]
            again = office.post(path, json={}).json()
        self.assertEqual((sent, without), (59, [new[3].username]))
        self.assertEqual(again["sent"], 0)
        self.assertIn(new[3].username, again["without_mail"])
        links = {re.search(r"welcome#(\S+)", mail)[1] for mail in mailbox.taken}
        self.assertEqual(len(links), 59)
        self.assertEqual(self.set(links.pop(), GOOD).status_code, 204)
        with self.campus.client(registrar, self.server.url) as office:
            self.assertEqual(self.kind(office.post(path, json={})), "no-mail")

    def test_a_reset_ends_earlier_links_and_everybodys_sessions_with_the_old_one(self) -> None:
        earlier = self.invite("second")
        self.set(self.invite("second", None), GOOD)
        self.assertEqual(self.kind(self.set(earlier, OTHER)), "link-gone")
        session = self.sign_in("second", GOOD).extensions["client"]
        self.assertEqual(session.get("/api/sessions").status_code, 200)
        self.assertEqual(self.set(self.invite("second", None), OTHER).status_code, 204)
        # The process that knows the session hears of its end a moment later.
        soon(lambda: session.get("/api/sessions").status_code == 401)
        self.assertEqual(self.kind(self.sign_in("second", GOOD)), "sign-in-wrong")
        self.assertEqual(self.sign_in("second", OTHER).status_code, 200)

    def test_a_link_of_eight_days_ago_is_over(self) -> None:
        token = self.invite("third")
        self.campus.run(
            "UPDATE password_links SET made_at = made_at - interval '8 days', "
            "ends_at = ends_at - interval '8 days' WHERE used_at IS NULL"
        )
        self.assertEqual(self.kind(self.set(token, GOOD)), "link-gone")

    def test_of_two_at_once_one_sets_it(self) -> None:
        token, gate = self.invite("fourth"), threading.Barrier(2)

        def one(password: str) -> int:
            gate.wait()
            return self.set(token, password).status_code

        with ThreadPoolExecutor(2) as pool:
            self.assertEqual(sorted(pool.map(one, (GOOD, OTHER))), [204, 404])

    def test_it_is_changed_by_who_knows_it_and_other_sessions_end(self) -> None:
        self.set(self.invite("fifth"), GOOD)
        here, there = self.sign_in("fifth", GOOD), self.sign_in("fifth", GOOD)
        client = here.extensions["client"]
        client.headers["X-CSRF-Token"] = here.json()["csrf_token"]
        wrong = client.put("/api/password", json={"old": OTHER, "new": OTHER})
        self.assertEqual(self.kind(wrong), "password-wrong")
        weak = client.put("/api/password", json={"old": GOOD, "new": "short"})
        self.assertEqual(self.kind(weak), "password-weak")
        changed = client.put("/api/password", json={"old": GOOD, "new": OTHER})
        self.assertEqual(changed.json()["person"]["username"], "fifth")
        self.assertNotEqual(changed.json()["csrf_token"], here.json()["csrf_token"])
        self.assertEqual(client.get("/api/sessions").status_code, 200)
        self.assertEqual(there.extensions["client"].get("/api/sessions").status_code, 401)
        self.assertEqual(self.sign_in("fifth", OTHER).status_code, 200)

    def test_from_another_site_nothing_is_set(self) -> None:
        token = self.invite("sixth")
        answer = httpx.post(
            f"{self.server.url}/api/password-links",
            json={"token": token, "password": GOOD},
            headers={"Origin": "https://elsewhere.example"},
        )
        self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.set(token, GOOD).status_code, 204)

    def test_whoever_tries_links_is_slowed_down(self) -> None:
        kinds = [self.kind(self.set(f"guess{n}", GOOD)) for n in range(40)]
        self.assertIn("links-limited", kinds)

    def test_nobody_is_made_known_by_mistake_or_in_another_role(self) -> None:
        with self.assertRaisesRegex(ValueError, "Say --role"):
            self.invite("nobody", None)
        self.invite("seventh")
        with self.assertRaisesRegex(ValueError, "as registrar. Leave out --role"):
            self.invite("seventh", Role.CASHIER)
