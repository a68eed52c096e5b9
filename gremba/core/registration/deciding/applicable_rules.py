"""Selects the rules that are asked about a step."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby
from typing import Any, NamedTuple

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.rules import RULES, Case, Gate, Matter, Rule, Scope, Step
from gremba.core.registration.rules.together import next_choice, together_stopped, unfinished

_FOLLOWING = (next_choice, together_stopped, unfinished)
"""Rules that are not asked: what they say follows from the others."""
BOOK = tuple(rule for family in RULES.values() for rule in family if rule not in _FOLLOWING)
"""The rules that are asked, in the order in which their findings are shown."""
OF_STUDENT = tuple(rule for rule in BOOK if rule.scope(None) is Scope.STUDENT)
"""Those that look at the student and the kind of change alone."""


class ApplicableRules(NamedTuple):
    """Consecutive rules with one gate, or what a rule has found."""

    gate: Gate | None
    rules: tuple[Rule, ...]
    found: Sequence[Finding] = ()


_OfThem = tuple[ApplicableRules, ...]
_Concerned = tuple[tuple[tuple[Rule, Scope], ...], _OfThem, _OfThem]

_OF_STEP = tuple(dict.fromkeys(rule.of_step for rule in BOOK if rule.of_step is not None))
"""What rules look at in a step."""


def rules_for(case: Case) -> _Concerned:
    """The rules for a step, in the order of the rule book: all with their scope, those about the change
    alone, and those about the request.

    What a section is, and what is done with it, leaves most of them with nothing to say. Which
    ones, is kept with the catalogue, by what the rules themselves say of the section and the step.
    """
    step = case.step
    cache = case.situation.catalogue.applicable_rules
    key = _likeness(step, cache)
    found: _Concerned | None = cache.get(key)
    if found is None:
        everything = tuple((r, r.scope(step.section)) for r in BOOK if _concerns(r, step))
        found = cache[key] = (
            everything,
            *(
                tuple(
                    ApplicableRules(gate, tuple(rules))
                    for gate, rules in groupby(
                        (r for r, s in everything if s is scope), key=lambda rule: rule.gate
                    )
                )
                for scope in (Scope.CHANGE, Scope.REQUEST)
            ),
        )
    return found


def matters_of(step: Step, cache: dict[object, Any]) -> frozenset[Matter] | None:
    """What other changes can alter of whether a step is blocked; None for anything.

    Args:
        cache: the catalogue's.
    """
    key = "matters", _likeness(step, cache)
    if key not in cache:
        depends_on = [
            rule.depends_on
            for rule in BOOK
            if rule.severity is Severity.STOP
            and rule.scope(step.section) is Scope.REQUEST
            and _concerns(rule, step)
        ]
        cache[key] = None if None in depends_on else frozenset().union(*filter(None, depends_on))
    found: frozenset[Matter] | None = cache[key]
    return found


def all_name_what_they_depend_on() -> bool:
    """Whether every rule declares what its answer depends on. Only then is it certain that only seat rules
    look at seats."""
    return all(
        rule.depends_on is not None
        for rule in BOOK
        if rule.severity is Severity.STOP and rule.scope(None) is Scope.REQUEST
    )


def _likeness(step: Step, cache: dict[object, Any]) -> tuple[object, ...]:
    """Equal for steps with the same applicable rules."""
    return (
        _traits(step.section, cache),
        step.does,
        step.implied,
        None if step.section is None else tuple([bool(of_step(step)) for of_step in _OF_STEP]),
        step.permission_code.waives if step.permission_code else None,
    )


def _traits(section: Section | None, cache: dict[object, Any]) -> int:
    """A number for what the rules say about a section alone; equal for similar sections."""
    if section is None:
        return 0
    number: int | None = cache.get(section.id)
    if number is None:
        traits = tuple((r.of_section is None or bool(r.of_section(section)), r.scope(section)) for r in BOOK)
        # Of equal ones the first is kept for good, so that its address is a number for all.
        number = cache[section.id] = id(cache.setdefault(traits, traits))
    return number


def _concerns(rule: Rule, step: Step) -> bool:
    if step.does not in rule.on or rule.known not in (None, step.section is not None):
        return False
    if step.implied and not (rule.named if step.does is Kind.WAIT else rule.implied):
        return False
    if rule.lifted_by is not None and step.is_lifted(rule.lifted_by):
        return False
    if step.section is None:
        return True
    if rule.of_section is not None and not rule.of_section(step.section):
        return False
    return rule.of_step is None or bool(rule.of_step(step))
