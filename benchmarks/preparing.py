"""Preparing a term of a large college: what the registrar waits for on each press."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from gremba.actions.catalogue.copy_term import NewTerm, carry_term_forward
from gremba.actions.catalogue.term import check_term
from gremba.actions.context import ActionContext
from gremba.actions.windows import preview_assignment, publish_assignment
from gremba.core.states import Role
from gremba.core.windows.assigning import AssignmentRule
from gremba.standins.clock import RealClock
from gremba.standins.password_links import invite
from gremba.store.access.sessions import find_person
from gremba.store.catalogue.cache import CatalogueCache
from gremba.store.database import connect, connected


@dataclass(frozen=True, slots=True)
class Prepared:
    """What the registrar waits for, in seconds.

    Attributes:
        checked: going through the check list.
        carried: carrying the term forward, its students too.
        assigned: assignment all windows, to be looked at.
        published: giving them out, and telling everybody.
    """

    checked: float
    carried: float
    assigned: float
    published: float


def measure_preparing(url: str) -> Prepared:
    """Prepare the term after the one that was read in.

    Args:
        url: of the database with the college.
    """
    database = connect(url)
    context = ActionContext(database, CatalogueCache(database), RealClock())
    opens = date.today() + timedelta(30)
    closes_at = datetime.now(UTC) + timedelta(days=200)
    rule = AssignmentRule(opens, closes_at, "chestnut", bands=(27.0,), capacity=500)
    year = timedelta(weeks=52)
    new = NewTerm("next", "Next", date(2027, 8, 23) + year, date(2027, 12, 10) + year)
    checked = _timed(lambda: check_term(context, "autumn"))
    carried = _timed(lambda: carry_term_forward(context, "autumn", new))
    found: list[str] = []
    assigned = _timed(
        lambda: found.append(
            preview_assignment(context, "next", rule, moves_assigned=False).assignment.digest()
        )
    )
    office = invite(database, "office", Role.REGISTRAR)
    with connected(database):
        person = find_person(database, office.username)
    assert person is not None
    by = person[0].id
    published = _timed(
        lambda: publish_assignment(context, "next", rule, moves_assigned=False, digest=found[0], person_id=by)
    )
    database.close_all()
    return Prepared(checked, carried, assigned, published)


def _timed(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def rows_of_prepared(found: Prepared) -> list[tuple[str, str]]:
    """The lines to print."""
    return [
        ("Its check list gone through", f"{found.checked:.1f} s"),
        ("The term carried forward, with its students", f"{found.carried:.1f} s"),
        ("All windows assigned, to be looked at", f"{found.assigned:.1f} s"),
        ("  given out, and everybody told", f"{found.published:.1f} s"),
    ]
