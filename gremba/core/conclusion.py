"""From what goes through to the outcome of every change, and the figures."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from gremba.core.board import Board, adjusted_by
from gremba.core.catalogue import Section
from gremba.core.changes import Kind
from gremba.core.fees import (
    kept_after_drop,
    kept_after_reduction,
    section_charge,
    term_charge,
)
from gremba.core.findings import Finding
from gremba.core.outcome import (
    Adjusted,
    Decision,
    DroppedSeat,
    Figures,
    NewWaitlistEntry,
    Outcome,
    Result,
    Seat,
)
from gremba.core.rules import Step
from gremba.core.rules.seats import seat_to_take
from gremba.core.situation import Registration, SeatFigures, WaitlistEntry


def conclude(board: Board, accepted: set[int], findings: Mapping[int, Sequence[Finding]]) -> Decision:
    """Put the outcomes into the order of the request, and work out the figures."""
    held = {h.section.id: h for h in board.situation.held}
    seats = _seats_without(board, accepted)
    outcomes = []
    retained_cents = board.situation.retained_cents
    for index, steps in enumerate(board.expanded):
        if index not in accepted:
            outcomes.append(_refused(steps, tuple(findings[index])))
            continue
        outcome = _accepted(board, steps, tuple(findings[index]), seats)
        outcomes.append(outcome)
        for given_up in outcome.drops:
            held.pop(given_up.held.section.id, None)
            retained_cents += given_up.retained_cents
        if outcome.adjusted is not None:
            held[outcome.adjusted.held.section.id] = outcome.adjusted.held
    for outcome in outcomes:
        seat = outcome.takes
        if seat is not None:
            held[seat.section.id] = Registration(
                seat.section, seat.credits, seat.grading, seat.reserved_block
            )
    end = tuple(held.values())
    leaves, loosened = _entries_after(board, outcomes)
    return Decision(
        tuple(outcomes),
        _figures(board, board.situation.held, board.situation.retained_cents),
        _figures(board, end, retained_cents),
        end,
        leaves,
        loosened,
    )


def _entries_after(
    board: Board, outcomes: Sequence[Outcome]
) -> tuple[tuple[WaitlistEntry, ...], tuple[WaitlistEntry, ...]]:
    """The entries that end, and those that stay without giving anything up."""
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


def _seats_without(board: Board, accepted: set[int]) -> dict[int, SeatFigures]:
    """The seats of what goes through, as they are when what is given up has been given back."""
    moves = [
        (s.section, s.does is Kind.DROP)
        for i in accepted
        for s in board.expanded[i]
        if s.section is not None and s.does in (Kind.ADD, Kind.DROP)
    ]
    seats = {section.pool: board.situation.seats[section.pool] for section, _ in moves}
    for section, is_given_up in moves:
        if is_given_up:
            reserved_block = board.held[section.id].reserved_block
            seats[section.pool] = seats[section.pool].after(-1, reserved_block)
    return seats


def _accepted(
    board: Board, steps: Sequence[Step], findings: tuple[Finding, ...], seats: dict[int, SeatFigures]
) -> Outcome:
    first = steps[0]
    if first.does is Kind.WAIT:
        return Outcome(
            first.change,
            first.section,
            first.credits,
            first.grading,
            Result.WAITING,
            findings,
            waits=None if first.implied else _joining(board, first),
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
            reserved_block, beyond = seat_to_take(figures, board.situation.student, board.today)
            seats[section.pool] = figures.after(1, reserved_block)
            consent = step.consent.id if step.consent else None
            takes = Seat(section, step.credits, step.grading, reserved_block, beyond, consent)
        elif step.does is Kind.DROP:
            drops.append(_given_up(board, section))
        else:
            adjusted = _adjust(board, board.held[section.id], step)
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


def _joining(board: Board, step: Step) -> NewWaitlistEntry:
    section = step.section
    if section is None:
        raise LookupError("a waitlist entry was taken on no waitlist")
    named = [s for own in board.expanded for s in own if s.does is Kind.WAIT and s.implied]
    change = step.change
    return NewWaitlistEntry(
        section,
        step.credits,
        step.grading,
        change.consent,
        board.situation.catalogue.by_number.get(change.in_exchange),
        tuple(s.section for s in named if s.section and s.number in section.companions),
    )


def _given_up(board: Board, section: Section) -> DroppedSeat:
    held = board.held[section.id]
    tariff = board.situation.catalogue.policy.tariff
    kept = kept_after_drop(section, held.credits, tariff, board.today)
    charge = section_charge(section, held.credits, tariff)
    return DroppedSeat(held, board.today > section.block.drop_by, held.retained_cents + kept, charge - kept)


def _adjust(board: Board, held: Registration, step: Step) -> Adjusted:
    section, tariff = held.section, board.situation.catalogue.policy.tariff
    kept = kept_after_reduction(section, held.credits, step.credits, tariff, board.today)
    before = section_charge(section, held.credits, tariff)
    after = section_charge(section, step.credits, tariff)
    changed = replace(adjusted_by(held, step), retained_cents=held.retained_cents + kept)
    return Adjusted(changed, max(0, before - after - kept))


def _figures(board: Board, held: Collection[Registration], retained_cents: int) -> Figures:
    policy = board.situation.catalogue.policy
    sections = [(h.section, h.credits) for h in held]
    credits = sum([c for _, c in sections])
    retained_cents += sum([h.retained_cents for h in held])
    charge = term_charge(sections, retained_cents, policy.tariff)
    full_time = credits >= policy.full_time
    return Figures(credits, policy.load_name(credits), full_time, charge)


def _refused(steps: Sequence[Step], findings: tuple[Finding, ...]) -> Outcome:
    first = steps[0]
    return Outcome(first.change, first.section, first.credits, first.grading, Result.REFUSED, findings)
