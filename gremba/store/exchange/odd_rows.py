"""Finds staged rows that other rows, staged or stored, rule out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from peewee import SQL, Expression, Select, fn
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.states import TermState
from gremba.core.students.academic_plan import MOST_ALTERNATIVES
from gremba.store.exchange.kept import KEPT, Kept
from gremba.store.exchange.staging import DISTINCT, MOST_TOLD, Staged, all_equal, kept_query
from gremba.store.queries import fetch_tuples

Told = tuple[Any, str, str]
"""A query of the lines, the column, and what is the matter."""


def odd_rows(database: PooledPostgresqlDatabase, one: Staged) -> list[tuple[int, str, str]]:
    """Yields line, column, and what is wrong."""
    found: list[Told] = []
    kept_as = KEPT.get(one.table.name)
    if kept_as is not None and kept_as.placed is not None:
        found += _places(one, kept_as)
    if one.table.name in _OF_TABLES:
        found += _OF_TABLES[one.table.name](one)
    return [
        (line, column, problem)
        for query, column, problem in found
        for (line,) in fetch_tuples(database, query.order_by(one.stage.c.line).limit(MOST_TOLD))
    ]


def _present(one: Staged) -> set[str]:
    return {column.name for column in one.columns}


def _shared_seats(one: Staged) -> list[Told]:
    if "seats_with" not in _present(one):
        return []
    own, other = one.stage, one.stage.alias("other")
    shared = own.select(own.c.line).where(
        fn.EXISTS(
            other.select(SQL("1")).where(
                (other.c.term == own.c.term)
                & (other.c.number == own.c.seats_with)
                & other.c.seats_with.is_null(False)
            )
        )
    )
    kept = kept_query("sections").alias("kept")
    moved = own.select(own.c.line).join(
        kept,
        on=(
            (kept.c.term == own.c.term)
            & (kept.c.number == own.c.number)
            & Expression(kept.c.seats_with, DISTINCT, own.c.seats_with)
        ),
    )
    return [
        (
            shared,
            "seats_with",
            "names a section that has no seats of its own; name the one whose seats they are",
        ),
        (
            moved,
            "seats_with",
            "cannot be changed once the section is there; make a new one and cancel this",
        ),
    ]


def _terms_taken_back(one: Staged) -> list[Told]:
    """Terms that students have seen and would no longer see."""
    if "state" not in _present(one):
        return []
    own, kept = one.stage, kept_query("terms").alias("kept")
    prepared = TermState.PREPARED.value
    query = own.select(own.c.line).join(kept, on=(kept.c.code == own.c.code))
    query = query.where(own.c.state == prepared, kept.c.state != prepared)
    return [(query, "state", "the term has been opened already, and is not prepared again; close it instead")]


def _places(one: Staged, kept_as: Kept) -> list[Told]:
    """Rows whose position has no predecessor, or whose order differs from their positions."""
    assert kept_as.placed is not None
    own, other = one.stage, one.stage.alias("other")
    kept = kept_query(one.table.name).alias("kept")
    owners = [name for name in one.table.key if name != "place"]

    def before(rows: Any) -> Any:
        same = all_equal((getattr(rows.c, name), getattr(own.c, name)) for name in owners)
        return same & (rows.c.place == own.c.place - 1)

    staged = other.select(SQL("1")).where(before(other))
    there = Select((kept,), (SQL("1"),)).where(before(kept))
    alone = own.select(own.c.line).where((own.c.place > 1) & ~fn.EXISTS(staged) & ~fn.EXISTS(there))
    told: list[Told] = [(alone, "place", "stands behind a place that there is not; count from 1")]
    order = next((ours for ours, held in kept_as.fields.items() if held is kept_as.placed[1]), "")
    if order:
        earlier = Expression(getattr(other.c, order), ">=", getattr(own.c, order))
        kept_earlier = Expression(getattr(kept.c, order), ">=", getattr(own.c, order))
        behind = own.select(own.c.line).where(own.c.place > 1)
        for wrong in (
            fn.EXISTS(staged.where(earlier)),
            ~fn.EXISTS(staged) & fn.EXISTS(there.where(kept_earlier)),
        ):
            told.append((behind.where(wrong), order, "is not after the place before"))
    return told


def _without_usual_rates(one: Staged) -> list[Told]:
    """Rates of terms without any for students in no rate class, who would pay nothing."""
    own, other = one.stage, one.stage.alias("other")
    kept = kept_query("tariff_rates").alias("kept")
    staged = other.select(SQL("1")).where((other.c.term == own.c.term) & (other.c.rate_class == ""))
    there = Select((kept,), (SQL("1"),)).where((kept.c.term == own.c.term) & (kept.c.rate_class == ""))
    alone = own.select(own.c.line).where(~fn.EXISTS(staged) & ~fn.EXISTS(there))
    return [(alone, "rate_class", "the term has no usual rates; add a row whose class is empty")]


def _brought_twice(one: Staged) -> list[Told]:
    """Fees with two triggers; missing columns keep their stored value."""
    own, kept = one.stage, kept_query("tariff_fees").alias("kept")
    same = (kept.c.term == own.c.term) & (kept.c.place == own.c.place)
    present = _present(one)
    campus = own.c.campus if "campus" in present else fn.COALESCE(own.c.campus, kept.c.campus)
    delivery = own.c.delivery if "delivery" in present else fn.COALESCE(own.c.delivery, kept.c.delivery)
    both = own.select(own.c.line).left_outer_join(kept, on=same)
    both = both.where(campus.is_null(False) & delivery.is_null(False))
    return [(both, "delivery", "a fee is brought by a campus or by a way of teaching, not by both; make two")]


def _agreed_by_nobody(one: Staged) -> list[Told]:
    """Plans agreed to for the college by nobody, or at no time."""
    if not {"advisor", "advisor_agreed_at"} <= _present(one):
        return []
    own = one.stage
    half = own.select(own.c.line).where(own.c.advisor.is_null() != own.c.advisor_agreed_at.is_null())
    return [(half, "advisor", "who agreed for the college and when go together; fill both, or neither")]


def _plan_lines(one: Staged) -> list[Told]:
    """Lines of existing versions that want more courses than they name, or that have a missing
    predecessor."""
    own, other, present = one.stage, one.stage.alias("other"), _present(one)
    plans = kept_query("plans").alias("plans")
    of_version = (plans.c.username == own.c.username) & (plans.c.version == own.c.version)
    is_written = fn.EXISTS(Select((plans,), (SQL("1"),)).where(of_version))
    written = "this version is kept, and stays as it was written; bring another version"
    before = all_equal((getattr(other.c, name), getattr(own.c, name)) for name in ("username", "version"))
    before &= other.c.place == own.c.place - 1
    alone = own.select(own.c.line).where(
        (own.c.place > 1) & ~is_written & ~fn.EXISTS(other.select(SQL("1")).where(before))
    )
    told: list[Told] = [
        (one.new().select(own.c.line).where(is_written), "version", written),
        (one.changed(own.c.line), "version", written),
        (alone, "place", "stands behind a place that there is not; count from 1"),
    ]
    if "courses" in present:
        different = Select((fn.unnest(own.c.courses).alias("course"),), (fn.COUNT(SQL('DISTINCT "course"')),))
        too_few = own.select(own.c.line).where(own.c.count > different)
        too_many = own.select(own.c.line).where(fn.cardinality(own.c.courses) > MOST_ALTERNATIVES)
        told += [
            (too_few, "count", "is more than the courses that it names"),
            (too_many, "courses", f"names more courses than {MOST_ALTERNATIVES}"),
        ]
    return told


_OF_TABLES: dict[str, Callable[[Staged], list[Told]]] = {
    "sections": _shared_seats,
    "terms": _terms_taken_back,
    "tariff_rates": _without_usual_rates,
    "tariff_fees": _brought_twice,
    "plans": _agreed_by_nobody,
    "plan_lines": _plan_lines,
}
