"""What a rule is given, and how one is declared."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from enum import Enum

from gremba.core.catalogue.term import Section
from gremba.core.permission.permission_code import PermissionCode
from gremba.core.registration.changes import Change, Kind
from gremba.core.registration.findings import Finding, Remedy, Severity
from gremba.core.registration.situation import Registration, Situation
from gremba.core.states import Waiver
from gremba.core.windows.opening import WindowStatus, window_status


@dataclass(slots=True)
class Step:
    """One part of a change: adds, drops, or adjusts a section.

    A swap has two steps, a drop may have more than one: what goes along with a section dropped.

    Attributes:
        index: the change's place in the request.
        does: ADD, DROP, ADJUST or WAIT.
        section: the section it is about; None if it is unknown.
        implied: it follows from another step: a linked section that goes along with a section dropped,
            or an add that is only named for a waitlist spot.
        permission_code: the permission code given with it, if the code is good for it; else what was granted
            to the student for the section.
        raises: by how many credits it raises the load: those of an add, or what an adjustment
            adds to those held.
    """

    index: int
    change: Change
    does: Kind
    section: Section | None
    credits: float
    grading: str
    implied: bool = False
    permission_code: PermissionCode | None = None
    raises: float = 0.0

    @property
    def number(self) -> str:
        """The section's reference number, as given."""
        if self.section is not None:
            return self.section.reference_number
        swap_drop = self.change.kind is Kind.SWAP and self.does is Kind.DROP
        return self.change.in_exchange if swap_drop else self.change.number

    @property
    def name(self) -> str:
        """``SOIL 240 30412``; the number alone if the section is unknown."""
        return self.number if self.section is None else f"{self.section.name} {self.number}"

    def is_lifted(self, what: Waiver) -> bool:
        """Whether the permission code overrides a matter."""
        return self.permission_code is not None and what.value in self.permission_code.waives


@dataclass(slots=True)
class EndState:
    """What the student would have after the changes still standing.

    Attributes:
        remaining: sections registered now that no standing drop gives up, adjusted as asked for.
        adds: standing adds, in order of priority.
        drops: standing drops, in order of priority.
        credits_before: credits registered now.
        credits_remaining: credits of the sections kept, without what adjustments add to them.
        credits: credits in the end.
        waits: standing waits, in order of priority.
        adjusts: standing adjustments, in order of priority.
        along: by place in the request, the drops that a standing drop implies: linked sections of the
            section dropped that no other drop names.
    """

    remaining: list[Registration]
    adds: list[Step]
    drops: list[Step]
    credits_before: float
    credits_remaining: float
    credits: float
    waits: list[Step]
    adjusts: list[Step]
    along: Mapping[int, Sequence[Step]]

    @property
    def sections(self) -> list[Section]:
        """Every section the student would have."""
        return [h.section for h in self.remaining] + [a.section for a in self.adds if a.section]

    @property
    def steps(self) -> list[Step]:
        """All steps of the standing changes."""
        return [*self.adds, *self.drops, *self.waits, *self.adjusts]


@dataclass(slots=True)
class Wanted:
    """The whole request, whatever becomes of it.

    Attributes:
        steps: what its changes do, in the order of the request.
        contested: ids of the sections that more than one change is about.
    """

    steps: tuple[Step, ...]
    contested: frozenset[int]

    def drops_of(self, section: Section) -> list[Step]:
        """The steps that drop a section."""
        return [s for s in self.steps if s.does is Kind.DROP and s.section is section]


@dataclass(slots=True)
class Before:
    """The standing steps before the one judged.

    Attributes:
        adds: its adds.
        raises: its adds and adjustments that raise the load.
        waits: its waits.
        named: its adds that are only named for a waitlist spot.
    """

    adds: list[Step] = field(default_factory=list)
    raises: list[Step] = field(default_factory=list)
    waits: list[Step] = field(default_factory=list)
    named: list[Step] = field(default_factory=list)

    def put(self, step: Step) -> None:
        """Add a step."""
        if step.does is Kind.ADD:
            self.adds.append(step)
        elif step.does is Kind.WAIT:
            (self.named if step.implied else self.waits).append(step)
        if step.raises:
            self.raises.append(step)


