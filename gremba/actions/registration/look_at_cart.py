"""Reads the cart with a live verdict on each change: the decision of a submission, without locks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from gremba.actions.account.due_ahead import due_ahead, read_money
from gremba.actions.context import ActionContext
from gremba.actions.permission.changes import changes_from_data
from gremba.core.account.due import DueChange
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.permission.codes import with_what_is_granted
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.alternatives.backup_sections import decide_with_alternatives
from gremba.core.registration.alternatives.substitutes import find_substitutes
from gremba.core.registration.alternatives.ways_on import keep_what_helps
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.registration.deciding.effort import Effort
from gremba.core.registration.deciding.steps import groups_of
from gremba.core.registration.findings import Remedy
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation
from gremba.core.windows.opening import WindowState, WindowStatus, window_status
from gremba.store.database import reading
from gremba.store.permission.requests import read_granted_changes
from gremba.store.registration.carts import Cart, read_cart
from gremba.store.registration.situations import read_permission_codes, read_seats, read_situations


@dataclass(frozen=True, slots=True)
class JudgedCart:
    """A cart, the result of submitting it, and the facts it rests on.

    Attributes:
        now: the time at which it was looked at.
        as_of: the time for which the verdicts hold: now, or before the window its opening.
        taken: the cart's changes, next choices in the place of those that cannot be had;
            linked sections that these need stand behind them.
        otherwise: the decision under the other choice of each or all.
        instead: by place in the cart, other sections that would go through in its place.
        groups: places of changes that belong together.
        due: what it does to what is due by the next date; None where the term has no due dates.
        once_clear: the decision once what stands in the student's way is cleared; None where nothing does.
        granted: what somebody has said yes to and is not used yet, with the changes that put it through.
    """

    term: TermCatalogue
    cart: Cart
    situation: Situation
    window: WindowStatus
    now: datetime
    as_of: datetime
    taken: Request
    decision: Decision
    otherwise: Decision
    instead: Mapping[int, tuple[Remedy, ...]]
    groups: Sequence[tuple[int, ...]]
    due: DueChange | None
    granted: Sequence[tuple[PermissionCode, Sequence[Change]]] = ()
    once_clear: Decision | None = None

    @property
    def passing(self) -> tuple[Change, ...]:
        """The changes that would be registered or waitlisted."""
        return tuple(
            change
            for change, outcome in zip(self.cart.request.changes, self.decision.outcomes, strict=False)
            if outcome.result is not Result.REFUSED
        )

    @property
    def sends(self) -> Request | None:
        """What would be submitted: the whole cart with "all", otherwise what would succeed; None if empty."""
        request = self.cart.request
        if not self.passing:
            return None
        return request if request.mode is Mode.ALL else replace(request, changes=self.passing)


def look_at_cart(context: ActionContext, student_id: int, term_code: str) -> JudgedCart:
    """Read and decide a cart. Four statements: two for the cart, situation, seats; one more each for
    permission codes, due dates, and approvals.

    Raises:
        Problem: no such term, or the student is not expected in it.
    """
    term = context.term(term_code)
    row = context.student_term(student_id, term)
    seats: dict[int, SeatFigures] = {}
    with reading(context.database) as database:
        cart = read_cart(database, row, term)
        request = cart.request
        permission_codes = read_permission_codes(database, (c.permission_code for c in request.changes))
        situation = read_situations(database, {row: term}, seats, permission_codes)[row]
        seats.update(read_seats(database, pools_in_sight(situation, request)))
        money = read_money(database, term, row)
        asked = read_granted_changes(database, row) if situation.grants else {}
    now = context.clock.now()
    as_of = as_of_opening(situation, now)
    effort = Effort()
    taken, decision = decide_with_alternatives(situation, request, as_of, effort)
    other = replace(request, mode=request.mode.other)
    # What is offered gets what the two decisions leave of the effort: they say what would happen.
    _, otherwise = decide_with_alternatives(situation, other, as_of, effort)
    substitutes = find_substitutes(situation, taken, decision, as_of, effort)
    keep_what_helps(situation, taken, decision, as_of, effort)
    return JudgedCart(
        term,
        cart,
        situation,
        window_status(situation.windows, now),
        now,
        as_of,
        taken,
        decision,
        otherwise,
        substitutes,
        groups_of(situation, taken, as_of),
        due_ahead(money, situation, decision, now),
        _granted(situation, asked, now),
        _once_clear(situation, request, decision, as_of, effort),
    )


def _once_clear(
    situation: Situation, request: Request, decision: Decision, as_of: datetime, effort: Effort
) -> Decision | None:
    """The cart's result once the student is cleared; None if nothing is to be cleared."""
    in_the_way = {RuleCode.HOLD_STOPS, RuleCode.CLEARANCE_OPEN}
    if not any(f.code in in_the_way for o in decision.outcomes for f in o.findings):
        return None
    clear = replace(situation, holds=(), clearance_open=())
    return decide_with_alternatives(clear, request, as_of, effort)[1]


def _granted(
    situation: Situation, asked: Mapping[int, Sequence[dict[str, Any]]], now: datetime
) -> list[tuple[PermissionCode, Sequence[Change]]]:
    """Valid approvals by section: as requested, or as a plain add."""
    by_id, held = situation.catalogue.by_id, {h.section.id for h in situation.held}
    found: list[tuple[PermissionCode, Sequence[Change]]] = []
    for section_id in situation.grants:
        good = with_what_is_granted(None, by_id[section_id], situation, now)
        if good is not None and section_id not in held:
            plain = (Change(Kind.ADD, by_id[section_id].reference_number),)
            changes = changes_from_data(asked[good.id]) if good.id in asked else plain
            found.append((good, changes))
    return found


def pools_in_sight(situation: Situation, request: Request) -> set[int]:
    """The pools of every section that a result or a remedy may look at: sections named, others of their
    courses and bundles, and those that registered sections could be moved to."""
    term = situation.catalogue
    named: set[int] = set()
    for change in request.changes:
        others = (n for numbers in change.alternatives for n in numbers)
        for number in (change.number, change.in_exchange, *others):
            section = term.by_number.get(number)
            if section is not None:
                named |= {s.pool for s in _around(term, section)}
    wanted = [term.by_number[c.number] for c in request.changes if c.number in term.by_number]
    return named | {
        other.pool
        for held in situation.held
        if any(held.section.week & s.week for s in wanted if s is not held.section)
        for other in term.by_course[held.section.course.key]
    }


def as_of_opening(situation: Situation, now: datetime) -> datetime:
    """The time a result holds for: now, or the opening of the window."""
    window = window_status(situation.windows, now)
    early = window.state is WindowState.EARLY and window.window is not None
    return window.window.opens_at if early and window.window else now


def _around(term: TermCatalogue, section: Section) -> tuple[Section, ...]:
    bundle = term.by_bundle.get(section.bundle, ()) if section.bundle else ()
    return (*term.by_course.get(section.course.key, ()), *bundle)
