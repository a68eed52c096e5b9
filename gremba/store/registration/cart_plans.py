"""Stores plans in a cart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from peewee import Case
from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.registration.changes import Change, Kind
from gremba.core.registration.plans import PlanFallback
from gremba.store.models import CartPlan, StudentTerm
from gremba.store.queries import fetch, fetch_value, one_of, write


@dataclass(frozen=True, slots=True)
class StoredPlan:
    """A plan and its id."""

    id: int
    changes: tuple[Change, ...]


def read_plans(database: PooledPostgresqlDatabase, student_term_id: int) -> list[StoredPlan]:
    """A cart's plans in order. One statement."""
    own = CartPlan.select(CartPlan.id, CartPlan.changes).where(CartPlan.student_term == student_term_id)
    return fetch(database, own.order_by(CartPlan.position), _stored)


def _stored(id: int, changes: list[dict[str, str]]) -> StoredPlan:
    return StoredPlan(
        id, tuple(Change(Kind(c["kind"]), c["number"], in_exchange=c["in_exchange"]) for c in changes)
    )


def read_fallback(database: PooledPostgresqlDatabase, student_term_id: int) -> PlanFallback:
    """What happens if no plan can be registered completely. One statement."""
    own = StudentTerm.select(StudentTerm.plan_fallback).where(StudentTerm.id == student_term_id)
    return PlanFallback(fetch_value(database, own))


def set_fallback(database: PooledPostgresqlDatabase, student_term_id: int, fallback: PlanFallback) -> None:
    """Set what happens if no plan can be registered completely. One statement."""
    chosen = StudentTerm.update(plan_fallback=fallback)
    write(database, chosen.where(StudentTerm.id == student_term_id))


def add_plan(
    database: PooledPostgresqlDatabase,
    student_term_id: int,
    position: int,
    changes: Sequence[Change],
    at: datetime,
) -> None:
    """Add a plan at a free position; the cart must be locked. One statement."""
    kept: list[dict[str, Any]] = [
        {"kind": c.kind.value, "number": c.number, "in_exchange": c.in_exchange} for c in changes
    ]
    new = CartPlan.insert(student_term=student_term_id, position=position, changes=kept, added_at=at)
    write(database, new)


def remove_plans(database: PooledPostgresqlDatabase, student_term_ids: Sequence[int]) -> None:
    """Remove all plans of these carts. One statement."""
    write(database, CartPlan.delete().where(one_of(CartPlan.student_term, student_term_ids)))


def order_plans(database: PooledPostgresqlDatabase, student_term_id: int, ids: Sequence[int]) -> None:
    """Keep only these plans, in this order. Two statements."""
    own = CartPlan.student_term == student_term_id
    write(database, CartPlan.delete().where(own, ~one_of(CartPlan.id, ids)))
    if ids:
        places = Case(CartPlan.id, [(plan, place) for place, plan in enumerate(ids, 1)])
        write(database, CartPlan.update(position=places).where(own))
