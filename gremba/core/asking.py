"""Which rules are asked about a step, and behind which gates."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby
from typing import NamedTuple

from gremba.core.findings import Finding
from gremba.core.rules import RULES, Case, Gate, Rule, Scope, Step
from gremba.core.rules.together import next_choice, together_stopped

_FOLLOWING = (next_choice, together_stopped)
"""Rules that are not asked: what they say follows from the others."""
BOOK = tuple(rule for family in RULES.values() for rule in family if rule not in _FOLLOWING)
"""The rules that are asked, in the order in which their findings are shown."""
OF_STUDENT = tuple(rule for rule in BOOK if rule.scope(None) is Scope.STUDENT)
"""Those that look at the student and the kind of change alone."""


class Asked(NamedTuple):
    """Rules that follow one another and have one gate; or instead, what a rule has found."""

    gate: Gate | None
    rules: tuple[Rule, ...]
    found: Sequence[Finding] = ()


_Concerned = tuple[tuple[tuple[Rule, Scope], ...], tuple[Asked, ...], tuple[Asked, ...]]


def rules_for(case: Case) -> _Concerned:
    """The rules to be asked about a step, in the order of the rule book: all of them with their
    scope, those that look at the change alone, and those that look at the request.

    What a section is leaves most of them with nothing to say; which ones, is kept with the
    catalogue for all sections with the same traits.
    """
    step = case.step
    change = step.change
    key = (
        step.section.traits if step.section else None, step.does, step.along,
        change.credits is None, change.grading is None, not change.consent,
        step.consent.lifts if step.consent else None,
    )  # fmt: skip
    kept = case.situation.catalogue.asked
    found: _Concerned | None = kept.get(key)
    if found is None:
        everything = tuple((r, r.scope(step.section)) for r in BOOK if _concerns(r, step))
        found = kept[key] = everything, *(
            tuple(
                Asked(gate, tuple(rules))
                for gate, rules in groupby(
                    (r for r, s in everything if s is scope), key=lambda rule: rule.gate
                )
            )
            for scope in (Scope.CHANGE, Scope.REQUEST)
        )
    return found


def _concerns(rule: Rule, step: Step) -> bool:
    if step.does not in rule.on or rule.known not in (None, step.section is not None):
        return False
    if step.along and not rule.along:
        return False
    if rule.lifted_by is not None and step.is_lifted(rule.lifted_by):
        return False
    return rule.about is None or step.section is None or bool(rule.about(step.section, step))
