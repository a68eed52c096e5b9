"""Signing in: guessing becomes slow, nobody is locked out, and nobody holds the others up."""

from __future__ import annotations

import asyncio
import unittest
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import mock

import httpx

from gremba.actions.access.sessions import token_digest
from gremba.actions.problem import Problem
from gremba.actions.problem_kinds import ProblemKind
from gremba.core.access.sign_in_delays import FREE
from gremba.standins import passwords, sign_in
from gremba.standins.passwords import Verifier
from gremba.store.access.sessions import MAX_SESSIONS, open_session
from gremba.store.database import connect, connected
from gremba.web.access.guard import SessionCache
from tests.support.campus import PASSWORD, TERM, Campus, Somebody
from tests.support.servers import Server, new_database
from tests.support.soon import soon

CART = f"/api/terms/{TERM}/cart"


class OnACampus(unittest.TestCase):
    campus: Campus
    server: Server

    @classmethod
    def setUpClass(cls) -> None:
        cls.campus = Campus(new_database())
        cls.server = Server(cls.campus.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.stop()
        cls.campus.close()

    def browser(self, address: str = "127.0.0.1", server: Server | None = None) -> httpx.Client:
        """A browser at another address of this machine."""
        client = httpx.Client(
            base_url=(server or self.server).url,
            timeout=60,
            transport=httpx.HTTPTransport(local_address=address),
        )
        self.addCleanup(client.close)
        return client

    def attempt(
        self, client: httpx.Client, who: Somebody | str, password: str, **headers: str
    ) -> httpx.Response:
        """One attempt to sign in."""
        name = who if isinstance(who, str) else who.username
        return client.post("/api/session", json={"username": name, "password": password}, headers=headers)

    def guess(self, client: httpx.Client, who: Somebody | str, times: int) -> list[int]:
        """Guess so often; gives the statuses."""
        return [self.attempt(client, who, f"guess {n}").status_code for n in range(times)]


class Guessing(OnACampus):
    def moved(self, account: str, seconds: int) -> None:
        """As if the failures had been so much later: on a slow machine the first wait is over before one can
        ask."""
        self.campus.run(
            "UPDATE sign_ins SET at = at + %s * interval '1 second' WHERE account = %s", seconds, account
        )

    def test_it_becomes_slow_and_says_how_long(self) -> None:
        victim, client = self.campus.person(), self.browser()
        self.assertEqual(self.guess(client, victim, FREE), [401] * FREE)
        self.moved(victim.username, 30)
        self.assertEqual(self.guess(client, victim, 1), [429])
        answer = self.attempt(client, victim, PASSWORD)
        self.assertEqual((answer.status_code, answer.json()["type"]), (429, "/problems/sign-in-limited"))
        self.assertGreaterEqual(int(answer.headers["Retry-After"]), 1)
        # What was put off did not count: the wait is still that of five failures.
        self.moved(victim.username, -32)
        self.assertEqual(self.attempt(client, victim, PASSWORD).status_code, 200)
        # Having signed in, one begins anew.
        self.assertEqual(self.guess(client, victim, FREE), [401] * FREE)

    def test_unknown_names_are_answered_and_put_off_alike(self) -> None:
        client = self.browser("127.0.0.9")
        self.assertEqual(self.guess(client, "no.such", FREE), [401] * FREE)
        self.moved("no.such", 30)
        self.assertEqual(self.guess(client, "no.such", 1), [429])

    def test_a_stranger_locks_nobody_out(self) -> None:
        victim = self.campus.person()
        self.assertIn(429, self.guess(self.browser("127.0.0.2"), victim, FREE + 3))
        self.assertEqual(self.attempt(self.browser("127.0.0.3"), victim, PASSWORD).status_code, 200)

    def test_a_known_browser_is_let_through_where_the_guessing_goes_on(self) -> None:
        victim, known = self.campus.person(), self.browser("127.0.0.4")
        self.assertEqual(self.attempt(known, victim, PASSWORD).status_code, 200)
        self.assertIn(429, self.guess(self.browser("127.0.0.4"), victim, FREE + 3))
        self.assertEqual(self.attempt(known, victim, PASSWORD).status_code, 200)
        # It is known for whom it was used, and for nobody else; and it is not let guess either.
        other = self.campus.person()
        self.assertIn(429, self.guess(known, other, FREE + 3))
        self.assertIn(429, self.guess(known, victim, FREE + 3))

    def test_from_one_address_at_many_accounts_a_campus_is_not_locked_out(self) -> None:
        client = self.browser("127.0.0.5")
        for n in range(110):
            self.attempt(client, f"sprayed{n}", "a guess")
        student = self.campus.person()
        self.assertEqual(self.attempt(client, student, PASSWORD).status_code, 200)
        # But of each account only one attempt is free now.
        first, *others = self.guess(client, self.campus.person(), 4)
        self.assertEqual(first, 401)
        # Where the machine is slow, the first second of waiting may be over when the next one comes.
        self.assertIn(429, others)

    def test_forwarding_headers_are_believed_only_from_named_proxies(self) -> None:
        victim, client = self.campus.person(), self.browser()
        codes = [
            self.attempt(client, victim, "a guess", **{"X-Forwarded-For": f"192.0.2.{n}"}).status_code
            for n in range(FREE + 2)
        ]
        self.assertIn(429, codes)
        behind = Server(self.campus.url, trusted_proxies="127.0.0.1")
        self.addCleanup(behind.stop)
        victim, client = self.campus.person(), self.browser(server=behind)
        codes = [
            self.attempt(client, victim, "a guess", **{"X-Forwarded-For": f"192.0.2.{n}"}).status_code
            for n in range(FREE + 2)
        ]
        self.assertEqual(set(codes), {401})

    def test_attempts_count_before_they_are_verified(self) -> None:
        victim = self.campus.person()
        # Made beforehand: a second after the fifth failure another attempt is due.
        clients = [self.browser("127.0.0.6") for _ in range(12)]
        with ThreadPoolExecutor(12) as pool:
            codes = list(pool.map(lambda client: self.guess(client, victim, 1)[0], clients))
        self.assertEqual(set(codes), {401, 429})
        self.assertLessEqual(codes.count(401), FREE)


class ManyAtOnce(OnACampus):
    def test_a_hundred_strangers_at_once_while_a_student_works(self) -> None:
        student = self.campus.client(self.campus.person(), self.server.url)
        self.addCleanup(student.close)
        with ThreadPoolExecutor(60) as pool:
            strangers = [
                pool.submit(self.guess, self.browser(f"127.0.1.{n % 7}"), f"stranger{n}", 1)
                for n in range(110)
            ]
            own = [student.get(CART).status_code for _ in range(10)]
            codes = Counter(code for s in strangers for code in s.result())
        self.assertEqual(own, [200] * 10)
        self.assertLessEqual(set(codes), {401, 503})
        self.assertEqual(self.campus.value("SELECT count(*) FROM sign_ins WHERE result = 'open'"), 0)

    def test_no_connection_is_held_while_a_password_is_verified(self) -> None:
        """Several attempts are under way with one connection among them."""
        database = connect(self.campus.url, most_connections=1)
        self.addCleanup(database.close_all)
        who = self.campus.person()
        attempts = [sign_in.begin(database, who.username, "192.0.2.1", "") for _ in range(4)]
        opened = sign_in.finish(database, attempts[2], True, "a browser")
        self.assertEqual(opened.session.person.username, who.username)

    def test_the_queue_has_an_end_in_all_and_for_an_address(self) -> None:
        async def fill() -> None:
            verifier = Verifier()
            with mock.patch.multiple(passwords, MAX_WAITING_ATTEMPTS=5, MOST_OF_ADDRESS=3):
                async with _held(verifier, ["here"] * 3):
                    with self.assertRaises(Problem) as met:
                        async with verifier.place_in_queue("here", is_known=False):
                            self.fail("a fourth place")
                    self.assertEqual(
                        (met.exception.kind, met.exception.retry_after), (ProblemKind.SIGN_IN_BUSY, 5)
                    )
                    # A known browser has a place where its address has none, as long as there is one.
                    known = verifier.place_in_queue("here", is_known=True)
                    async with _held(verifier, ["there"]), known:
                        with self.assertRaises(Problem):
                            async with verifier.place_in_queue("elsewhere", is_known=True):
                                self.fail("a sixth place")
                async with verifier.place_in_queue("here", is_known=False):
                    pass
            verifier.stop()

        asyncio.run(fill())

    def test_it_takes_as_long_where_there_is_no_such_person(self) -> None:
        verified: list[Any] = []
        with mock.patch.object(passwords, "_verify", lambda hashed, _: verified.append(hashed)):
            verifier = Verifier()
            asyncio.run(verifier.is_right(None, "a guess"))
            verifier.stop()
        self.assertRegex(verified[0], r"^\$argon2id\$")


class _held:
    """Places in a queue, held until the end of a block."""

    def __init__(self, verifier: Verifier, addresses: list[str]) -> None:
        self._lifespans = [verifier.place_in_queue(a, is_known=False) for a in addresses]

    async def __aenter__(self) -> None:
        for lifespan in self._lifespans:
            await lifespan.__aenter__()

    async def __aexit__(self, *_: object) -> None:
        for lifespan in self._lifespans:
            await lifespan.__aexit__(None, None, None)


class Sessions(OnACampus):
    def signed_in(self, who: Somebody, address: str = "127.0.0.1") -> httpx.Client:
        """A browser that has signed in."""
        client = self.browser(address)
        answer = self.attempt(client, who, PASSWORD)
        self.assertEqual(answer.status_code, 200, answer.text)
        client.headers["X-CSRF-Token"] = answer.json()["csrf_token"]
        return client

    def test_a_list_of_ones_own_and_sign_out_everywhere_else(self) -> None:
        who, other = self.campus.people(2)
        here, there, theirs = self.signed_in(who), self.signed_in(who), self.signed_in(other)
        there.headers["User-Agent"] = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Firefox/140.0"
        found = here.get("/api/sessions").json()
        self.assertEqual([s["is_this"] for s in found], [False, True])
        self.assertNotIn("token", str(found))
        left = here.delete("/api/sessions").json()
        self.assertEqual([s["is_this"] for s in left], [True])
        self.assertEqual([c.get(CART).status_code for c in (here, there, theirs)], [200, 401, 200])

    def test_of_more_than_ten_the_one_used_longest_ago_ends(self) -> None:
        who, other = self.campus.people(2)
        first, theirs = self.signed_in(who), self.signed_in(other)
        others = [self.signed_in(who) for _ in range(MAX_SESSIONS - 1)]
        self.assertEqual([c.get(CART).status_code for c in (first, *others)], [200] * MAX_SESSIONS)
        self.campus.run(
            "UPDATE sessions SET seen_at = now() - interval '1 hour' WHERE id = "
            "(SELECT min(id) + 3 FROM sessions WHERE person_id = %s)",
            who.id,
        )
        self.signed_in(who)
        self.assertEqual(len(first.get("/api/sessions").json()), MAX_SESSIONS)
        statuses = [c.get(CART).status_code for c in (first, *others, theirs)]
        self.assertEqual(statuses.count(401), 1)
        self.assertEqual(statuses[0], 200)

    def test_an_office_signs_somebody_out_everywhere_and_it_is_on_record(self) -> None:
        who, registrar = self.campus.person(), self.campus.person("registrar")
        theirs = [self.signed_in(who) for _ in range(2)]
        office = self.signed_in(registrar)
        answer = office.post(f"/api/office/people/{who.username}/sign-out")
        self.assertEqual(answer.json(), {"full_name": who.username.title(), "sessions": 2})
        self.assertEqual([c.get(CART).status_code for c in theirs], [401, 401])
        self.assertEqual(office.get("/api/sessions").status_code, 200)
        self.assertEqual(office.post("/api/office/people/nobody-at-all/sign-out").status_code, 404)
        told = f"signed {who.username} out of 2 sessions"
        soon(lambda: self.campus.value("SELECT count(*) FROM audit_entries WHERE detail = %s", told) == 1)

    def test_a_session_presented_at_signing_in_ends(self) -> None:
        who = self.campus.person()
        client = self.signed_in(who)
        old = dict(client.cookies)
        self.attempt(client, who, PASSWORD)
        self.assertEqual(httpx.get(f"{self.server.url}{CART}", cookies=old).status_code, 401)
        self.assertEqual(client.get(CART).status_code, 200)

    def test_it_ends_when_it_is_not_used_and_goes_on_when_it_is(self) -> None:
        idle, used = self.campus.people(2)
        for who, hours in ((idle, 2.1), (used, 1.9)):
            with self.campus.client(who, self.server.url) as client:
                self.campus.run(
                    "UPDATE sessions SET seen_at = now() - make_interval(mins => %s) WHERE person_id = %s",
                    int(hours * 60),
                    who.id,
                )
                self.assertEqual(client.get(CART).status_code, 401 if who is idle else 200)
        minutes = self.campus.value(
            "SELECT extract(epoch FROM now() - seen_at) FROM sessions WHERE person_id = %s", used.id
        )
        self.assertLess(minutes, 60)

    def test_a_role_taken_away_and_a_new_password_end_it_at_once(self) -> None:
        for change in ("role = 'cashier'", "password_hash = 'another'"):
            who = self.campus.person()
            with self.campus.client(who, self.server.url) as client:
                self.assertEqual(client.get(CART).status_code, 200)
                self.campus.run(f"UPDATE persons SET {change} WHERE id = %s", who.id)
                soon(lambda client=client: client.get(CART).status_code == 401)  # type: ignore[misc]

    def test_one_that_ends_while_it_is_looked_up_is_not_known_afterwards(self) -> None:
        token = "a token"
        with connected(self.campus.database):
            open_session(
                self.campus.database,
                token_digest(token),
                self.campus.person().id,
                "t",
                datetime.now(UTC),
                timedelta(hours=1),
                "",
            )
        digest = token_digest(token)
        cache = SessionCache(self.campus.database)
        self.addCleanup(cache.stop)
        real = cache._read

        def read(digests: object) -> object:
            found = real(digests)  # type: ignore[arg-type]
            cache.ended(digest.hex())
            return found

        with mock.patch.object(cache, "_read", read):
            self.assertIsNone(asyncio.run(cache.find(digest)))
        self.assertEqual(cache._known, {})
        self.assertIsNotNone(asyncio.run(cache.find(digest)))

    def test_cookies_over_tls_say_so_in_their_names(self) -> None:
        server = Server(self.campus.url, secure_cookies="true")
        self.addCleanup(server.stop)
        who = self.campus.person()
        answer = self.attempt(self.browser(server=server), who, PASSWORD)
        self.assertEqual(answer.headers["Strict-Transport-Security"], "max-age=31536000")
        self.assertNotIn("Strict-Transport-Security", self.browser().get("/api/session").headers)
        given = answer.headers.get_list("set-cookie")
        self.assertEqual(len(given), 2)
        for cookie in given:
            self.assertTrue(cookie.startswith("__Host-"), cookie)
            for part in ("HttpOnly", "SameSite=strict", "Secure", "Path=/"):
                self.assertIn(part, cookie)
            self.assertNotIn("Domain", cookie)
        # One by the other name is none.
        token = given[0].partition("=")[2].partition(";")[0]
        found = httpx.get(f"{server.url}{CART}", cookies={"gremba_session": token})
        self.assertEqual(found.status_code, 401)

    def test_who_never_signed_in_is_not_told_that_a_session_has_ended(self) -> None:
        self.assertNotIn("ended", self.browser().get(CART).json()["detail"])
        ended = httpx.get(f"{self.server.url}{CART}", cookies={"gremba_session": "of yesterday"})
        self.assertIn("ended", ended.json()["detail"])

    def test_signing_out_empties_what_the_browser_keeps(self) -> None:
        client = self.signed_in(self.campus.person())
        answer = client.delete("/api/session")
        self.assertEqual(answer.headers["Clear-Site-Data"], '"cache", "storage"')
