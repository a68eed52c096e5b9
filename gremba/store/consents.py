"""Consent codes as they are kept, who teaches what, and guesses at codes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from playhouse.pool import PooledPostgresqlDatabase

from gremba.store.database import rows, run


@dataclass(frozen=True, slots=True)
class ConsentLine:
    """A code with what became of it."""

    id: int
    code: str
    lifts: tuple[str, ...]
    student: str
    given_at: datetime
    expires_at: datetime | None
    withdrawn_at: datetime | None
    used_by: str
    used_at: datetime | None


def section_of_instructor(
    database: PooledPostgresqlDatabase, section_id: int, person_id: int
) -> bool:
    """Whether somebody teaches a section."""
    return bool(
        rows(
            database,
            "SELECT 1 FROM section_instructors WHERE section_id = %s AND person_id = %s",
            (section_id, person_id),
        )
    )


def student_by_username(database: PooledPostgresqlDatabase, username: str) -> int | None:
    """The id of a student; None if there is none of that name."""
    found = rows(
        database,
        "SELECT s.id FROM students s JOIN persons p ON p.id = s.id WHERE p.username = %s",
        (username.strip().casefold(),),
    )
    return found[0][0] if found else None


def insert_consents(
    database: PooledPostgresqlDatabase,
    codes: Sequence[str],
    section_id: int,
    student_id: int | None,
    lifts: Sequence[str],
    given_by: int,
    at: datetime,
    expires_at: datetime | None,
) -> None:
    """Write codes that differ in nothing but their wording."""
    run(
        database,
        "INSERT INTO consent_codes (code, section_id, student_id, lifts, given_by, given_at, "
        "expires_at) SELECT c, %s, %s, %s::text[], %s, %s, %s FROM unnest(%s::text[]) AS c",
        (section_id, student_id, list(lifts), given_by, at, expires_at, list(codes)),
    )


def lock_consents_of(database: PooledPostgresqlDatabase, section_id: int) -> None:
    """Hold off others who give codes for a section, until the transaction ends."""
    rows(database, "SELECT pg_advisory_xact_lock(%s, %s)", (_GIVING, section_id))


_GIVING = 0x636F6473


def count_open_consents(
    database: PooledPostgresqlDatabase, section_id: int, at: datetime
) -> int:
    """Codes of a section that could still be used."""
    found = rows(
        database,
        "SELECT count(*) FROM consent_codes c WHERE c.section_id = %s AND c.withdrawn_at IS NULL "
        "AND (c.expires_at IS NULL OR c.expires_at > %s) "
        "AND NOT EXISTS (SELECT 1 FROM consent_uses u WHERE u.consent_id = c.id)",
        (section_id, at),
    )
    return int(found[0][0])


def list_consents(database: PooledPostgresqlDatabase, section_id: int) -> list[ConsentLine]:
    """The codes of a section, newest first."""
    return [
        ConsentLine(row[0], row[1], tuple(row[2]), *row[3:])
        for row in rows(
            database,
            "SELECT c.id, c.code, c.lifts, coalesce(f.full_name, ''), c.given_at, c.expires_at, "
            "c.withdrawn_at, coalesce(p.full_name, ''), u.used_at "
            "FROM consent_codes c LEFT JOIN persons f ON f.id = c.student_id "
            "LEFT JOIN consent_uses u ON u.consent_id = c.id "
            "LEFT JOIN student_terms st ON st.id = u.student_term_id "
            "LEFT JOIN persons p ON p.id = st.student_id "
            "WHERE c.section_id = %s ORDER BY c.id DESC",
            (section_id,),
        )
    ]


def withdraw_consent(
    database: PooledPostgresqlDatabase, consent_id: int, section_id: int, at: datetime
) -> int:
    """Take a code back; gives 0 if it is not there, was used, or was taken back before."""
    rows(
        database, "SELECT 1 FROM consent_codes WHERE id = %s FOR NO KEY UPDATE", (consent_id,)
    )
    return run(
        database,
        "UPDATE consent_codes c SET withdrawn_at = %s WHERE id = %s AND section_id = %s "
        "AND withdrawn_at IS NULL "
        "AND NOT EXISTS (SELECT 1 FROM consent_uses u WHERE u.consent_id = c.id)",
        (at, consent_id, section_id),
    )


def count_guesses(
    database: PooledPostgresqlDatabase, person_id: int, since: datetime
) -> int:
    """Codes that somebody named since a time and that do not exist."""
    found = rows(
        database,
        "SELECT count(*) FROM consent_guesses WHERE person_id = %s AND at > %s",
        (person_id, since),
    )
    return int(found[0][0])


def write_guess(
    database: PooledPostgresqlDatabase, person_id: int, code: str, at: datetime
) -> None:
    """Note a code that does not exist."""
    run(
        database,
        "INSERT INTO consent_guesses (person_id, code, at) VALUES (%s, %s, %s)",
        (person_id, code, at),
    )
