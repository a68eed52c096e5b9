"""A decision as plain data, for the cart, confirmations and the API."""

from __future__ import annotations

from typing import Any

from gremba.core.catalogue.requisites import CountOf, Evidence, State
from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import (
    Action,
    Finding,
    GoTo,
    MoveUp,
    PutInCart,
    Remedy,
    SeeChange,
    TakeInstead,
    TakeOut,
    Target,
)
from gremba.core.registration.outcome import Decision, Figures, Outcome
from gremba.core.registration.rules import ABOUT_STUDENT


def decision_data(decision: Decision) -> dict[str, Any]:
    """The whole decision; amounts are in cents."""
    return {
        "outcomes": [outcome_data(o) for o in decision.outcomes],
        "before": figures_data(decision.before),
        "after": figures_data(decision.after),
    }


def outcome_data(outcome: Outcome) -> dict[str, Any]:
    """One change with its findings."""
    section = outcome.section
    change = outcome.change
    return {
        "kind": change.kind.value,
        "number": change.number,
        "name": "" if section is None else section.name,
        "title": "" if section is None else title_of(section),
        "in_exchange": change.in_exchange,
        "original": change.original,
        "grading": outcome.grading,
        "credits": outcome.credits,
        "unusual": _unusual(outcome),
        "result": outcome.result.value,
        "withdrawn": outcome.withdrawn,
        "refund_cents": outcome.refund_cents,
        "also_dropped": [
            {"name": g.held.section.name, "number": g.held.section.reference_number}
            for g in outcome.drops
            if g.held.section.reference_number not in (change.number, change.in_exchange)
        ],
        "findings": [finding_data(f) for f in outcome.findings],
    }


def _unusual(outcome: Outcome) -> bool:
    """Whether the grading basis is worth showing: it is not the default, or is being changed."""
    section = outcome.section
    if section is None or not outcome.grading:
        return False
    is_usual = outcome.grading == section.course.gradings[0]
    return outcome.change.kind is Kind.ADJUST or not is_usual


def finding_data(finding: Finding) -> dict[str, Any]:
    """One finding with its remedies."""
    return {
        "code": finding.code,
        "severity": finding.severity.value,
        "text": finding.text,
        "facts": dict(finding.facts),
        "remedies": [remedy_data(r) for r in finding.remedies],
        "ask": finding.ask,
        # What one can ask for is asked for a section: it is said there.
        "common": finding.code in ABOUT_STUDENT and not any(_asks(r) for r in finding.remedies),
    }


def remedy_data(remedy: Remedy) -> dict[str, Any]:
    """A remedy, with what the page can do about it."""
    return {"text": remedy.text, "action": _action_data(remedy.action)}


def _action_data(action: Action | None) -> dict[str, Any] | None:
    match action:
        case PutInCart(changes):
            proposals = [
                {"kind": w.kind.value, "number": w.number, "in_exchange": w.in_exchange} for w in changes
            ]
            return {"do": "put", "changes": proposals, "numbers": [], "target": None}
        case TakeInstead(numbers):
            return {"do": "instead", "changes": [], "numbers": list(numbers), "target": None}
        case MoveUp():
            return {"do": "up", "changes": [], "numbers": [], "target": None}
        case SeeChange(number):
            return {"do": "see", "changes": [], "numbers": [number], "target": None}
        case TakeOut(numbers):
            return {"do": "out", "changes": [], "numbers": list(numbers), "target": None}
        case GoTo(target):
            return {"do": "go", "changes": [], "numbers": [], "target": target.value}
        case _:
            return None


def figures_data(figures: Figures) -> dict[str, Any]:
    """Credits, load, and charges."""
    return {
        "credits": figures.credits,
        "load": figures.load,
        "full_time": figures.full_time,
        "charge_cents": figures.charge_cents,
    }


def title_of(section: Section) -> str:
    """The course's title, with the section's topic if it has one."""
    return f"{section.course.title}: {section.topic}" if section.topic else section.course.title


_STATES = {State.MET: "met", State.PROVISIONAL: "provisional", State.UNMET: "unmet"}


def evidence_data(evidence: Evidence) -> dict[str, Any]:
    """A requisite as a tree with the state of each node and its evidence."""
    return {
        "need": evidence.need,
        "fact": evidence.fact,
        "state": _STATES[evidence.state],
        "least": evidence.node.least if isinstance(evidence.node, CountOf) else None,
        "parts": [evidence_data(p) for p in evidence.parts],
    }


def _asks(remedy: Remedy) -> bool:
    return isinstance(remedy.action, GoTo) and remedy.action.target is Target.ASK
