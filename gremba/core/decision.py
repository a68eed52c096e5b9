"""The decision: what a request would lead to, and what happens when it is sent.

Pure and deterministic. The cart shows what :func:`decide` says beforehand; a sending writes
exactly what it says, on rows that are locked.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from gremba.core.catalogue import Section
from gremba.core.changes import Change, Kind, Mode, Request
from gremba.core.fees import kept_after_drop, section_charge, term_charge
from gremba.core.findings import Finding, Severity
from gremba.core.groups import group_steps
from gremba.core.rules import RULES, Case, EndState, Rule, Scope, Step
from gremba.core.rules.together import together_stopped
from gremba.core.situation import Held, Situation
from gremba.core.wording import listed

Group = tuple[int, ...]


class Result(StrEnum):
    """What became of a change."""

    ACCEPTED = "accepted"
    REFUSED = "refused"


@dataclass(frozen=True, slots=True)
class Outcome:
    """A change, what became of it, and every finding that took part.

    Attributes:
        withdrawn: for a drop that goes through: it leaves a W on the record.
        kept_cents: for a drop that goes through: what stays to be paid of the section's charge.
        refund_cents: for a drop that goes through: what comes back of it.
    """

    change: Change
    section: Section | None
    credits: float
    result: Result
    findings: tuple[Finding, ...]
    withdrawn: bool = False
    kept_cents: int = 0
    refund_cents: int = 0


@dataclass(frozen=True, slots=True)
class Figures:
    """Where the student stands, before or after."""

    credits: float
    load: str
    full_time: bool
    charge_cents: int


@dataclass(frozen=True, slots=True)
class Decision:
    """The outcome of every change, in the order of the request, and the figures."""

    outcomes: tuple[Outcome, ...]
    before: Figures
    after: Figures
    held: tuple[Held, ...]
    """The sections the student would be registered for."""


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
    groups = group_steps(request, board.steps, situation.catalogue)
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
        stops = {g: _stops(findings, g) for g in standing}
        fallen = [g for g in standing if any(f.rests_on <= set(g) for f in stops[g])]
        if not fallen:
            # Nothing falls for a reason of its own; of those that lose to an earlier change
            # only the first goes, since its going may free the others.
            fallen = [g for g in standing if stops[g]][:1]
        if not fallen:
            return standing, findings
        standing = [g for g in standing if g not in fallen]


def _explained(
    board: _Board, group: Group, found: dict[int, list[Finding]], undone: Sequence[Group]
) -> dict[int, list[Finding]]:
    """The findings of a refused group, with the reason for members that nothing else stops."""
    stopped = [i for i in group if any(f.severity is Severity.STOP for f in found[i])]
    culprits = stopped or [i for g in undone for i in g]
    reason = "cannot be had" if stopped else "could then no longer be had"
    names = listed([board.name(i) for i in culprits])
    finding = together_stopped.finding(
        f"Left as it is, because {names} {reason}.", rests_on=culprits, other=names
    )
    return {i: found[i] if i in stopped else [*found[i], finding] for i in group}


def _stops(findings: dict[int, list[Finding]], group: Group) -> list[Finding]:
    return [f for i in group for f in findings[i] if f.severity is Severity.STOP]


class _Board:
    """The request laid out with its sections; judges any selection of its groups."""

    def __init__(self, situation: Situation, request: Request, now: datetime) -> None:
        self.situation = situation
        self.now = now
        self.today = situation.catalogue.calendar.local_date(now)
        self.mode: Mode = request.mode
        self.held = {h.section.id: h for h in situation.held}
        self.credits_before = situation.credits
        self.steps = tuple(self._step(i, c) for i, c in enumerate(request.changes))
        self._asked: dict[int, list[Rule | Finding]] = {}
        self._common: dict[tuple[Kind, bool], list[Rule | list[Finding]]] = {}
        self._memo: dict[object, object] = {}

    def _step(self, index: int, change: Change) -> Step:
        section = self.situation.catalogue.by_number.get(change.number)
        credits = 0.0
        if section is not None and change.kind is Kind.ADD:
            credits = section.credits_for(change.credits)
        return Step(index, change, section, credits)

    def name(self, index: int) -> str:
        """The section's name and number, as a sentence says it."""
        step = self.steps[index]
        number = step.change.number
        return number if step.section is None else f"{step.section.name} {number}"

    def end_state(self, order: Sequence[Group]) -> EndState:
        """What the student would have if these groups went through, in this order of priority."""
        steps = [self.steps[i] for group in order for i in group]
        drops = [s for s in steps if s.change.kind is Kind.DROP]
        adds = [s for s in steps if s.change.kind is Kind.ADD]
        given_up = {d.section.id for d in drops if d.section is not None}
        kept = [h for h in self.situation.held if h.section.id not in given_up]
        credits = sum(h.credits for h in kept) + sum(a.credits for a in adds)
        return EndState(kept, adds, drops, self.credits_before, credits)

    def judge(self, order: Sequence[Group]) -> dict[int, list[Finding]]:
        """Every finding on every change of these groups."""
        end = self.end_state(order)
        found: dict[int, list[Finding]] = {}
        earlier: list[Step] = []
        for group in order:
            for index in group:
                found[index] = self._judge_one(index, end, earlier)
                if self.steps[index].change.kind is Kind.ADD:
                    earlier = [*earlier, self.steps[index]]
        return found

    def judge_last(self, order: Sequence[Group], group: Group) -> dict[int, list[Finding]]:
        """The findings on one more group, which comes after those."""
        end = self.end_state([*order, group])
        steps = [self.steps[i] for g in order for i in g]
        earlier = [s for s in steps if s.change.kind is Kind.ADD]
        found: dict[int, list[Finding]] = {}
        for index in group:
            found[index] = self._judge_one(index, end, earlier)
            if self.steps[index].change.kind is Kind.ADD:
                earlier = [*earlier, self.steps[index]]
        return found

    def _judge_one(self, index: int, end: EndState, earlier: list[Step]) -> list[Finding]:
        step = self.steps[index]
        case = Case(self.situation, self.now, self.today, step, end, earlier, self._memo)
        asked = self._asked.get(index)
        if asked is None:
            # What rests on facts alone is found once; only the other rules are asked again.
            asked = self._asked[index] = self._ask_facts(case)
        found: list[Finding] = []
        for item in asked:
            if isinstance(item, Finding):
                found.append(item)
            else:
                found.extend(item.check(case, item))
        return found

    def _ask_facts(self, case: Case) -> list[Rule | Finding]:
        """Findings that no other change can alter, and the rules still to be asked, in order."""
        kind, known = case.step.change.kind, case.step.section is not None
        common = self._common.get((kind, known))
        if common is None:
            common = [
                list(rule.check(case, rule)) if rule.scope is Scope.STUDENT else rule
                for rule in _ASKED[kind, known]
            ]
            common = self._common[kind, known] = [item for item in common if item != []]
        asked: list[Rule | Finding] = []
        for item in common:
            if isinstance(item, list):
                asked.extend(item)
            elif item.scope is Scope.CHANGE:
                asked.extend(item.check(case, item))
            else:
                asked.append(item)
        return asked

    def conclude(self, accepted: set[int], findings: dict[int, list[Finding]]) -> Decision:
        """Put the outcomes into the order of the request, and work out the figures."""
        outcomes = tuple(self._outcome(s, s.index in accepted, findings) for s in self.steps)
        kept_cents = self.situation.kept_cents + sum(o.kept_cents for o in outcomes)
        given_up = {
            o.section.id for o in outcomes
            if o.section and o.result is Result.ACCEPTED and o.change.kind is Kind.DROP
        }  # fmt: skip
        held = [h for h in self.situation.held if h.section.id not in given_up]
        for outcome in outcomes:
            if outcome.result is Result.ACCEPTED and outcome.change.kind is Kind.ADD:
                if outcome.section is None:
                    raise LookupError("an add of an unknown section was accepted")
                grading = outcome.change.grading or outcome.section.course.gradings[0]
                held.append(Held(outcome.section, outcome.credits, grading))
        return Decision(
            outcomes,
            self._figures(self.situation.held, self.situation.kept_cents),
            self._figures(held, kept_cents),
            tuple(held),
        )

    def _outcome(
        self, step: Step, accepted: bool, findings: dict[int, list[Finding]]
    ) -> Outcome:
        result = Result.ACCEPTED if accepted else Result.REFUSED
        found = tuple(findings[step.index])
        held = None if step.section is None else self.held.get(step.section.id)
        if step.change.kind is not Kind.DROP or held is None:
            return Outcome(step.change, step.section, step.credits, result, found)
        if not accepted:
            return Outcome(step.change, step.section, held.credits, result, found)
        tariff = self.situation.catalogue.policy.tariff
        kept = kept_after_drop(held.section, held.credits, tariff, self.today)
        charge = section_charge(held.section, held.credits, tariff)
        withdrawn = self.today > held.section.block.drop_by
        return Outcome(
            step.change, step.section, held.credits, result, found, withdrawn, kept, charge - kept
        )

    def _figures(self, held: Iterable[Held], kept_cents: int) -> Figures:
        policy = self.situation.catalogue.policy
        sections = [(h.section, h.credits) for h in held]
        credits = sum([c for _, c in sections])
        charge = term_charge(sections, kept_cents, policy.tariff)
        full_time = credits >= policy.full_time
        return Figures(credits, policy.load_name(credits), full_time, charge)


def _asked(kind: Kind, known: bool) -> tuple[Rule, ...]:
    return tuple(
        rule for family in RULES.values() for rule in family
        if kind in rule.on and rule.known in (None, known) and rule is not together_stopped
    )  # fmt: skip


_ASKED = {(kind, known): _asked(kind, known) for kind in Kind for known in (True, False)}
