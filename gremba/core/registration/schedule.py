"""A student's schedule as it is, and as the cart would make it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from gremba.core.catalogue.term import Section
from gremba.core.registration.changes import Kind
from gremba.core.registration.findings import Severity
from gremba.core.registration.outcome import Decision, Outcome, Result
from gremba.core.registration.rules import ABOUT_STUDENT
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation


class WeekEntryState(StrEnum):
    """What becomes of a section."""

    REGISTERED = "registered"
    DROPPED = "dropped"
    ADDED = "added"
    SWAPPED = "swapped"
    PLANNED = "planned"
    STOPPED = "stopped"


@dataclass(frozen=True, slots=True)
class WeekEntry:
    """A section that is registered or in the cart.

    Attributes:
        planned: what the cart would do with it, for one that is registered.
        clashes: the cart meets a clash with it.
        tight: there is hardly time for the way to it.
    """

    section: Section
    credits: float
    grading: str
    state: WeekEntryState
    planned: Kind | None = None
    clashes: bool = False
    tight: bool = False

    @property
    def is_held(self) -> bool:
        """Whether it is registered now."""
        return self.state in (WeekEntryState.REGISTERED, WeekEntryState.DROPPED)


def stopped_for_now(outcome: Outcome) -> bool:
    """Whether a change is only blocked by what blocks everything and is going to be cleared."""
    stops = [f.code for f in outcome.findings if f.severity is Severity.STOP]
    return bool(stops) and all(code in ABOUT_STUDENT for code in stops)


def week_plan(situation: Situation, decision: Decision) -> list[WeekEntry]:
    """All registered sections, then those the cart would add."""
    gone = {g.held.section.id for o in decision.outcomes for g in o.drops}
    planned: dict[str, Kind] = {}
    for outcome in decision.outcomes:
        change = outcome.change
        if change.kind is Kind.SWAP:
            planned[change.in_exchange] = Kind.SWAP
        elif change.kind in (Kind.DROP, Kind.ADJUST):
            planned[change.number] = change.kind
    entries = [
        WeekEntry(
            h.section,
            h.credits,
            h.grading,
            WeekEntryState.DROPPED if h.section.id in gone else WeekEntryState.REGISTERED,
            planned.get(h.section.reference_number),
        )
        for h in situation.held
    ]
    for outcome in decision.outcomes:
        if outcome.section is None or outcome.change.kind not in (Kind.ADD, Kind.SWAP):
            continue
        codes = {f.code for f in outcome.findings}
        entries.append(
            WeekEntry(
                outcome.section,
                outcome.credits,
                outcome.grading,
                _part_of(outcome),
                clashes=RuleCode.TIME_CONFLICT in codes,
                tight=RuleCode.TIME_TRAVEL in codes,
            )
        )
    return entries


def _part_of(outcome: Outcome) -> WeekEntryState:
    if outcome.result is Result.ACCEPTED:
        return WeekEntryState.SWAPPED if outcome.change.kind is Kind.SWAP else WeekEntryState.ADDED
    return WeekEntryState.PLANNED if stopped_for_now(outcome) else WeekEntryState.STOPPED
