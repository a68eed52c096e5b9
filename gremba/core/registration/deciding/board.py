"""Evaluates a request: its steps, and what the rules say in the end state of any selection of its changes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from gremba.core.registration.changes import Kind, Request
from gremba.core.registration.deciding.applicable_rules import (
    OF_STUDENT,
    ApplicableRules,
    matters_of,
    rules_for,
)
from gremba.core.registration.deciding.effort import Effort
from gremba.core.registration.deciding.interplay import Relations, find_relations
from gremba.core.registration.deciding.selection import Selection, select
from gremba.core.registration.deciding.steps import Group, drops_along, expand_changes, wanted_by
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.rules import Case, EndState, Matter, Scope, Step
from gremba.core.registration.rules.case import Before
from gremba.core.registration.situation import Registration, Situation

_COURSE = frozenset({Matter.COURSE})


class Board:
    """The request expanded into steps; judges any selection of its changes."""

    def __init__(self, situation: Situation, request: Request, now: datetime) -> None:
        self.situation = situation
        self.now = now
        self.today = situation.catalogue.calendar.local_date(now)
        self.credits_before = situation.credits
        self.held = {h.section.id: h for h in situation.held}
        self.expanded = expand_changes(situation, request, now)
        self._along: dict[tuple[int, int], Step] = {}
        """By place and section, the drops that a change implies, so that each is one object."""
        self._possible = [self._possible_steps(own) for own in self.expanded]
        self.wanted = wanted_by(self._possible)
        self._applicable: dict[int, Sequence[ApplicableRules]] = {}
        """By the identity of a step, of which each is expanded once."""
        self._stopping: dict[int, Sequence[ApplicableRules]] = {}
        """The same, only what can stop it and looks at the other changes."""
        self._of_student: dict[tuple[Kind, Kind], Mapping[str, Sequence[Finding]]] = {}
        self._memo: dict[object, object] = {}

    def _possible_steps(self, own: tuple[Step, ...]) -> tuple[Step, ...]:
        """A change's steps with everything it could take along."""
        drops = [s for s in own if s.does is Kind.DROP]
        return own + tuple([self._step_along(*d) for d in drops_along(self.situation.held, drops, ())])

    def _step_along(self, step: Step, held: Registration) -> Step:
        key = step.index, held.section.id
        along = self._along.get(key)
        if along is None:
            along = self._along[key] = Step(
                step.index, step.change, Kind.DROP, held.section, held.credits, held.grading, implied=True
            )
        return along

    def steps_of(self, index: int, end: EndState) -> Sequence[Step]:
        """A change's steps in an end state: its own, and the drops it implies there."""
        along = end.along.get(index)
        return self.expanded[index] if along is None else (*self.expanded[index], *along)

    def relations(self, groups: Sequence[Group]) -> Relations:
        """Which groups can alter what the rules say about which others."""
        steps = [[s for i in g for s in self._possible[i]] for g in groups]
        cache = self.situation.catalogue.applicable_rules
        matters = [[matters_of(s, cache) for s in own] for own in steps]
        return find_relations(self.situation, steps, matters)

    def select(
        self,
        groups: Sequence[Group],
        known: Sequence[int],
        effort: Effort | None,
        relations: Relations | None = None,
    ) -> Selection:
        """The groups that succeed, as positions in the list of blocked ones.

        Args:
            known: changes that make a valid set.
            relations: None for those that the rules name.
        """
        if len(groups) == 1:
            return Selection(0)
        hopeless = witness = 0
        for position, group in enumerate(groups):
            witness |= (group[0] in known) << position
            hopeless |= any(self._is_stopped_by_facts(i) for i in group) << position
        relations = relations or self.relations(groups)
        ends: dict[int, tuple[list[int], EndState]] = {}

        def stops(position: int, trial: int) -> list[int]:
            end = ends.get(trial)
            if end is None:
                # Groups of one set are asked about one after another: only the last is kept.
                ends.clear()
                order = sorted([i for p, g in enumerate(groups) if trial >> p & 1 for i in g])
                end = ends[trial] = order, self.end_state(order)
            rules = self._rules_that_stop(groups[position], *end)
            return [relations.savers(position, rule) for rule in rules]

        return select(relations, stops, hopeless, effort, witness)

    def _is_stopped_by_facts(self, index: int) -> bool:
        """Whether a change is blocked whatever the others do."""
        return any(self._has_stopping_fact(step) for step in self.expanded[index])

    def _has_stopping_fact(self, step: Step) -> bool:
        return any(
            f.severity is Severity.STOP for _, _, known in self._applicable.get(id(step), ()) for f in known
        )

    def _rules_that_stop(
        self, group: Group, order: Sequence[int], end: EndState
    ) -> list[frozenset[Matter] | None]:
        """What the rules that block a group in an end state depend on, without facts of the group alone.
        Every change has been judged before."""
        before = Before()
        found: list[frozenset[Matter] | None] = []
        for index in order:
            for step in self.steps_of(index, end):
                if index in group:
                    found += self._rules_that_stop_step(step, end, before)
                before.put(step)
        return found

    def _rules_that_stop_step(
        self, step: Step, end: EndState, before: Before
    ) -> Iterator[frozenset[Matter] | None]:
        case = self._case(step, end, before)
        if id(step) not in self._applicable:
            # A drop may take along here what it did not where it was judged before.
            self._applicable[id(step)] = self._ask_facts(case)
        if step.implied and self._has_stopping_fact(step):
            # It can be kept from going along.
            yield _COURSE
        stopping = self._stopping.get(id(step))
        if stopping is None:
            stopping = self._stopping[id(step)] = tuple(
                ApplicableRules(gate, stops)
                for gate, rules, known in self._applicable[id(step)]
                if not known and (stops := tuple(r for r in rules if r.severity is Severity.STOP))
            )
        for gate, rules, _ in stopping:
            if gate is None or gate(case):
                for rule in rules:
                    for _ in rule.check(case, rule):
                        yield rule.depends_on
                        break

    def end_state(self, order: Sequence[int]) -> EndState:
        """What the student would have if these changes succeeded, in this order of priority."""
        adds: list[Step] = []
        drops: list[Step] = []
        waits: list[Step] = []
        adjusts: list[Step] = []
        for index in order:
            for step in self.expanded[index]:
                if step.does is Kind.ADD:
                    adds.append(step)
                elif step.does is Kind.DROP:
                    drops.append(step)
                elif step.does is Kind.WAIT:
                    if not step.implied:
                        waits.append(step)
                elif step.section is not None:
                    adjusts.append(step)
        along: dict[int, list[Step]] = {}
        if drops:
            for step, held in drops_along(self.situation.held, drops, adds):
                along.setdefault(step.index, []).append(self._step_along(step, held))
            drops += [s for own in along.values() for s in own]
        remaining: Iterable[Registration] = self.situation.held
        if drops:
            given_up = {d.section.id for d in drops if d.section is not None}
            remaining = [h for h in remaining if h.section.id not in given_up]
        if adjusts:
            adjusted = {a.section.id: a for a in reversed(adjusts) if a.section is not None}
            remaining = [adjusted_by(h, adjusted.get(h.section.id)) for h in remaining]
        remaining = list(remaining)
        credits_remaining = sum([h.credits for h in remaining])
        credits = credits_remaining + sum([a.credits for a in adds])
        if adjusts:
            credits_remaining -= sum([a.raises for a in adjusts])
        return EndState(
            remaining, adds, drops, self.credits_before, credits_remaining, credits, waits, adjusts, along
        )

    def judge(self, order: Sequence[int], last: Sequence[int] = ()) -> dict[int, list[Finding]]:
        """All findings on these changes in order of priority; or only on the last ones, behind the others.

        Args:
            order: places in the request.
        """
        end = self.end_state([*order, *last])
        before = Before()
        found = {}
        judged = last or order
        for index in (*order, *last):
            if index in judged:
                found[index] = self._judge_change(index, end, before)
            else:
                for step in self.steps_of(index, end):
                    before.put(step)
        return found

    def _judge_change(self, index: int, end: EndState, before: Before) -> list[Finding]:
        found = list(self._findings(index, end, before))
        if len(self.expanded[index]) > 1 or index in end.along:
            return list({(f.code, f.text): f for f in found}.values())
        return found

    def _findings(self, index: int, end: EndState, before: Before) -> Iterator[Finding]:
        """The findings on one change; its steps are added to the earlier ones."""
        for step in self.steps_of(index, end):
            case = self._case(step, end, before)
            asked = self._applicable.get(id(step))
            if asked is None:
                # What rests on facts alone is found once; only the others are asked again.
                asked = self._applicable[id(step)] = self._ask_facts(case)
            for gate, rules, known in asked:
                if known:
                    yield from known
                elif gate is None or gate(case):
                    for rule in rules:
                        yield from rule.check(case, rule)
            before.put(step)

    def _case(self, step: Step, end: EndState, before: Before) -> Case:
        return Case(
            self.situation,
            self.now,
            self.today,
            step,
            step.section,  # type: ignore[arg-type]
            end,
            before,
            before.adds,
            self.wanted,
            self._memo,
        )

    def _ask_facts(self, case: Case) -> Sequence[ApplicableRules]:
        """Findings that no other change can alter, and the rules still to be evaluated."""
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
            ApplicableRules(rule.gate, (rule,))
            if scope is Scope.REQUEST
            else ApplicableRules(None, (), found.get(rule.code, ()))
            for rule, scope in everything
        )

    def _ask_about_student(self, case: Case) -> Mapping[str, Sequence[Finding]]:
        """What rules find that only look at the student and the kind of change, by code."""
        key = (case.step.change.kind, case.step.does)
        known = self._of_student.get(key)
        if known is None:
            found = {r.code: tuple(r.check(case, r)) for r in OF_STUDENT if case.step.does in r.on}
            known = self._of_student[key] = {code: f for code, f in found.items() if f}
        return known


def first_stop(found: Sequence[Finding]) -> Finding | None:
    """The first finding that blocks a change; None if none does."""
    return next((f for f in found if f.severity is Severity.STOP), None)


def adjusted_by(held: Registration, step: Step | None) -> Registration:
    """A registration after an adjustment."""
    return held if step is None else replace(held, credits=step.credits, grading=step.grading)
