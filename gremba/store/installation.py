"""Finds out whether a database is empty, ours or foreign, and migrates ours."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field
from enum import StrEnum
from pathlib import Path

from playhouse.migrations import Runner
from playhouse.pool import PooledPostgresqlDatabase

from gremba.store import models
from gremba.store.database import connected, fetch_sql, run_sql
from gremba.store.queries import (
    fetch_tuples,
    fetch_value,
    give_lock_back,
    has_rows,
    take_lock,
    write,
)

MIGRATIONS = Path(__file__).parent / "migrations"
_MIGRATION_LOCK = 0x6772656D6261

HISTORY = "schema_migration"
"""Where the migrations that have been applied are noted."""

TRIGGERS = Path(__file__).with_name("triggers.sql")
_FIRST = "0001_everything"


class InstallationKind(StrEnum):
    """What a database contains."""

    EMPTY = "empty"
    OURS = "ours"
    FOREIGN = "foreign"


@dataclass(frozen=True, slots=True)
class Installation:
    """What was found in a database.

    Attributes:
        tables: those that were found, with their schema unless it is the usual one.
        is_demo: it holds the demo, and may be made anew.
        is_complete: it was filled to the end.
        has_people: somebody is in it.
        unknown: migrations applied to it that this version does not know.
        missing: "table.column" of what stood there once and does not any more.
        strange: tables in it that no migration has made.
    """

    kind: InstallationKind
    tables: tuple[str, ...] = ()
    is_demo: bool = False
    is_complete: bool = True
    has_people: bool = False
    unknown: tuple[str, ...] = ()
    missing: tuple[str, ...] = ()
    strange: tuple[str, ...] = field(default=())


_TABLES = """
SELECT CASE WHEN n.nspname = 'public' THEN '' ELSE n.nspname || '.' END || c.relname
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'v', 'm', 'f', 'S') AND n.nspname <> 'information_schema'
    AND n.nspname NOT LIKE 'pg\\_%%'
    AND NOT EXISTS (SELECT 1 FROM pg_depend d WHERE d.objid = c.oid AND d.deptype IN ('i', 'a', 'e'))
ORDER BY 1
"""

_COLUMNS = """
SELECT c.relname || '.' || a.attname FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE n.nspname = 'public' AND c.relkind IN ('r', 'p') AND a.attnum > 0 AND NOT a.attisdropped
ORDER BY 1
"""


def look_at(database: PooledPostgresqlDatabase) -> Installation:
    """Inspect a database without changing it."""
    tables = tuple(row[0] for row in fetch_sql(database, _TABLES))
    if not tables:
        return Installation(InstallationKind.EMPTY)
    if HISTORY not in tables:
        return Installation(InstallationKind.FOREIGN, tables)
    applied = {row[0] for row in fetch_sql(database, f"SELECT name FROM {HISTORY}")}
    known = {path.stem for path in MIGRATIONS.glob("0*.py")}
    unknown = tuple(sorted(applied - known))
    if "installation" not in tables:
        # It may be anything that keeps a history of that name, or ours and damaged.
        kind = InstallationKind.OURS if _FIRST in applied else InstallationKind.FOREIGN
        return Installation(kind, tables, unknown=unknown, missing=("installation",))
    table = models.Installation
    said = fetch_tuples(database, table.select(table.is_demo, table.is_complete, table.columns))
    is_demo, is_complete, columns = said[0] if said else (False, True, ())
    own = {name.partition(".")[0] for name in columns}
    strange = tuple(t for t in tables if own and t not in own)
    if _FIRST not in applied:
        # From before the first version. A demo of then can only be made anew.
        kind = InstallationKind.OURS if is_demo else InstallationKind.FOREIGN
        return Installation(kind, tables, is_demo, not is_demo, strange=strange)
    present = {row[0] for row in fetch_sql(database, _COLUMNS)}
    people = models.Person.select(models.Person.id)
    return Installation(
        InstallationKind.OURS,
        tables,
        is_demo,
        is_complete,
        "persons" in tables and has_rows(database, people),
        unknown,
        tuple(sorted(set(columns) - present)),
        strange,
    )


def migrate(database: PooledPostgresqlDatabase) -> list[str]:
    """Bring the schema up to date; safe to call from several processes at once.

    Returns:
        The names of the migrations that were applied now, and "triggers" if those were others.
    """
    with connected(database):
        take_lock(database, _MIGRATION_LOCK)
        try:
            runner = Runner(database, str(MIGRATIONS))
            pending = len(runner.applied()) < len(runner.migrations())
            # The role that serves may not even try to make what is there.
            applied: list[str] = runner.up() if pending else []
            if _put_triggers_in_force(database):
                applied.append(TRIGGERS.stem)
            if applied:
                _note_columns(database)
            return applied
        finally:
            give_lock_back(database, _MIGRATION_LOCK)


def is_current(database: PooledPostgresqlDatabase) -> bool:
    """Whether the schema has exactly this version's migrations."""
    with connected(database):
        if look_at(database).kind is not InstallationKind.OURS:
            return False
        applied = {row[0] for row in fetch_sql(database, f"SELECT name FROM {HISTORY}")}
        return applied == {path.stem for path in MIGRATIONS.glob("0*.py")}


def _put_triggers_in_force(database: PooledPostgresqlDatabase) -> bool:
    """Installs the triggers of the file; returns whether they differed."""
    text = TRIGGERS.read_text()
    digest = hashlib.sha256(text.encode()).hexdigest()
    own = models.Installation
    if fetch_value(database, own.select(own.triggers)) == digest:
        return False
    with database.atomic():
        # Without parameters: a percent sign is one, and many statements go at once.
        database.cursor().execute(text)
        write(database, own.update(triggers=digest))
    return True


def _note_columns(database: PooledPostgresqlDatabase) -> None:
    columns = [row[0] for row in fetch_sql(database, _COLUMNS)]
    write(database, models.Installation.update(columns=columns))


def mark_as_demo(database: PooledPostgresqlDatabase, *, is_complete: bool) -> None:
    """Mark a database as holding the demo, and whether it is complete."""
    write(database, models.Installation.update(is_demo=True, is_complete=is_complete))


SERVING_DELETES = (
    "cart_changes",
    "cart_plans",
    "courses_wanted",
    "starred",
    "freed_seats",
    "sign_ins",
    "permission_code_guesses",
    "known_browsers",
    "sessions",
)
"""Tables that the application takes rows out of: carts, stars and what is wanted at the moment, notes that
are done with, and what
is about access when it is old."""

_ONLY_READ = (HISTORY, "installation", "audit_entries", "audit_head")

_HIDDEN = "audit_key"


def give_rights(database: PooledPostgresqlDatabase, role: str) -> None:
    """Grant the serving role what it needs and nothing else: it alters no table and deletes from few. Role
    and database are named by us, never by a person."""
    writable = [
        t for t in (row[0] for row in fetch_sql(database, _TABLES)) if t not in (*_ONLY_READ, _HIDDEN)
    ]
    for statement in (
        f'REVOKE ALL ON ALL TABLES IN SCHEMA public FROM "{role}"',
        f'GRANT USAGE ON SCHEMA public TO "{role}"',
        f'GRANT SELECT ON ALL TABLES IN SCHEMA public TO "{role}"',
        f'REVOKE ALL ON {_HIDDEN} FROM "{role}"',
        f'GRANT INSERT, UPDATE ON {", ".join(writable)} TO "{role}"',
        f'GRANT DELETE ON {", ".join(SERVING_DELETES)} TO "{role}"',
        f'GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO "{role}"',
    ):
        run_sql(database, statement)
