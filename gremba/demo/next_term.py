"""The term after next, half set up: copied from the running one, with two faults and no windows."""

from __future__ import annotations

from datetime import date, timedelta

from gremba.actions.catalogue.copy_term import NewTerm, carry_term_forward
from gremba.actions.context import ActionContext
from gremba.core.catalogue.calendar import Break
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.demo.season import THAW
from gremba.store.catalogue.term_facts import read_term_facts
from gremba.store.database import connected
from gremba.store.models import Meeting, SeatPool
from gremba.store.queries import write

NEXT_THAW = NewTerm(
    code="thaw-2028",
    name="Thaw 2028",
    first=date(2028, 1, 17),
    last=date(2028, 5, 5),
    breaks=(Break(date(2028, 3, 6), date(2028, 3, 10), "spring break"),),
)


def prepare_next_term(context: ActionContext) -> None:
    """Copy the term and add errors: two classes in one room, and one past the end of its session."""
    carry_term_forward(context, THAW.code, NEXT_THAW)
    _fit_limits(context)
    term = context.term(NEXT_THAW.code)
    one, other = _at_one_hour(term)
    longer = next(s for s in term.sections if s.session.code == "first" and s.meetings)
    with connected(context.database) as database:
        room = {"room": one.meetings[0].room, "campus": one.meetings[0].campus}
        write(database, Meeting.update(room).where(Meeting.section == other.id))
        last = longer.session.last + timedelta(weeks=1)
        write(database, Meeting.update(last_day=last).where(Meeting.section == longer.id))
    context.catalogue.reload(NEXT_THAW.code)


def _fit_limits(context: ActionContext) -> None:
    """Lowers limits to room and lab sizes."""
    term = context.term(NEXT_THAW.code)
    with connected(context.database) as database:
        facts = read_term_facts(database, term.id)
        limits = dict(facts.seat_limits)
        # Labs first: how many a lecture takes hangs on them.
        for section in sorted(term.sections, key=lambda s: s.carries_credit):
            rooms = [facts.capacities.get((m.campus, m.room), limits[section.pool]) for m in section.meetings]
            labs = [
                sum(limits[pool] for pool in {one.pool for one in linked_sections})
                for linked_sections in term.linked_sections_of(section).values()
                if section.carries_credit
            ]
            limits[section.pool] = min([limits[section.pool], *rooms, *labs])
        for pool, limit in limits.items():
            if limit != facts.seat_limits[pool]:
                write(database, SeatPool.update(seat_limit=limit).where(SeatPool.id == pool))


def _at_one_hour(term: TermCatalogue) -> tuple[Section, Section]:
    """The first two sections on one campus that meet at the same hours and share nothing."""
    placed = [s for s in term.sections if len(s.meetings) == 1 and s.meetings[0].room]
    for one in placed:
        mine = one.meetings[0]
        for other in placed:
            theirs = other.meetings[0]
            if (
                one.pool == other.pool
                or one.linked_sections
                or other.linked_sections
                or mine.room == theirs.room
            ):
                continue
            if set(one.instructors) & set(other.instructors):
                continue
            if mine.campus == theirs.campus and one is not other and one.clash_with(other) is not None:
                return one, other
    raise LookupError("no two sections of the demo meet at one hour")
