"""A large college to measure with: 5,000 sections, and students with records and open windows."""

from __future__ import annotations

import json
import random
import secrets
from datetime import UTC, date, datetime, time, timedelta
from pathlib import Path

from playhouse.pool import PooledPostgresqlDatabase

from gremba.actions.access.sessions import token_digest
from gremba.core.catalogue.requisites import CourseNeed, to_data
from gremba.demo.tables import Tables
from gremba.store.database import connected, run_sql
from gremba.web.access.cookies import session_cookie

TERM = "bench"
SECTIONS = 5_000
COURSES = 1_250
WORDS = [
    first + middle + last
    for first in ("bar", "clo", "dun", "fer", "gra", "hol", "mel", "pas", "ri", "wil")
    for middle in ("lem", "mow", "ned", "ster", "vin")
    for last in ("ing", "el", "ard", "ow", "ment", "ish")
]
"""Three hundred made-up words, for titles and descriptions."""
HOURS = [(days, hour) for hour in range(8, 18) for days in ("MWF", "TR")]


def fill(database: PooledPostgresqlDatabase, students: int, requests: Path) -> None:
    """Fill empty tables, and write a five-section submission of each student to a file."""
    rng = random.Random(1)
    tables = Tables()
    _catalogue(tables)
    now = datetime.now(UTC)
    sessions = []
    with requests.open("w") as file:
        for student in range(1, students + 1):
            _student(tables, rng, student, now)
            token, csrf_token = secrets.token_urlsafe(24), secrets.token_urlsafe(16)
            sessions.append((token_digest(token), student, csrf_token))
            chosen = rng.sample(range(len(HOURS)), 5)
            numbers = [_number(slot + len(HOURS) * rng.randrange(SECTIONS // len(HOURS))) for slot in chosen]
            body = {"mode": "each", "changes": [{"kind": "add", "number": n} for n in numbers]}
            file.write(
                "\t".join(
                    [
                        f"/api/terms/{TERM}/submissions",
                        f"{session_cookie(False).full_name}={token}",
                        csrf_token,
                        f"bench-key-{student}",
                        json.dumps(body),
                    ]
                )
                + "\n"
            )
    with connected(database), database.atomic():
        tables.write(database)
        run_sql(
            database,
            "INSERT INTO sessions (token_digest, person_id, csrf_token, created_at, expires_at) "
            "SELECT d, p, c, %s, %s "
            "FROM unnest(%s::bytea[], %s::int[], %s::text[]) AS t (d, p, c)",
            (now, now + timedelta(hours=4), *map(list, zip(*sessions, strict=True))),
        )
    with connected(database):
        # Only what is filled: of a table once seen empty PostgreSQL would go on thinking so, and
        # read it through for every key while it grows.
        for table in (*tables.rows, "sessions"):
            run_sql(database, f"VACUUM ANALYZE {table}")


def _number(section: int) -> str:
    return f"{20_000 + section}"


def _catalogue(tables: Tables) -> None:
    rng = random.Random(2)
    begins = date.today() + timedelta(60)
    ends = begins + timedelta(109)
    tables.add(
        "terms",
        code=TERM,
        name="Bench Term",
        zone="America/New_York",
        first_day=begins,
        last_day=ends,
        policy={"credit_limits": {"good": 18}},
        state="open",
    )
    tables.add(
        "term_sessions",
        term_id=1,
        code="full",
        name="full term",
        first_day=begins,
        last_day=ends,
        add_by=begins + timedelta(4),
        drop_by=begins + timedelta(11),
        withdraw_by=begins + timedelta(74),
        refund_steps=[],
    )
    tables.add_link("subjects", code="LAND", name="Land")
    tables.add_link("subjects", code="CRAFT", name="Craft")
    for course in range(COURSES):
        subject = "LAND" if course < COURSES // 2 else "CRAFT"
        # Every other course needs one that most students have passed or are taking.
        need = None if course % 2 else to_data(CourseNeed(f"BASE {course % 20 + 100}", "D-"))
        tables.add(
            "courses",
            subject=subject,
            number=f"{100 + course % (COURSES // 2)}",
            title=f"{rng.choice(WORDS)} and {rng.choice(WORDS)}",
            description=" ".join(rng.sample(WORDS, 12)),
            credits_least=3,
            credits_most=3,
            requisites=need,
        )
    for section in range(SECTIONS):
        pool = tables.add("seat_pools", term_id=1, seat_limit=30)
        row = tables.add(
            "sections",
            term_id=1,
            reference_number=_number(section),
            course_id=section // 4 + 1,
            session_id=1,
            pool_id=pool,
            component="lecture",
            delivery="in person",
            notes=" ".join(rng.sample(WORDS, 3)),
        )
        days, hour = HOURS[section % len(HOURS)]
        tables.add(
            "meetings",
            section_id=row,
            weekdays=days,
            starts=time(hour),
            ends=time(hour, 50),
            first_day=begins,
            last_day=ends,
        )


def _student(tables: Tables, rng: random.Random, student: int, now: datetime) -> None:
    tables.add(
        "persons",
        username=f"s{student}",
        full_name=f"Student {student}",
        role="student",
        email="nobody@college.example",
        password_hash="",
    )
    tables.add_link("students", id=student)
    row = tables.add("student_terms", student_id=student, term_id=1)
    tables.add_link(
        "windows", student_term_id=row, opens_at=now - timedelta(1), closes_at=now + timedelta(30)
    )
    for course in range(20):
        tables.add(
            "record_entries",
            student_id=student,
            course=f"BASE {course + 100}",
            term_name="Earlier Term",
            grade=rng.choice(["A", "B", "C", "D", None]),
            credits=3,
        )
