"""What a rule is given, and how one is written down."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from datetime import date, datetime
from enum import Enum

from gremba.core.catalogue import Section
from gremba.core.changes import Change, Kind
from gremba.core.findings import Finding, Remedy, Severity
from gremba.core.situation import Held, Situation
from gremba.core.windows import WindowView, view_window


@dataclass(frozen=True, slots=True)
class Step:
    """A change with its place in the request and the section it is about (None if unknown)."""

    index: int
    change: Change
    section: Section | None
    credits: float


@dataclass(slots=True)
class EndState:
    """What the student would have if the changes still standing went through.

    Attributes:
        kept: sections registered now that no standing drop gives up.
        adds: standing adds, in order of priority.
        drops: standing drops, in order of priority.
        credits_before: credits registered now.
        credits: credits in the end.
    """

    kept: list[Held]
    adds: list[Step]
    drops: list[Step]
    credits_before: float
    credits: float


@dataclass(slots=True)
class Case:
    """One change before the rules.

    Attributes:
        end: the end state the change is judged against.
        earlier: the standing adds that come before it.
        memo: what rules have worked out for this decision and may use again.
    """

    situation: Situation
    now: datetime
    today: date
    step: Step
    end: EndState
    earlier: list[Step]
    memo: dict[object, object]

    @property
    def section(self) -> Section:
        """The section; rules marked as needing one are asked only where it is known."""
        if self.step.section is None:
            raise LookupError("this rule was asked about an unknown section")
        return self.step.section

    @property
    def window(self) -> WindowView:
        """The registration window in force."""
        known = self.memo.get("window")
        if not isinstance(known, WindowView):
            known = view_window(self.situation.windows, self.now)
            self.memo["window"] = known
        return known

    @property
    def held(self) -> Held | None:
        """The registration of this very section, dropped by the request or not."""
        for held in self.situation.held:
            if held.section is self.step.section:
                return held
        return None

    def goes_before(self, other: Step) -> str:
        """Why another change of the request comes first."""
        return "stands further up" if other.index < self.step.index else "goes through"


class Scope(Enum):
    """What a rule's answer depends on; the less it is, the less often the rule need be asked."""

    STUDENT = "the student and the kind of change"
    CHANGE = "the change by itself"
    REQUEST = "the other changes of the request too"


Check = Callable[["Case", "Rule"], Iterable[Finding]]


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule with its place in the handbook.

    Attributes:
        on: the kinds of change it is asked about.
        scope: what its answer depends on.
        known: whether it is asked about reference numbers that are known in the term, or about
            those that are not; None for both.
    """

    code: str
    severity: Severity
    on: frozenset[Kind]
    checks: str
    why: str
    ways_on: str
    check: Check
    scope: Scope
    known: bool | None

    def finding(
        self,
        text: str,
        *,
        remedies: Iterable[Remedy] = (),
        ask: str = "",
        rests_on: Iterable[int] = (),
        **facts: str | int | float,
    ) -> Finding:
        """A finding of this rule."""
        return Finding(
            self.code, self.severity, text, facts, tuple(remedies), ask, frozenset(rests_on)
        )


def rule(
    code: str,
    severity: Severity,
    *on: Kind,
    scope: Scope = Scope.REQUEST,
    known: bool | None = True,
) -> Callable[[Check], Rule]:
    """Make a rule of a function whose docstring says what it checks, "Why:" and "Ways on:".

    Raises:
        ValueError: the docstring lacks one of its three parts.
    """

    def make(function: Check) -> Rule:
        checks, _, rest = (inspect.getdoc(function) or "").partition("\n\nWhy: ")
        why, _, ways_on = rest.partition("\n\nWays on: ")
        if not (checks and why and ways_on):
            raise ValueError(f"the docstring of rule {code} lacks one of its three parts")
        parts = [" ".join(part.split()) for part in (checks, why, ways_on)]
        return Rule(code, severity, frozenset(on), *parts, function, scope, known)

    return make
