"""Turns the selected changes into outcomes and figures."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence

from gremba.core.account.charges import ChargeEvent, ChargeKind, Charges, GivenBack
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.catalogue.term import Section
from gremba.core.permission.askable import with_asking
from gremba.core.registration.changes import Kind
from gremba.core.registration.deciding.board import Board, adjusted_by
from gremba.core.registration.findings import Finding
from gremba.core.registration.outcome import (
    Adjusted,
    Decision,
    DroppedSeat,
    Figures,
    NewWaitlistEntry,
    Outcome,
    Result,
    Seat,
)
from gremba.core.registration.rules import Step
from gremba.core.registration.rules.seats import seat_to_take
from gremba.core.registration.situation import Registration
from gremba.core.waitlists.entry import WaitlistEntry

_Steps = Mapping[int, Sequence[Step]]
"""By place in the request, what each change that goes through does."""


def conclude(board: Board, accepted: set[int], findings: Mapping[int, Sequence[Finding]]) -> Decision:
    """Put the outcomes into the order of the request, and compute the figures."""
    held = {h.section.id: h for h in board.situation.held}
    through = board.end_state(sorted(accepted))
    steps_through = {index: board.steps_of(index, through) for index in sorted(accepted)}
    seats = _seats_without(board, steps_through)
    charges = Charges(
        board.situation.catalogue.policy.tariff,
        board.situation.student.rate_class,
        board.situation.charge_events,
    )
    before = _figures(board, board.situation.held, charges)
    charged: list[ChargeEvent] = []
    given_back = _give_back(board, steps_through, charges, charged)
    outcomes = []
    for index, own in enumerate(board.expanded):
        if index not in accepted:
            outcomes.append(_refused(board, own, findings[index]))
            continue
        outcome = _accepted(board, steps_through, index, tuple(findings[index]), seats, given_back)
        outcomes.append(outcome)
        for given_up in outcome.drops:
            held.pop(given_up.held.section.id, None)
        if outcome.adjusted is not None:
            held[outcome.adjusted.held.section.id] = outcome.adjusted.held
    for outcome in outcomes:
        seat = outcome.takes
        if seat is not None:
            held[seat.section.id] = Registration(
                seat.section, seat.credits, seat.grading, seat.reserved_seats, board.today
            )
            charged.append(
                ChargeEvent(ChargeKind.REGISTERED, seat.section, seat.credits, seat.grading, board.today)
            )
            charges.apply(charged[-1])
    end = tuple(held.values())
    leaves, loosened = _entries_after(board, outcomes)
    return Decision(
        tuple(outcomes), before, _figures(board, end, charges), end, leaves, loosened, tuple(charged)
    )


def _give_back(
    board: Board, through: _Steps, charges: Charges, charged: list[ChargeEvent]
) -> dict[int, GivenBack]:
    """What drops and adjustments change of the charges, by section id. All drops come first, then all
    adjustments, each in order of registration, as in the history."""
    drops: set[int] = set()
    adjusts: dict[int, Step] = {}
    for steps in through.values():
        for step in steps:
            if step.section is None:
                continue
            if step.does is Kind.DROP:
                drops.add(step.section.id)
            elif step.does is Kind.ADJUST:
                adjusts.setdefault(step.section.id, step)
    given_back: dict[int, GivenBack] = {}
    if not drops and not adjusts:
        return given_back
    in_order = [h.section for h in board.situation.held]
    for section in in_order:
        if section.id in drops:
            charged.append(ChargeEvent(ChargeKind.DROPPED, section, on=board.today))
            given_back[section.id] = charges.apply(charged[-1])
    for section in in_order:
        if section.id in adjusts and section.id in charges.held:
            after = adjusted_by(board.held[section.id], adjusts[section.id])
            charged.append(
                ChargeEvent(ChargeKind.ADJUSTED, section, after.credits, after.grading, board.today)
            )
            given_back[section.id] = charges.apply(charged[-1])
    return given_back


def _entries_after(
    board: Board, outcomes: Sequence[Outcome]
) -> tuple[tuple[WaitlistEntry, ...], tuple[WaitlistEntry, ...]]:
    """The waitlist entries that end, and those that stay without giving anything up."""
    entries = board.situation.waitlist_entries
    if not entries:
        return (), ()
    taken = [o.takes.section for o in outcomes if o.takes is not None]
    gone = {g.held.section.id: o.change.leaves_waitlists for o in outcomes for g in o.drops}
    ends = {p.id for p in entries if any(p.section.stands_for_same(s) for s in taken)}
    touched = [p for p in entries if p.in_exchange is not None and p.in_exchange.id in gone]
    ends |= {p.id for p in touched if p.in_exchange is not None and gone[p.in_exchange.id]}
    return (
        tuple(p for p in entries if p.id in ends),
        tuple(p for p in touched if p.id not in ends),
    )


def _seats_without(board: Board, through: _Steps) -> dict[int, SeatFigures]:
    """The seats of successful changes after everything given up is returned."""
    moves = [
        (s.section, s.does is Kind.DROP)
        for steps in through.values()
        for s in steps
        if s.section is not None and s.does in (Kind.ADD, Kind.DROP)
    ]
    seats = {section.pool: board.situation.seats[section.pool] for section, _ in moves}
    for section, is_given_up in moves:
        if is_given_up:
            reserved_seats = board.held[section.id].reserved_seats
            seats[section.pool] = seats[section.pool].after(-1, reserved_seats)
    return seats


def _accepted(
    board: Board,
    through: _Steps,
    index: int,
    findings: tuple[Finding, ...],
    seats: dict[int, SeatFigures],
    given_back: Mapping[int, GivenBack],
) -> Outcome:
    steps = through[index]
    first = steps[0]
    if first.does is Kind.WAIT:
        return Outcome(
            first.change,
            first.section,
            first.credits,
            first.grading,
            Result.WAITING,
            findings,
            waits=None if first.implied else _joining(board, first, through),
        )
    takes: Seat | None = None
    drops: list[DroppedSeat] = []
    adjusted: Adjusted | None = None
    for step in steps:
        section = step.section
        if section is None:
            raise LookupError("a change of an unknown section was accepted")
        if step.does is Kind.ADD:
            figures = seats[section.pool]
            reserved_seats, beyond = seat_to_take(figures, board.situation.student, board.today)
            seats[section.pool] = figures.after(1, reserved_seats)
            used = (step.permission_code.id, *step.permission_code.also) if step.permission_code else ()
            takes = Seat(section, step.credits, step.grading, reserved_seats, beyond, used)
        elif step.does is Kind.DROP:
            drops.append(_given_up(board, section, given_back[section.id]))
        else:
            adjusted = Adjusted(adjusted_by(board.held[section.id], step), given_back[section.id].back_cents)
    return Outcome(
        first.change,
        first.section,
        first.credits,
        first.grading,
        Result.ACCEPTED,
        findings,
        takes,
        tuple(drops),
        adjusted,
    )


def _joining(board: Board, step: Step, through: _Steps) -> NewWaitlistEntry:
    section = step.section
    if section is None:
        raise LookupError("a waitlist entry was taken on no waitlist")
    named = [s for own in through.values() for s in own if s.does is Kind.WAIT and s.implied]
    change = step.change
    return NewWaitlistEntry(
        section,
        step.credits,
        step.grading,
        change.permission_code,
        board.situation.catalogue.by_number.get(change.in_exchange),
        tuple(s.section for s in named if s.section and s.number in section.linked_sections),
    )


def _given_up(board: Board, section: Section, given_back: GivenBack) -> DroppedSeat:
    held = board.held[section.id]
    withdrawn = board.today > section.session.drop_by
    return DroppedSeat(held, withdrawn, given_back.kept_cents, given_back.back_cents)


def _figures(board: Board, held: Collection[Registration], charges: Charges) -> Figures:
    policy = board.situation.catalogue.policy
    credits = sum([h.credits for h in held])
    full_time = credits >= policy.full_time
    return Figures(credits, policy.load_name(credits), full_time, charges.total_cents)


def _refused(board: Board, steps: Sequence[Step], findings: Sequence[Finding]) -> Outcome:
    first = steps[0]
    told = tuple(findings)
    if first.section is not None and first.does in (Kind.ADD, Kind.WAIT) and not first.implied:
        told = with_asking(told, first.section, board.situation, board.now)
    return Outcome(first.change, first.section, first.credits, first.grading, Result.REFUSED, told)
