"""A decision as plain data: what the cart shows, what a receipt keeps, what the API answers."""

from __future__ import annotations

from typing import Any

from gremba.core.catalogue import Section
from gremba.core.decision import Decision, Figures, Outcome
from gremba.core.findings import Finding


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
    return {
        "kind": outcome.change.kind.value,
        "number": outcome.change.number,
        "name": "" if section is None else section.name,
        "title": "" if section is None else title_of(section),
        "grading": "" if section is None else outcome.change.grading or section.course.gradings[0],
        "credits": outcome.credits,
        "result": outcome.result.value,
        "withdrawn": outcome.withdrawn,
        "refund_cents": outcome.refund_cents,
        "findings": [finding_data(f) for f in outcome.findings],
    }


def finding_data(finding: Finding) -> dict[str, Any]:
    """One finding with its remedies."""
    return {
        "code": finding.code,
        "severity": finding.severity.value,
        "text": finding.text,
        "facts": dict(finding.facts),
        "remedies": [
            {
                "text": r.text,
                "action": None
                if r.action is None
                else {"kind": r.action.kind.value, "number": r.action.number},
            }
            for r in finding.remedies
        ],
        "ask": finding.ask,
    }


def figures_data(figures: Figures) -> dict[str, Any]:
    """Credits, load and charge."""
    return {
        "credits": figures.credits,
        "load": figures.load,
        "full_time": figures.full_time,
        "charge_cents": figures.charge_cents,
    }


def title_of(section: Section) -> str:
    """The course's title, with the topic of the section where it has one."""
    return f"{section.course.title}: {section.topic}" if section.topic else section.course.title