@dataclass(slots=True)
class Case:
    """One step of a change, as rules see it.

    Attributes:
        section: the step's; rules marked as needing one are asked only where it is known.
        end: the end state the step is judged against.
        before: what comes before it.
        earlier: the standing adds among these.
        wanted: the whole request.
        memo: what rules have worked out for this decision and may use again.
    """

    situation: Situation
    now: datetime
    today: date
    step: Step
    section: Section
    end: EndState
    before: Before
    earlier: list[Step]
    wanted: Wanted
    memo: dict[object, object]

    @property
    def window(self) -> WindowStatus:
        """The current registration window."""
        known = self.memo.get("window")
        if not isinstance(known, WindowStatus):
            known = window_status(self.situation.windows, self.now)
            self.memo["window"] = known
        return known

    @property
    def held(self) -> Registration | None:
        """The registration of this section, whether or not the request drops it."""
        for held in self.situation.held:
            if held.section is self.step.section:
                return held
        return None

    def goes_before(self, other: Step) -> str:
        """Why another change of the request comes first."""
        return "stands further up" if other.index < self.step.index else "goes through"

    def may_move_up(self, others: Iterable[Step]) -> bool:
        """Whether moving up could help against these changes."""
        return any(other.index < self.step.index for other in others)


class Scope(Enum):
    """What a rule's answer depends on; the narrower, the less often the rule is evaluated."""

    STUDENT = "the student and the kind of change"
    CHANGE = "the change by itself"
    REQUEST = "the other changes of the request too"


class Matter(Enum):
    """What one change can alter for another; a rule names those its answer depends on.

    How far each reaches is worked out in :mod:`gremba.core.registration.deciding.interplay`.
    """

    HOURS = "the hours at which the student is in class"
    SEATS = "the seats and the waitlist of a seat pool"
    COURSE = "the sections of one course that the student has, adds, drops or waits for"
    BUNDLE = "the sections of one bundle"
    NEEDS = "the courses of the same term that requisites ask for"
    CREDITS = "the credits in all"
    LEAVING = "whether anything is left of the term"
    SPOTS = "how many waitlist spots the student has"


Check = Callable[["Case", "Rule"], Iterable[Finding]]
OfSection = Callable[[Section], object]
OfStep = Callable[["Step"], object]
Gate = Callable[["Case"], object]


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule and its place in the handbook.

    Attributes:
        on: what steps do that it is asked about.
        scope: what its answer depends on, for a section; see :class:`Scope`.
        known: whether it is asked about reference numbers that are known in the term, or about
            those that are not; None for both.
        of_section: whether the rule could have anything to say of a section. It may look at
            nothing else: the answer is kept with the catalogue.
        of_step: whether it could have anything to say of what is done with a section that is known,
            and with which options.
        lifted_by: what a permission code must lift for the rule to be silent.
        implied: whether it is asked about what only goes along with a section dropped.
        named: whether it is asked about what is only named for a waitlist spot.
        depends_on: what other changes can alter of its answer; None for anything at all, which is
            always right and costs more tries. Of no account unless the scope is the request.
        gate: whether the rule could have anything to say of a case, found out quickly. Most cases
            are plain, and rules that follow one another with one gate then cost as little as it.
    """

    code: str
    severity: Severity
    on: frozenset[Kind]
    checks: str
    why: str
    ways_on: str
    check: Check
    scope: Callable[[Section | None], Scope]
    known: bool | None
    of_section: OfSection | None
    of_step: OfStep | None
    lifted_by: Waiver | None
    implied: bool
    named: bool
    gate: Gate | None
    depends_on: frozenset[Matter] | None

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
        return Finding(self.code, self.severity, text, facts, tuple(remedies), ask, frozenset(rests_on))


def rule(
    code: str,
    severity: Severity,
    *on: Kind,
    scope: Scope | Callable[[Section | None], Scope] = Scope.REQUEST,
    known: bool | None = True,
    of_section: OfSection | None = None,
    of_step: OfStep | None = None,
    lifted_by: Waiver | None = None,
    implied: bool = False,
    named: bool = True,
    gate: Gate | None = None,
    depends_on: Iterable[Matter] | None = None,
) -> Callable[[Check], Rule]:
    """Turn a function into a rule; its docstring says what it checks, "Why:" and "Ways on:".

    Raises:
        ValueError: the docstring lacks one of its three parts.
    """
    scope_of = (lambda _: scope) if isinstance(scope, Scope) else scope

    def make(function: Check) -> Rule:
        checks, _, rest = (inspect.getdoc(function) or "").partition("\n\nWhy: ")
        why, _, ways_on = rest.partition("\n\nWays on: ")
        if not (checks and why and ways_on):
            raise ValueError(f"the docstring of rule {code} lacks one of its three parts")
        return Rule(
            code,
            severity,
            frozenset(on),
            _plain(checks),
            _plain(why),
            _plain(ways_on),
            function,
            scope_of,
            known,
            of_section,
            of_step,
            lifted_by,
            implied,
            named,
            gate,
            None if depends_on is None else frozenset(depends_on),
        )

    return make


def _plain(paragraph: str) -> str:
    return " ".join(paragraph.split())
