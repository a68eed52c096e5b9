"""The decision: what a request would lead to, and what happens when it is sent.

Pure and deterministic. The cart shows what :func:`decide` says beforehand; a sending writes
exactly what it says, on rows that are locked.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import StrEnum

from gremba.core.asking import OF_STUDENT, Asked, rules_for
from gremba.core.catalogue import Section
from gremba.core.changes import Change, Kind, Request
from gremba.core.fees import kept_after_drop, section_charge, term_charge
from gremba.core.findings import Finding, Severity
from gremba.core.rules import Case, EndState, Scope, Step
from gremba.core.rules.seats import seat_to_take
from gremba.core.rules.together import together_stopped
from gremba.core.situation import Held, Place, SeatFigures, Situation
from gremba.core.steps import group_changes, lay_out
from gremba.core.wording import listed

Group = tuple[int, ...]


class Result(StrEnum):
    """What became of a change."""

    ACCEPTED = "accepted"
    WAITING = "waiting"
    REFUSED = "refused"


@dataclass(slots=True)
class Seat:
    """A seat that an accepted change takes.

    Attributes:
        part: the reserved part of the pool that it is taken from; None for an open seat.
        beyond: it lies beyond the pool's limit, by consent.
        consent: id of the consent code used up by it.
    """

    section: Section
    credits: float
    grading: str
    part: int | None
    beyond: bool
    consent: int | None


@dataclass(slots=True)
class GivenUp:
    """A seat that an accepted change gives up.

    Attributes:
        withdrawn: it leaves a W on the record.
        kept_cents: what stays to be paid of the section's charge.
        refund_cents: what comes back of it.
    """

    held: Held
    withdrawn: bool
    kept_cents: int
    refund_cents: int


@dataclass(slots=True)
class Joining:
    """A place on a waitlist that an accepted change takes.

    Attributes:
        gives_up: the registered section to be given up for the seat, when it comes.
        names: companions named for it.
    """

    section: Section
    credits: float
    grading: str
    consent: str
    gives_up: Section | None
    names: tuple[Section, ...]


@dataclass(slots=True)
class Outcome:
    """A change, what became of it, and every finding that took part.

    Attributes:
        section: the section that the change names; None if it is unknown.
        grading: the grading basis it would have, or has had.
        takes: for an add or swap that goes through.
        gives_up: for a drop or swap that goes through: the sections given up, those included
            that go along.
        adjusted: for an adjustment that goes through: the registration as it is then.
        waits: for a wait that goes through.
        wished: where a next choice was taken, the section that was wished for first.
    """

    change: Change
    section: Section | None
    credits: float
    grading: str
    result: Result
    findings: tuple[Finding, ...]
    takes: Seat | None = None
    gives_up: tuple[GivenUp, ...] = ()
    adjusted: Held | None = None
    waits: Joining | None = None
    wished: Section | None = None

    @property
    def withdrawn(self) -> bool:
        """Whether it leaves a W on the record."""
        return any(g.withdrawn for g in self.gives_up)

    @property
    def refund_cents(self) -> int:
        """What comes back of what is given up."""
        return sum(g.refund_cents for g in self.gives_up)


@dataclass(slots=True)
class Figures:
    """Where the student stands, before or after."""

    credits: float
    load: str
    full_time: bool
    charge_cents: int


@dataclass(slots=True)
class Decision:
    """The outcome of every change, in the order of the request, and the figures."""

    outcomes: tuple[Outcome, ...]
    before: Figures
    after: Figures
    held: tuple[Held, ...]
    """The sections the student would be registered for."""
    leaves: tuple[Place, ...] = ()
    """Places given up because the course has been had elsewhere."""

    def move_seats(
        self, seats: dict[int, SeatFigures], only: Collection[int] | None = None
    ) -> None:
        """Make figures what they are once this is written: first what is given up, then what is
        taken or waited for.

        Args:
            only: the pools that matter; None for all.
        """
        gone = [g.held for o in self.outcomes for g in o.gives_up]
        moves = [(h.section.pool, -1, h.part) for h in gone]
        moves += [(o.takes.section.pool, 1, o.takes.part) for o in self.outcomes if o.takes]
        for pool, by, part in moves:
            if only is None or pool in only:
                seats[pool] = seats[pool].after(by, part)
        for pool in [o.waits.section.pool for o in self.outcomes if o.waits]:
            if only is None or pool in only:
                seats[pool] = replace(seats[pool], waiting=seats[pool].waiting + 1)


def decide(situation: Situation, request: Request, now: datetime) -> Decision:
    """Judge a request against the end state it would lead to.

    Groups that are stopped are taken out and the rest judged again until nothing more falls;
    then every group that fell is tried once more on top of what stands, so that no refusal
    rests on a change that fell as well. Where changes exclude one another, the one earlier in
    the list wins. The number of rounds is at most twice the number of groups.

    Args:
        now: an aware datetime.
    """
    board = _Board(situation, request, now)
    groups = group_changes(request, board.laid, situation.catalogue)
    standing, findings = _shrink(board, groups)
    refused: dict[int, list[Finding]] = {}
    waiting = [g for g in groups if g not in standing]
    again = True
    while waiting and again:
        again = False
        for group in waiting:
            # On top of what stands only the group itself can be stopped by what it excludes;
            # whether it would undo the rest is asked only where nothing else stops it.
            found = board.judge_last(standing, group)
            if not _stops(found, group):
                trial = board.judge([*standing, group])
                undone = [g for g in standing if _stops(trial, g)]
                if not undone:
                    standing, findings, again = [*standing, group], trial, True
                    waiting.remove(group)
                    break
                found = _explained(board, group, found, undone)
            else:
                found = _explained(board, group, found, ())
            refused |= found
    accepted = {index for group in standing for index in group}
    return board.conclude(accepted, refused | findings)


def _shrink(board: _Board, groups: Sequence[Group]) -> tuple[list[Group], dict[int, list[Finding]]]:
    standing = list(groups)
    while True:
        findings = board.judge(standing)
        stops = {g: found for g in standing if (found := _stops(findings, g))}
        if not stops:
            return standing, findings
        fallen = [g for g, found in stops.items() if any(f.rests_on <= set(g) for f in found)]
        if not fallen:
            # Nothing falls for a reason of its own; of those that lose to an earlier change
            # only the first goes, since its going may free the others.
            fallen = list(stops)[:1]
        standing = [g for g in standing if g not in fallen]


def _explained(
    board: _Board, group: Group, found: dict[int, list[Finding]], undone: Sequence[Group]
) -> dict[int, list[Finding]]:
    """The findings of a refused group, with the reason for members that nothing else stops."""
    stopped = [i for i in group if any(f.severity is Severity.STOP for f in found[i])]
    culprits = stopped or [i for g in undone for i in g]
    reason = "cannot be had" if stopped else "could then no longer be had"
    names = listed([board.laid[i][0].name for i in culprits])
    finding = together_stopped.finding(
        f"Left as it is, because {names} {reason}.", rests_on=culprits, other=names
    )
    return {i: found[i] if i in stopped else [*found[i], finding] for i in group}


def _stops(findings: dict[int, list[Finding]], group: Group) -> list[Finding]:
    return [f for i in group for f in findings[i] if f.severity is Severity.STOP]


class _Board:
    """The request laid out with its steps; judges any selection of its groups."""

    def __init__(self, situation: Situation, request: Request, now: datetime) -> None:
        self.situation = situation
        self.now = now
        self.today = situation.catalogue.calendar.local_date(now)
        self.credits_before = situation.credits
        self.held = {h.section.id: h for h in situation.held}
        self.laid = lay_out(situation, request, now)
        self._asked: dict[int, Sequence[Asked]] = {}
        """By the identity of a step, of which each is laid out once."""
        self._of_student: dict[tuple[Kind, Kind], Mapping[str, Sequence[Finding]]] = {}
        self._memo: dict[object, object] = {}

    def end_state(self, order: Sequence[Group]) -> EndState:
        """What the student would have if these groups went through, in this order of priority."""
        adds: list[Step] = []
        drops: list[Step] = []
        waits: list[Step] = []
        adjusted: dict[int, Step] = {}
        for group in order:
            for index in group:
                for step in self.laid[index]:
                    if step.does is Kind.ADD:
                        adds.append(step)
                    elif step.does is Kind.DROP:
                        drops.append(step)
                    elif step.does is Kind.WAIT:
                        if not step.along:
                            waits.append(step)
                    elif step.section is not None:
                        adjusted.setdefault(step.section.id, step)
        kept: Iterable[Held] = self.situation.held
        if drops:
            given_up = {d.section.id for d in drops if d.section is not None}
            kept = [h for h in kept if h.section.id not in given_up]
        if adjusted:
            kept = [_adjusted(h, adjusted.get(h.section.id)) for h in kept]
        kept = list(kept)
        credits_kept = sum([h.credits for h in kept])
        credits = credits_kept + sum([a.credits for a in adds])
        return EndState(kept, adds, drops, self.credits_before, credits_kept, credits, waits)

    def judge(self, order: Sequence[Group]) -> dict[int, list[Finding]]:
        """Every finding on every change of these groups."""
        end = self.end_state(order)
        earlier: list[Step] = []
        return {i: self._judge_change(i, end, earlier) for group in order for i in group}

    def judge_last(self, order: Sequence[Group], group: Group) -> dict[int, list[Finding]]:
        """The findings on one more group, which comes after those."""
        end = self.end_state([*order, group])
        before = {i for g in order for i in g}
        earlier = [a for a in end.adds if a.index in before]
        return {i: self._judge_change(i, end, earlier) for i in group}

    def _judge_change(self, index: int, end: EndState, earlier: list[Step]) -> list[Finding]:
        """The findings on one change; its adds are put with the earlier ones."""
        found: list[Finding] = []
        for step in self.laid[index]:
            case = Case(
                self.situation, self.now, self.today, step, step.section,  # type: ignore[arg-type]
                end, earlier, self._memo,
            )  # fmt: skip
            asked = self._asked.get(id(step))
            if asked is None:
                # What rests on facts alone is found once; only the others are asked again.
                asked = self._asked[id(step)] = self._ask_facts(case)
            for gate, rules, known in asked:
                if known:
                    found.extend(known)
                elif gate is None or gate(case):
                    for rule in rules:
                        found.extend(rule.check(case, rule))
            if step.does is Kind.ADD:
                earlier.append(step)
        if len(self.laid[index]) > 1:
            return list({(f.code, f.text): f for f in found}.values())
        return found

    def _ask_facts(self, case: Case) -> Sequence[Asked]:
        """Findings that no other change can alter, and the rules still to be asked, in order."""
        found = self._ask_about_student(case)
        everything, of_change, of_request = rules_for(case)
        for gate, rules, _ in of_change:
            if gate is None or gate(case):
                for rule in rules:
                    said = tuple(rule.check(case, rule))
                    if said:
                        found = {**found, rule.code: said}
        if not found:
            return of_request
        return tuple(
            Asked(rule.gate, (rule,)) if scope is Scope.REQUEST
            else Asked(None, (), found.get(rule.code, ()))
            for rule, scope in everything
        )  # fmt: skip

    def _ask_about_student(self, case: Case) -> Mapping[str, Sequence[Finding]]:
        """By code, what rules find that look at the student and the kind of change alone."""
        key = (case.step.change.kind, case.step.does)
        known = self._of_student.get(key)
        if known is None:
            found = {r.code: tuple(r.check(case, r)) for r in OF_STUDENT if case.step.does in r.on}
            known = self._of_student[key] = {code: f for code, f in found.items() if f}
        return known

    def conclude(self, accepted: set[int], findings: dict[int, list[Finding]]) -> Decision:
        """Put the outcomes into the order of the request, and work out the figures."""
        held = {h.section.id: h for h in self.situation.held}
        seats = self._seats_without(accepted)
        outcomes = []
        kept_cents = self.situation.kept_cents
        for index, steps in enumerate(self.laid):
            if index not in accepted:
                outcomes.append(_refused(steps, tuple(findings[index])))
                continue
            outcome = self._accepted(steps, tuple(findings[index]), seats)
            outcomes.append(outcome)
            for given_up in outcome.gives_up:
                held.pop(given_up.held.section.id, None)
                kept_cents += given_up.kept_cents
            if outcome.adjusted is not None:
                held[outcome.adjusted.section.id] = outcome.adjusted
        for outcome in outcomes:
            seat = outcome.takes
            if seat is not None:
                held[seat.section.id] = Held(seat.section, seat.credits, seat.grading, seat.part)
        end = tuple(held.values())
        taken = [o.takes.section for o in outcomes if o.takes is not None]
        leaves = tuple(
            p for p in self.situation.places if any(p.section.stands_for_same(s) for s in taken)
        )
        return Decision(
            tuple(outcomes),
            self._figures(self.situation.held, self.situation.kept_cents),
            self._figures(end, kept_cents),
            end,
            leaves,
        )

    def _seats_without(self, accepted: set[int]) -> dict[int, SeatFigures]:
        """The seats of what goes through, as they are when what is given up has been given back."""
        moves = [
            (s.section, s.does is Kind.DROP)
            for i in accepted for s in self.laid[i]
            if s.section is not None and s.does in (Kind.ADD, Kind.DROP)
        ]  # fmt: skip
        seats = {section.pool: self.situation.seats[section.pool] for section, _ in moves}
        for section, is_given_up in moves:
            if is_given_up:
                part = self.held[section.id].part
                seats[section.pool] = seats[section.pool].after(-1, part)
        return seats

    def _accepted(
        self, steps: Sequence[Step], findings: tuple[Finding, ...], seats: dict[int, SeatFigures]
    ) -> Outcome:
        first = steps[0]
        if first.does is Kind.WAIT:
            return Outcome(
                first.change, first.section, first.credits, first.grading, Result.WAITING, findings,
                waits=None if first.along else self._joining(first),
            )  # fmt: skip
        takes: Seat | None = None
        gives_up: list[GivenUp] = []
        adjusted: Held | None = None
        for step in steps:
            section = step.section
            if section is None:
                raise LookupError("a change of an unknown section was accepted")
            if step.does is Kind.ADD:
                figures = seats[section.pool]
                part, beyond = seat_to_take(figures, self.situation.student, self.today)
                seats[section.pool] = figures.after(1, part)
                consent = step.consent.id if step.consent else None
                takes = Seat(section, step.credits, step.grading, part, beyond, consent)
            elif step.does is Kind.DROP:
                gives_up.append(self._given_up(section))
            else:
                adjusted = _adjusted(self.held[section.id], step)
        return Outcome(
            first.change, first.section, first.credits, first.grading, Result.ACCEPTED, findings,
            takes, tuple(gives_up), adjusted,
        )  # fmt: skip

    def _joining(self, step: Step) -> Joining:
        section = step.section
        if section is None:
            raise LookupError("a place was taken on no waitlist")
        named = [s for own in self.laid for s in own if s.does is Kind.WAIT and s.along]
        change = step.change
        return Joining(
            section, step.credits, step.grading, change.consent,
            self.situation.catalogue.by_number.get(change.gives_up),
            tuple(s.section for s in named if s.section and s.number in section.companions),
        )  # fmt: skip

    def _given_up(self, section: Section) -> GivenUp:
        held = self.held[section.id]
        tariff = self.situation.catalogue.policy.tariff
        kept = kept_after_drop(section, held.credits, tariff, self.today)
        charge = section_charge(section, held.credits, tariff)
        return GivenUp(held, self.today > section.block.drop_by, kept, charge - kept)

    def _figures(self, held: Iterable[Held], kept_cents: int) -> Figures:
        policy = self.situation.catalogue.policy
        sections = [(h.section, h.credits) for h in held]
        credits = sum([c for _, c in sections])
        charge = term_charge(sections, kept_cents, policy.tariff)
        full_time = credits >= policy.full_time
        return Figures(credits, policy.load_name(credits), full_time, charge)


def _refused(steps: Sequence[Step], findings: tuple[Finding, ...]) -> Outcome:
    first = steps[0]
    return Outcome(
        first.change, first.section, first.credits, first.grading, Result.REFUSED, findings
    )


def _adjusted(held: Held, step: Step | None) -> Held:
    return held if step is None else Held(held.section, step.credits, step.grading, held.part)
