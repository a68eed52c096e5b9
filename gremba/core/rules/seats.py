"""Is there a seat."""

from __future__ import annotations

from collections.abc import Iterator

from gremba.core.changes import Kind
from gremba.core.findings import Finding, Remedy, Severity
from gremba.core.rules.case import Case, Rule, rule
from gremba.core.rules.section import other_sections
from gremba.core.situation import SeatFigures
from gremba.core.wording import counted


@rule("seat.full", Severity.STOP, Kind.ADD)
def seat_full(case: Case, me: Rule) -> Iterator[Finding]:
    """No seat is left in the section's pool: all are taken or offered to somebody waiting.
    Seats that the request itself gives up or takes further up count.

    Why: Rooms, benches and hives are limited. A seat is never given twice.

    Ways on: Take another section of the course, or look again later.
    """
    pool = case.section.pool
    figures = case.situation.seats.get(pool)
    if figures is None:
        # Figures are read for every pool a request touches; without them nothing may be promised.
        figures = SeatFigures(0, 0)
    drops, earlier = case.end.drops, case.earlier
    given_up = len([d for d in drops if d.section and d.section.pool == pool]) if drops else 0
    wanted = [a.index for a in earlier if a.section and a.section.pool == pool] if earlier else []
    free = figures.limit - figures.taken - figures.offered + given_up
    if free > len(wanted):
        return
    if free > 0:
        text = "The last seat left goes to another change in your cart."
    else:
        text = f"Full: {figures.taken} of {counted(figures.limit, 'seat', 'seats')} taken"
        text += f", {figures.offered} offered" if figures.offered else ""
        text += f", {figures.waiting} waiting." if figures.waiting else "."
    yield me.finding(
        text,
        remedies=[*other_sections(case), Remedy("Leave it in the cart and look again later.")],
        rests_on=wanted if free > 0 else (),
        limit=figures.limit,
        taken=figures.taken,
        offered=figures.offered,
        waiting=figures.waiting,
    )
