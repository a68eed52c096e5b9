"""What a student has to have done before registering, as it is kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase
from psycopg.types.json import Jsonb

from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class ItemLine:
    """One item: what, and when and by whom it was done."""

    kind: str
    done_at: datetime | None
    done_by: str


@dataclass(frozen=True, slots=True)
class Details:
    """How the college reaches a student."""

    phone: str = ""
    address: str = ""
    emergency_name: str = ""
    emergency_phone: str = ""


def read_items(database: PooledPostgresqlDatabase, student_term_id: int) -> list[ItemLine]:
    """All items of a student in a term."""
    return [
        ItemLine(*row)
        for row in rows(
            database,
            "SELECT c.kind, c.done_at, coalesce(p.full_name, '') FROM clearance_items c "
            "LEFT JOIN persons p ON p.id = c.done_by WHERE c.student_term_id = %s",
            (student_term_id,),
        )
    ]


def set_item(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    kind: str,
    done_at: datetime | None,
    done_by: int | None,
) -> None:
    """Mark an item as done, or as open again; one that is in that state stays as it is."""
    run(
        database,
        "INSERT INTO clearance_items (student_term_id, kind, done_at, done_by) "
        "VALUES (%s, %s, %s, %s) ON CONFLICT (student_term_id, kind) DO UPDATE "
        "SET done_at = excluded.done_at, done_by = excluded.done_by "
        "WHERE (clearance_items.done_at IS NULL) <> (excluded.done_at IS NULL)",
        (student_term_id, kind, done_at, done_by),
    )


def read_details(database: PooledPostgresqlDatabase, student_id: int) -> tuple[str, Details]:
    """The college address and the details of a student."""
    found = rows(
        database,
        "SELECT p.email, coalesce(d.phone, ''), coalesce(d.address, ''), "
        "coalesce(d.emergency_name, ''), coalesce(d.emergency_phone, '') "
        "FROM persons p LEFT JOIN contact_details d ON d.student_id = p.id WHERE p.id = %s",
        (student_id,),
    )
    return found[0][0], Details(*found[0][1:])


def write_details(
    database: PooledPostgresqlDatabase, student_id: int, details: Details
) -> None:
    """Keep a student's details."""
    run(
        database,
        "INSERT INTO contact_details VALUES (%s, %s, %s, %s, %s) ON CONFLICT (student_id) "
        "DO UPDATE SET phone = excluded.phone, address = excluded.address, "
        "emergency_name = excluded.emergency_name, emergency_phone = excluded.emergency_phone",
        (student_id, details.phone, details.address, details.emergency_name,
         details.emergency_phone),
    )  # fmt: skip


def write_survey(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    answers: Mapping[str, str],
    at: datetime,
) -> None:
    """Keep the answers to the survey of a term."""
    run(
        database,
        "INSERT INTO survey_answers VALUES (%s, %s, %s) ON CONFLICT (student_term_id) "
        "DO UPDATE SET answers = excluded.answers, at = excluded.at",
        (student_term_id, Jsonb(dict(answers)), at),
    )
