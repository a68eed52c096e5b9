"""Writes a term copied from another."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Any

from peewee import Select, Value, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.account.policy import account_policy_data
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.catalogue.term_copy import Forward
from gremba.store.account.rates import insert_tariff
from gremba.store.models import (
    Bundle,
    ClearanceItem,
    LinkedSection,
    Meeting,
    ReservedSeats,
    SeatPool,
    Section,
    SectionInstructor,
    StudentTerm,
    Term,
    TermBreak,
    TermSession,
)
from gremba.store.queries import fetch, fetch_tuples, fetch_value, fetch_values, one_of, write

_AT_ONCE = 1_000
"""Rows in one statement."""


@dataclass(frozen=True, slots=True)
class Carried:
    """What was copied.

    Attributes:
        cancelled: sections of the old term that did not take place, and were left there.
    """

    term_id: int
    sections: int
    cancelled: int
    students: int


def carry_forward(
    database: PooledPostgresqlDatabase,
    old: TermCatalogue,
    forward: Forward,
    *,
    code: str,
    name: str,
    numbers_from: int,
    with_students: bool,
) -> Carried:
    """Copy a term with everything in it, in the caller's transaction.

    Args:
        numbers_from: its sections have the reference numbers from here on, in the order of the old ones.
        with_students: those who were expected in the old term are expected in it, with the standing they
            have there, and have everything to clear anew.
    """
    term_id = _insert_term(database, old, forward, code, name)
    sessions = _copy_sessions(database, old, forward, term_id)
    own = Section
    taking_place = own.select().where(own.term == old.id, ~own.cancelled).order_by(own.reference_number)
    rows = fetch(database, taking_place, SimpleNamespace)
    pools = _copy_pools(database, old, forward, term_id, [row.pool_id for row in rows])
    bundles = _copy_bundles(database, old, term_id)
    sections = _copy_sections(database, rows, term_id, numbers_from, sessions, pools, bundles)
    _copy_meetings(database, old, forward, sections)
    _copy_links(database, SectionInstructor, ("section",), sections)
    _copy_links(database, LinkedSection, ("section", "with_section"), sections)
    students = _copy_students(database, old.id, term_id) if with_students else 0
    return Carried(term_id, len(rows), len(old.sections) - len(rows), students)


def _insert(database: PooledPostgresqlDatabase, model: type[Any], rows: Iterable[Mapping[str, Any]]) -> None:
    waiting = list(rows)
    for start in range(0, len(waiting), _AT_ONCE):
        write(database, model.insert_many(waiting[start : start + _AT_ONCE]))


def _insert_term(
    database: PooledPostgresqlDatabase, old: TermCatalogue, forward: Forward, code: str, name: str
) -> int:
    policy = dict(fetch_value(database, Term.select(Term.policy).where(Term.id == old.id)))
    tariff = forward.tariff(old.policy.tariff)
    policy["account"] = account_policy_data(forward.account(old.policy.account))
    row = {
        "code": code,
        "name": name,
        "zone": str(old.calendar.zone),
        "first_day": forward.first,
        "last_day": forward.last,
        "late_from": tariff.late_from,
        "late_cents": tariff.late_cents,
        "policy": policy,
    }
    _insert(database, Term, [row])
    term_id = int(fetch_value(database, Term.select(Term.id).where(Term.code == code)))
    insert_tariff(database, term_id, tariff)
    _insert(
        database,
        TermBreak,
        [
            {"term": term_id, "name": pause.name, "first_day": pause.first, "last_day": pause.last}
            for pause in forward.breaks
        ],
    )
    return term_id


def _copy_sessions(
    database: PooledPostgresqlDatabase, old: TermCatalogue, forward: Forward, term_id: int
) -> dict[int, int]:
    """The new id of each session."""
    moved = [forward.session(session) for session in old.calendar.sessions.values()]
    _insert(
        database,
        TermSession,
        [
            {
                "term": term_id,
                "code": session.code,
                "name": session.name,
                "first_day": session.first,
                "last_day": session.last,
                "add_by": session.add_by,
                "drop_by": session.drop_by,
                "withdraw_by": session.withdraw_by,
                "refund_steps": [
                    {"through": step.through.isoformat(), "percent": step.percent}
                    for step in session.refund_steps
                ],
            }
            for session in moved
        ],
    )
    return _paired(database, TermSession, "code", old.id, term_id)


def _paired(
    database: PooledPostgresqlDatabase, model: type[Any], name: str, old: int, new: int
) -> dict[int, int]:
    """The new id of each row, matched by name."""
    column = getattr(model, name)
    ids = dict(fetch_tuples(database, model.select(column, model.id).where(model.term == new)))
    were = fetch_tuples(database, model.select(model.id, column).where(model.term == old))
    return {row: ids[called] for row, called in were if called in ids}


def _copy_pools(
    database: PooledPostgresqlDatabase,
    old: TermCatalogue,
    forward: Forward,
    term_id: int,
    used: Sequence[int],
) -> dict[int, int]:
    were = sorted(set(used))
    sequence = fn.pg_get_serial_sequence("seat_pools", "id")
    series = fn.generate_series(Value(1).cast("int"), Value(len(were)).cast("int")).alias("n")
    ids = fetch_values(database, Select((series,), (fn.nextval(sequence),)))
    pools = dict(zip(were, ids, strict=True))
    own = SeatPool
    limits = fetch_tuples(database, own.select(own.id, own.seat_limit).where(one_of(own.id, were)))
    _insert(
        database,
        SeatPool,
        [{"id": pools[pool], "term": term_id, "seat_limit": limit} for pool, limit in limits],
    )
    reserved = fetch(
        database, ReservedSeats.select().where(one_of(ReservedSeats.pool, were)), SimpleNamespace
    )
    _insert(
        database,
        ReservedSeats,
        [
            {
                "pool": pools[row.pool],
                "group_kind": row.group_kind,
                "group_value": row.group_value,
                "seats": row.seats,
                "release_on": None if row.release_on is None else forward.any_day(row.release_on),
            }
            for row in reserved
        ],
    )
    return pools


def _copy_bundles(database: PooledPostgresqlDatabase, old: TermCatalogue, term_id: int) -> dict[int, int]:
    names = fetch_values(database, Bundle.select(Bundle.name).where(Bundle.term == old.id))
    _insert(database, Bundle, [{"term": term_id, "name": name} for name in names])
    return _paired(database, Bundle, "name", old.id, term_id)


def _copy_sections(
    database: PooledPostgresqlDatabase,
    rows: Sequence[Any],
    term_id: int,
    numbers_from: int,
    sessions: Mapping[int, int],
    pools: Mapping[int, int],
    bundles: Mapping[int, int],
) -> dict[int, int]:
    numbers = {row.id: str(numbers_from + place) for place, row in enumerate(rows)}
    moved: dict[str, Callable[[Any], Any]] = {
        "term": lambda row: term_id,
        "reference_number": lambda row: numbers[row.id],
        "session_id": lambda row: sessions[row.session_id],
        "pool_id": lambda row: pools[row.pool_id],
        "bundle": lambda row: bundles.get(row.bundle),
    }
    names = [name for name in Section._meta.fields if name != "id"]
    _insert(
        database,
        Section,
        [{name: moved[name](row) if name in moved else getattr(row, name) for name in names} for row in rows],
    )
    own = Section
    ids = dict(fetch_tuples(database, own.select(own.reference_number, own.id).where(own.term == term_id)))
    return {row: ids[number] for row, number in numbers.items()}


def _copy_meetings(
    database: PooledPostgresqlDatabase, old: TermCatalogue, forward: Forward, sections: Mapping[int, int]
) -> None:
    sessions = {session.code: forward.session(session) for session in old.calendar.sessions.values()}
    own = Meeting
    rows = fetch(
        database,
        own.select().where(one_of(own.section, list(sections))).order_by(own.section, own.id),
        SimpleNamespace,
    )
    copies = []
    for row in rows:
        of_old = old.by_id[row.section].session
        first, last = forward.days_of(row.first_day, row.last_day, of_old, sessions[of_old.code])
        copies.append(
            {
                "section": sections[row.section],
                "weekdays": row.weekdays,
                "starts": row.starts,
                "ends": row.ends,
                "first_day": first,
                "last_day": last,
                "campus": row.campus,
                "room": row.room,
            }
        )
    _insert(database, Meeting, copies)


def _copy_links(
    database: PooledPostgresqlDatabase,
    model: type[Any],
    of_sections: Sequence[str],
    sections: Mapping[int, int],
) -> None:
    """Copies rows that link sections, if all sections they link were copied."""
    names = list(model._meta.fields)
    query = model.select().where(one_of(model.section, list(sections)))
    rows = fetch(database, query, SimpleNamespace)
    _insert(
        database,
        model,
        [
            {
                name: sections[getattr(row, name)] if name in of_sections else getattr(row, name)
                for name in names
            }
            for row in rows
            if all(getattr(row, name) in sections for name in of_sections)
        ],
    )


def _copy_students(database: PooledPostgresqlDatabase, old: int, new: int) -> int:
    before, after, item = StudentTerm.alias("before"), StudentTerm.alias("after"), ClearanceItem
    chosen = before.select(before.student, Value(new), before.standing).where(before.term == old)
    own = StudentTerm
    many = write(database, own.insert_from(chosen, [own.student, own.term, own.standing]))
    to_clear = (
        item.select(after.id, item.kind)
        .join(before, on=before.id == item.student_term)
        .join(after, on=after.student == before.student)
        .where(before.term == old, after.term == new)
    )
    write(database, item.insert_from(to_clear, [item.student_term, item.kind]))
    return many
