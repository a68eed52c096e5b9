"""The answer to a question: how many timetables there are, the best of them, their key sections, or why there
are none."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from itertools import islice

from gremba.core.bits import bits_of
from gremba.core.catalogue.term import Section
from gremba.core.registration.decision import decide
from gremba.core.registration.findings import Finding, Severity
from gremba.core.registration.rules.codes import RuleCode
from gremba.core.registration.situation import Situation
from gremba.core.timetables.best import Chosen, best_first
from gremba.core.timetables.criteria import fixed_option, measures_of, weeks_together
from gremba.core.timetables.explained import Explaining, Reason, want_name
from gremba.core.timetables.gaps import gaps_of
from gremba.core.timetables.instance import Instance
from gremba.core.timetables.key_sections import KeySection, find_key_sections
from gremba.core.timetables.question import Question
from gremba.core.timetables.reasons import Possible, impossible_sets
from gremba.core.timetables.requested import Part, parts_of, request_of
from gremba.core.timetables.searching import Number, Search, Steps
from gremba.core.timetables.sought import Sought, WantState

MOST_SHOWN = 60
"""Timetables in one answer at the most."""

MOST_WALKED = 2_000
"""So far one can walk through them in order."""

_NEAREST_SHOWN = 3

_STEPS_FOR_ORDER = 1_500_000
"""What may be spent on the order, beside the number."""

_STEPS_FOR_REASONS = 600_000
"""What may be spent on why there is none, and again on what comes nearest."""


@dataclass(frozen=True, slots=True)
class Timetable:
    """One timetable.

    Attributes:
        place: in the order, from 0; None for one that was asked for by its sections.
        parts: one a want, the scarcest first.
        differs: sections that the one before it does not have.
        start: the earliest class of the week, in minutes since midnight; None without set times.
        end: the latest.
        gaps: of the fullest kind of week.
        days: weekdays with class.
        credits: with those that stay.
        breaks: places of the hours to be kept free if possible that it does not keep.
        stops: what the decision says against it, as of the window's opening.
        is_in_order: else the steps were used up, and a better one may come later.
    """

    place: int | None
    parts: tuple[Part, ...]
    differs: frozenset[str]
    start: int | None
    end: int | None
    gaps: int
    days: tuple[int, ...]
    credits: float
    breaks: tuple[int, ...]
    stops: tuple[Finding, ...]
    is_in_order: bool = True

    @property
    def sections(self) -> tuple[Section, ...]:
        """Its sections, without registered ones that stay."""
        return tuple(dict.fromkeys(s for p in self.parts for s in p.sections))

    @property
    def numbers(self) -> tuple[str, ...]:
        """Their reference numbers, ascending."""
        return tuple(sorted(s.reference_number for s in self.sections))


@dataclass(frozen=True, slots=True)
class StoppedSection:
    """A section that the rules block in any timetable."""

    section: Section
    finding: Finding


@dataclass(frozen=True, slots=True)
class AnsweredWant:
    """The result for one wanted course.

    Attributes:
        sought: it, as it was looked for.
        name: in a sentence.
        is_in: every timetable has it; else it is registered already, cannot be had, or does not fit.
        fitting: sections that would do: not stopped, as narrowed, with a seat as asked for, outside
            the hours kept free.
        in_all: sections there are.
        stopped: those that the rules stop.
    """

    sought: Sought
    name: str
    is_in: bool
    fitting: int
    in_all: int
    stopped: tuple[StoppedSection, ...]


@dataclass(frozen=True, slots=True)
class Nearest:
    """The closest timetable if none is possible: all but some wants.

    Attributes:
        without: names of the wants left out.
    """

    without: tuple[str, ...]
    number: Number
    timetables: tuple[Timetable, ...]


@dataclass(frozen=True, slots=True)
class Answer:
    """The answer to a question.

    Attributes:
        wants: those of the question, then registered courses that may move.
        shown: the timetable that was asked for by its sections, if it works.
        is_whole: all ways to take each course were looked at, and the order came to its end.
        are_reasons_whole: looking for reasons came to its end.
        looked_at: reference numbers of every section that could be in a timetable.
    """

    instance: Instance
    number: Number
    wants: tuple[AnsweredWant, ...]
    timetables: tuple[Timetable, ...]
    shown: Timetable | None
    key_sections: tuple[KeySection, ...]
    reasons: tuple[Reason, ...] = ()
    are_reasons_whole: bool = True
    nearest: Nearest | None = None
    is_whole: bool = True
    looked_at: frozenset[str] = field(default=frozenset())
    search: Search | None = None


def answer(
    situation: Situation,
    question: Question,
    now: datetime,
    first: int = 0,
    many: int = 24,
    show: Collection[str] = (),
) -> Answer:
    """Answer a question.

    Args:
        situation: with the seat figures of all sections of the courses wanted.
        now: as of when the decision is asked; an aware datetime.
        first: place in the order of the first timetable to be given, at most ``MOST_WALKED``.
        many: how many are to be given, at most ``MOST_SHOWN``.
        show: reference numbers of a timetable to be looked at besides.
    """
    instance = Instance(situation, question, now)
    steps = Steps()
    needed = [n for n, s in enumerate(instance.sought) if _is_looked_for(s) and n not in instance.optional]
    search = _search(instance, needed, steps)
    if not (all(search.masks) and search.exists()) and not steps.are_used_up:
        return _none(instance, needed)
    included = _with_optional(instance, needed, steps)
    search = _search(instance, included, steps)
    number = search.count()
    if instance.is_cut_short and not number.is_beyond:
        number = replace(number, is_exact=False)
    listing = _search(instance, included, Steps(_STEPS_FOR_ORDER))
    timetables = _in_order(listing, min(first, MOST_WALKED), min(many, MOST_SHOWN))
    shown = _shown(listing, frozenset(show)) if show else None
    return Answer(
        instance,
        number,
        _answered(instance, included),
        timetables,
        shown,
        tuple(find_key_sections(search, number)) if number.value and included else (),
        is_whole=not instance.is_cut_short and all(t.is_in_order for t in timetables),
        looked_at=_looked_at(instance),
        search=listing,
    )


def _is_looked_for(sought: Sought) -> bool:
    return sought.state not in (WantState.HELD, WantState.TWICE)


def _search(instance: Instance, included: Sequence[int], steps: Steps) -> Search:
    return Search(instance, instance.slots_of(included), instance.everything, once=True, steps=steps)


def _with_optional(instance: Instance, needed: Sequence[int], steps: Steps) -> list[int]:
    """The required wants and, in order, each optional one that fits with those before it."""
    included = list(needed)
    for place in sorted(instance.optional - instance.only_along):
        sought = instance.sought[place]
        if sought.state is not WantState.SOUGHT or place in included:
            continue
        more = sorted(instance.with_needs([place]) - set(included))
        trial = _search(instance, [*included, *more], steps)
        if all(trial.masks) and trial.exists():
            included += more
    return included


def _in_order(search: Search, first: int, many: int) -> tuple[Timetable, ...]:
    measures = measures_of(search, search.instance.question.criteria)
    walk = best_first(search, measures)
    before: Chosen | None = None
    if first:
        before = next(islice(walk, first - 1, first), None)
        if before is None:
            return ()
    found = []
    for place, chosen in enumerate(islice(walk, many), start=first):
        found.append(_timetable(search, chosen, place, before))
        before = chosen
    return tuple(found)


def _timetable(search: Search, chosen: Chosen, place: int | None, before: Chosen | None) -> Timetable:
    instance = search.instance
    options = instance.options
    taken = [options[n] for n in chosen.options]
    parts = tuple(parts_of(search, chosen))
    mine = {s.reference_number for o in taken for s in o.sections}
    theirs = (
        {s.reference_number for n in before.options for s in options[n].sections}
        if before is not None
        else mine
    )
    every = [*taken, *fixed_option(instance)]
    with_times = [o for o in every if o.days]
    breaks = 0
    for option in every:
        breaks |= option.breaks
    credits = sum(search.credits[n] for n in chosen.options) + instance.credits_fixed
    return Timetable(
        place,
        parts,
        frozenset(mine - theirs),
        min((o.start for o in with_times), default=None),
        max((o.end for o in with_times), default=None),
        max(map(gaps_of, weeks_together(every)), default=0),
        tuple(sorted({d for o in every for d in range(7) if o.days >> d & 1})),
        credits / 10,
        tuple(bits_of(breaks)),
        _stops(instance, parts),
        chosen.is_in_order,
    )


def _stops(instance: Instance, parts: Sequence[Part]) -> tuple[Finding, ...]:
    """What the decision says against taking all of it, except what is only blocked for now."""
    sections = list(dict.fromkeys(s for p in parts for s in p.sections))
    request = request_of(instance, sections)
    if not request.changes:
        return ()
    decision = decide(instance.situation, request, instance.now)
    found = [f for o in decision.outcomes for f in o.findings if f.severity is Severity.STOP]
    return tuple({(f.code, f.text): f for f in found if f.code not in _FOR_NOW}.values())


_FOR_NOW = frozenset(
    {
        RuleCode.TERM_CLOSED,
        RuleCode.TERM_NOT_OPEN,
        RuleCode.WINDOW_NONE,
        RuleCode.WINDOW_EARLY,
        RuleCode.WINDOW_OVER,
        RuleCode.HOLD_STOPS,
        RuleCode.CLEARANCE_OPEN,
        RuleCode.TOGETHER_STOPPED,
    }
)
"""What is said on other pages, and stops every timetable alike; and what only follows from others."""


def _shown(search: Search, numbers: frozenset[str]) -> Timetable | None:
    chosen = chosen_of(search, numbers)
    return None if chosen is None else _timetable(search, chosen, None, None)


def chosen_of(search: Search, numbers: frozenset[str]) -> Chosen | None:
    """The timetable with these reference numbers; None if it is not possible as things are."""
    options = search.instance.options
    among = sum(
        1 << n
        for n in bits_of(search.rests[0])
        if any({s.reference_number for s in members} <= numbers for members in options[n].members)
    )
    own = search.among(among)
    for chosen in islice(best_first(own, ()), MOST_SHOWN):
        covered = {s.reference_number for n in chosen.options for m in options[n].members for s in m}
        if numbers <= covered:
            return chosen
    return None


def _answered(instance: Instance, included: Collection[int]) -> tuple[AnsweredWant, ...]:
    active = instance.everything
    allowed = instance.allowed(active)
    found = []
    for place, sought in enumerate(instance.sought):
        offered = [s for key in sought.courses for s in instance.term.by_course.get(key, ())]
        fitting = {
            s.reference_number
            for n, option in enumerate(instance.options)
            if allowed >> n & 1 and instance.slots[option.slot].sought == place
            for members in option.members
            for s in members
            if s.course.key in sought.courses
        }
        stopped = [
            StoppedSection(j.section, j.stop)
            for s in offered
            if (j := instance.judged.get(s.reference_number)) is not None and j.stop is not None
        ]
        found.append(
            AnsweredWant(
                sought,
                want_name(sought.want),
                place in included,
                len(fitting),
                len(offered),
                tuple(stopped),
            )
        )
    return tuple(found)


def _looked_at(instance: Instance) -> frozenset[str]:
    return frozenset(instance.judged)


def _none(instance: Instance, needed: Sequence[int]) -> Answer:
    possible = Possible(instance, Steps(_STEPS_FOR_REASONS))
    sets, is_whole = impossible_sets(possible)
    explaining = Explaining(instance, possible)
    reasons = tuple(explaining.reason(elements) for elements in sets)
    return Answer(
        instance,
        Number(0, is_exact=not instance.is_cut_short),
        _answered(instance, ()),
        (),
        None,
        (),
        reasons,
        is_whole and not instance.is_cut_short,
        _nearest(instance, needed),
        not instance.is_cut_short,
        _looked_at(instance),
    )


def _nearest(instance: Instance, needed: Sequence[int]) -> Nearest | None:
    """The most that is possible: one want less if that is enough, or each in order that fits with those
    before it."""
    steps = Steps(_STEPS_FOR_REASONS)
    for included in _fewer(instance, needed, steps):
        search = _search(instance, included, steps)
        if included and all(search.masks) and search.exists():
            left_out = [n for n in needed if n not in included and n not in instance.only_along]
            without = tuple(want_name(instance.sought[n].want) for n in left_out)
            number = search.count()
            return Nearest(
                without,
                number,
                _in_order(_search(instance, included, Steps(_STEPS_FOR_REASONS)), 0, _NEAREST_SHOWN),
            )
    return None


def _fewer(instance: Instance, needed: Sequence[int], steps: Steps) -> Iterator[list[int]]:
    for dropped in reversed(needed):
        yield instance.standing(n for n in needed if n != dropped)
    included: list[int] = []
    for place in needed:
        trial = _search(instance, [*included, place], steps)
        if all(trial.masks) and trial.exists():
            included.append(place)
    yield instance.standing(included)
