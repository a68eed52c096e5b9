"""A small college in a real database, for tests of storage and of the server."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from typing import Any

import httpx
from psycopg.types.json import Jsonb

from gremba.actions.access.sessions import token_digest
from gremba.actions.context import ActionContext
from gremba.core.messages import Message, MessageKind
from gremba.standins.clock import RealClock
from gremba.standins.passwords import hash_password
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected, fetch_sql, run_sql
from gremba.web.access.cookies import session_cookie
from gremba.web.access.guard import CSRF_HEADER
from tests.support.world import request

TERM = "coming"
PASSWORD = "a long enough password"
_HASH = hash_password(PASSWORD)


@dataclass(frozen=True)
class Somebody:
    """A person with their row of the term (0 for offices)."""

    id: int
    row: int
    username: str


class Campus:
    """Begins in sixty days; windows are open; everybody is clear."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.database = connect(url)
        self.begins = date.today() + timedelta(60)
        self._sections = 0
        self._people = 0
        with connected(self.database):
            self._make_term()

    def close(self) -> None:
        """Give all connections back."""
        self.database.close_all()

    def _make_term(self) -> None:
        ends = self.begins + timedelta(109)
        policy = {
            "credit_limits": {"good": 18, "probation": 13},
            "clearance": {
                "agreement": ["An anticipated payment."],
                "survey": [
                    {"key": "boots", "text": "Have you boots?", "options": ["Yes", "No"]},
                    {"key": "hours", "text": "How many hours do you work?", "options": ["None", "Some"]},
                ],
                "survey_about": "Two questions about boots and hours.",
                "orientation": ["A page.", "Another."],
            },
        }
        run_sql(
            self.database,
            "INSERT INTO terms (id, code, name, zone, first_day, last_day, policy, state) "
            "VALUES (1, %s, 'Coming Term', 'America/New_York', %s, %s, %s, 'open')",
            (TERM, self.begins, ends, Jsonb(policy)),
        )
        run_sql(self.database, "INSERT INTO tariff_rates VALUES (1, '', '', 10000)")
        run_sql(
            self.database,
            "INSERT INTO term_sessions (id, term_id, code, name, first_day, last_day, add_by, drop_by, "
            "withdraw_by) VALUES (1, 1, 'full', 'full term', %s, %s, %s, %s, %s)",
            (
                self.begins,
                ends,
                self.begins + timedelta(4),
                self.begins + timedelta(11),
                self.begins + timedelta(74),
            ),
        )
        # Its ids are given by hand; what the application adds comes behind them.
        for table in ("terms", "term_sessions", "sections", "seat_pools"):
            fetch_sql(self.database, f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), 100000)")
        run_sql(self.database, "INSERT INTO subjects VALUES ('LAND', 'Land')")

    def section(self, seats: int, weekdays: str = "", starts: int = 8, **more: Any) -> str:
        """A section of a course of its own; gives its reference number."""
        self._sections += 1
        n = self._sections
        number = f"{40_000 + n}"
        with connected(self.database):
            run_sql(
                self.database,
                "INSERT INTO courses (id, subject, number, title, credits_least, credits_most) "
                "VALUES (%s, 'LAND', %s, %s, 3, 3)",
                (n, f"{100 + n}", f"Course {n}"),
            )
            run_sql(
                self.database,
                "INSERT INTO seat_pools (id, term_id, seat_limit) VALUES (%s, 1, %s)",
                (n, seats),
            )
            run_sql(
                self.database,
                "INSERT INTO sections (id, term_id, reference_number, course_id, session_id, pool_id, "
                "component, delivery, cancelled, consent_needed) VALUES (%s, 1, %s, %s, 1, %s, "
                "'lecture', 'in person', %s, %s)",
                (n, number, n, n, more.get("cancelled", False), more.get("consent_needed", False)),
            )
            if weekdays:
                run_sql(
                    self.database,
                    "INSERT INTO meetings (section_id, weekdays, starts, ends, first_day, "
                    "last_day) VALUES (%s, %s, %s, %s, %s, %s)",
                    (n, weekdays, time(starts), time(starts, 50), self.begins, self.begins + timedelta(109)),
                )
        return number

    def person(self, role: str = "student", opens_in: timedelta = timedelta(-1)) -> Somebody:
        """Somebody; a student gets a row of the term and a window."""
        self._people += 1
        username = f"{role}{self._people}"
        now = datetime.now(UTC)
        with connected(self.database):
            found = fetch_sql(
                self.database,
                "INSERT INTO persons (username, full_name, role, email, password_hash) "
                "VALUES (%s, %s, %s, 'nobody@college.example', %s) RETURNING id",
                (username, username.title(), role, _HASH),
            )
            person_id, row = found[0][0], 0
            if role == "student":
                run_sql(self.database, "INSERT INTO students (id) VALUES (%s)", (person_id,))
                row = fetch_sql(
                    self.database,
                    "INSERT INTO student_terms (student_id, term_id) VALUES (%s, 1) RETURNING id",
                    (person_id,),
                )[0][0]
                run_sql(
                    self.database,
                    "INSERT INTO windows VALUES (%s, %s, %s)",
                    (row, now + opens_in, now + timedelta(40)),
                )
        return Somebody(person_id, row, username)

    def people(self, many: int) -> list[Somebody]:
        """So many students."""
        return [self.person() for _ in range(many)]

    def client(self, who: Somebody, server: str, **options: Any) -> httpx.Client:
        """A client that is signed in, by a session written straight to the table."""
        token, csrf_token, now = secrets.token_urlsafe(), secrets.token_urlsafe(), datetime.now(UTC)
        with connected(self.database):
            run_sql(
                self.database,
                "INSERT INTO sessions (token_digest, person_id, csrf_token, created_at, "
                "expires_at) VALUES (%s, %s, %s, %s, %s)",
                (token_digest(token), who.id, csrf_token, now, now + timedelta(hours=1)),
            )
        return httpx.Client(
            base_url=server,
            cookies={session_cookie(False).full_name: token},
            headers={CSRF_HEADER: csrf_token},
            timeout=60,
            **options,
        )

    def context(self) -> ActionContext:
        """What actions work with, in this process."""
        return ActionContext(self.database, CatalogueCache(self.database), RealClock())

    def run(self, sql: str, *parameters: Any) -> None:
        """A statement straight to the tables."""
        with connected(self.database):
            run_sql(self.database, sql, parameters)

    def told(self) -> list[tuple[int, Message]]:
        """All messages, the first first, with the row of the student who gets them."""
        with connected(self.database) as database:
            found = fetch_sql(database, "SELECT student_term_id, kind, facts FROM messages ORDER BY id")
        return [(row, Message(MessageKind(kind), facts)) for row, kind, facts in found]

    def clearance(self, who: Somebody, *kinds: str) -> None:
        """Items that a student has still to clear."""
        for kind in kinds:
            self.run("INSERT INTO clearance_items (student_term_id, kind) VALUES (%s, %s)", who.row, kind)

    def fee_hold(self, who: Somebody, cents: int = 6200) -> int:
        """A fee hold that can be paid; gives its id."""
        return int(
            self.value(
                "INSERT INTO holds (student_id, kind, reason, office, contact, stops, cleared_by, "
                "amount_cents, placed_at) VALUES (%s, 'fee', 'A fee is unpaid.', 'the cashier', "
                "'room 3', ARRAY['add', 'swap'], 'student', %s, now()) RETURNING id",
                who.id,
                cents,
            )
        )

    def advised_by(self, who: Somebody, advisor: Somebody) -> None:
        """Make a student one of an advisor's own."""
        self.run("UPDATE students SET advisor_id = %s WHERE id = %s", advisor.id, who.id)

    def taught_by(self, number: str, instructor: Somebody) -> None:
        """Let an instructor teach a section."""
        self.run("INSERT INTO section_instructors VALUES (%s, %s)", int(number) - 40_000, instructor.id)

    def value(self, sql: str, *parameters: Any) -> Any:
        """One value out of the database."""
        with connected(self.database):
            return fetch_sql(self.database, sql, parameters)[0][0]

    def disagreements(self) -> list[tuple[Any, ...]]:
        """Pools whose figures are not those of their rows, or that are oversold: none, ever."""
        with connected(self.database):
            return fetch_sql(
                self.database,
                """
                SELECT p.id, p.taken, p.seat_limit, count(r.id) FROM seat_pools p
                LEFT JOIN registrations r ON r.pool_id = p.id AND r.state = 'registered'
                GROUP BY p.id HAVING p.taken <> count(r.id) OR p.taken > p.seat_limit + p.beyond
            """,
            )


def send(
    client: httpx.Client, changes: list[str], key: str = "", mode: str = "each", **query: int
) -> httpx.Response:
    """Send changes as :func:`tests.support.world.request` reads them: ``+40001``,
    ``40001>40002``, ``+40001 #CODE``."""
    wanted = [
        {
            "kind": c.kind,
            "number": c.number,
            "in_exchange": c.in_exchange or None,
            "grading": c.grading,
            "credits": c.credits,
            "permission_code": c.permission_code,
            "wait_if_full": c.wait_if_full,
        }
        for c in request(changes).changes
    ]
    return client.post(
        f"/api/terms/{TERM}/submissions",
        params=query,
        json={"mode": mode, "changes": wanted},
        headers={"Idempotency-Key": key or secrets.token_hex(12)},
    )


def outcome(response: httpx.Response) -> str:
    """One letter a change: a for accepted, r for refused."""
    response.raise_for_status()
    return "".join(o["result"][0] for o in response.json()["body"]["outcomes"])
