"""A question prepared for the search: wants as slots, ways to have them as options, compatibility as sets of
bits."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from functools import reduce
from operator import or_

from gremba.core.catalogue.term import Section
from gremba.core.registration.rules.time import tight_way
from gremba.core.registration.situation import Situation
from gremba.core.timetables.hours import has_class_in, hours_of, phases_of, weeks_by_phase
from gremba.core.timetables.left_out import SeatState, judge_sections
from gremba.core.timetables.options import (
    Sections,
    Way,
    WaysOfCourses,
    come_along,
    come_along_with_several,
    unmet_narrowings,
)
from gremba.core.timetables.question import Question, SeatSwitch, Want
from gremba.core.timetables.sought import Sought, WantState, had_anyway, may_move, resolve

MOST_OPTIONS = 600
"""Options of all slots together: each is held against every other."""


class ElementKind(StrEnum):
    """What can be given up to make a timetable possible."""

    WANT = "want"
    NARROWING = "narrowing"
    KEPT_FREE = "kept free"
    SEATS = "seats"
    WAYS = "ways"
    HELD = "held"
    KEEP = "keep"
    LIMIT = "limit"


@dataclass(frozen=True, slots=True)
class Element:
    """One requirement of every timetable.

    Attributes:
        index: place of the want, or of the hours kept free.
        name: the course held, or the reference number kept in place.
    """

    kind: ElementKind
    index: int = 0
    name: str = ""


@dataclass(slots=True, eq=False)
class Option:
    """Equivalent ways to have a want: the same course at the same hours and dates on the same campuses.

    Attributes:
        slot: place of the slot.
        members: the sections of each, best first: starred, then with most seats.
        credits: in tenths.
        violates: the elements that it does not keep, as bits.
        breaks: hours kept free if possible in which it has class, as bits.
        weeks: by phase of the term, the minutes of the week that it covers.
        start: the earliest minute of a day on which it has class; a whole day where it has none.
        end: the latest.
        days: weekdays with class, as bits.
        seats: left, the least of its sections.
        seat_state: the worst of its sections.
        starred: how many of its sections are.
        changes: how many registered sections it gives up.
    """

    slot: int
    course: str
    bundle: str | None
    members: tuple[Sections, ...]
    credits: int
    violates: int
    breaks: int
    weeks: tuple[int, ...]
    start: int
    end: int
    days: int
    seats: int
    seat_state: SeatState
    starred: int
    changes: int

    @property
    def sections(self) -> Sections:
        """The best of the equivalent ways."""
        return self.members[0]


@dataclass(frozen=True, slots=True)
class Slot:
    """A course to be found.

    Attributes:
        sought: place of what is sought.
        turn: which one of several that are wanted of a choice.
    """

    sought: int
    turn: int = 0


_Alike = tuple[str, str | None, tuple[object, ...], int, int, int]
"""What options that are alike have in common."""


class Instance:
    """A question prepared for searching.

    Attributes:
        sought: the wants, then registered courses that may move, then courses that come along with
            several of these.
        elements: what is asked of every timetable; sets of them are bits.
        optional: places of what is sought only if it fits.
        only_along: places of what is not wanted itself, but had with several that are.
        stays: registered sections that stay.
        options: of all slots, one slot after the other.
        slot_masks: for each slot its options.
        goes_with: for each option those of other slots that it can stand beside.
        goes_loosely: the same, tight ways between campuses allowed.
        twins: for each option, further ones ruled out so that no timetable is met twice.
        violating: for each element the options that do not keep it.
        phases: kinds of week that the term has for all of these, as masks of days.
        judged: what the rules say of each section looked at.
        is_cut_short: somewhere there were more ways than are looked at.
    """

    def __init__(self, situation: Situation, question: Question, now: datetime) -> None:
        self.situation = situation
        self.question = question
        self.now = now
        self.term = term = situation.catalogue
        moving = may_move(situation, question.may_move)
        self.stays = tuple(h for h in situation.held if h not in moving)
        self.sought = resolve(term, question, self.stays, moving)
        looked_for = [s for s in self.sought if s.state is WantState.SOUGHT]
        there = had_anyway(term, self.stays, looked_for)
        asked = len(self.sought)
        while shared := come_along_with_several(term, looked_for, there):
            # Each of them would bring it along; so it is looked for once, for all.
            self.sought += [Sought(Want((key,), is_needed=False), (key,)) for key in shared]
            looked_for = [s for s in self.sought if s.state is WantState.SOUGHT]
            there = had_anyway(term, self.stays, looked_for)
        self.only_along = frozenset(range(asked, len(self.sought)))
        self._needs = self._find_needs()
        required = self.with_needs(n for n, s in enumerate(self.sought) if s.want.is_needed or s.moves)
        self.optional = frozenset(range(len(self.sought))) - required
        courses = {key: term.by_course[key] for s in looked_for for key in s.courses}
        for key in list(courses):
            for other in come_along(term, key, there):
                courses.setdefault(other, term.by_course.get(other, ()))
            for bundle in dict.fromkeys(s.bundle for s in courses[key] if s.bundle is not None):
                for section in term.by_bundle[bundle]:
                    if section not in courses.setdefault(section.course.key, (section,)):
                        courses[section.course.key] += (section,)
        concerned = [*(h.section for h in self.stays), *(s for many in courses.values() for s in many)]
        self.phases = phases_of(term.calendar, (m for s in concerned for m in s.meetings))
        self.judged = judge_sections(situation, courses, now)
        finder = WaysOfCourses(term, self.judged, [there])
        ways = {key: finder.of(key) for s in looked_for for key in s.courses}
        self.is_cut_short = finder.is_cut_short
        for s in looked_for:
            if not any(ways[key] for key in s.courses):
                s.state = WantState.STOPPED
        self.elements = self._elements()
        self.bit = {element: 1 << n for n, element in enumerate(self.elements)}
        self.slots: list[Slot] = []
        self.options: list[Option] = []
        self.slot_masks: list[int] = []
        self._clashes: dict[tuple[int, int], bool] = {}
        slots = [
            Slot(place, turn)
            for place, s in enumerate(self.sought)
            if s.state not in (WantState.HELD, WantState.TWICE)
            for turn in range(s.want.count)
        ]
        for slot in slots:
            self._fill_slot(slot, ways, MOST_OPTIONS // len(slots))
        self._match()
        self.violating = [
            sum(1 << n for n, o in enumerate(self.options) if o.violates >> e & 1)
            for e in range(len(self.elements))
        ]
        self.everything = (1 << len(self.elements)) - 1
        self.credits_fixed = sum(tenths(h.credits) for h in self.stays)
        self.credits_limit = tenths(situation.credit_limit)

    def _find_needs(self) -> dict[int, frozenset[int]]:
        """For each position, those that come with it: what it is only taken together with."""
        held = frozenset(h.section.course.key for h in self.stays)
        places = {
            same: n
            for n, s in enumerate(self.sought)
            if s.state is WantState.SOUGHT and not s.want.is_choice
            for same in self.term.courses[s.courses[0]].same_as
        }
        return {
            n: frozenset(
                places[key] for key in come_along(self.term, self.sought[n].courses[0], held) if key in places
            )
            - {n}
            for n in set(places.values())
        }

    def with_needs(self, places: Iterable[int]) -> frozenset[int]:
        """These positions, and all that come with them."""
        wanted = set(places)
        return frozenset(wanted.union(*(self._needs.get(n, ()) for n in wanted)))

    def standing(self, places: Iterable[int]) -> list[int]:
        """Those of these positions whose companions are all there; and companions that any of them needs."""
        there = set(places)
        left = [n for n in sorted(there) if self._needs.get(n, frozenset()) <= there]
        used = self.with_needs(n for n in left if n not in self.only_along)
        return [n for n in left if n in used]

    def _elements(self) -> list[Element]:
        question = self.question
        found = [
            Element(ElementKind.WANT, n)
            for n, s in enumerate(self.sought)
            if s.state not in (WantState.HELD, WantState.TWICE)
        ]
        found += [
            Element(ElementKind.NARROWING, n)
            for n, s in enumerate(self.sought)
            if s.state is WantState.SOUGHT and s.want.narrowing
        ]
        found += [Element(ElementKind.KEPT_FREE, n) for n, k in enumerate(question.kept_free) if k.is_must]
        if question.seats is not SeatSwitch.ALL:
            found.append(Element(ElementKind.SEATS))
        if question.no_tight_ways:
            found.append(Element(ElementKind.WAYS))
        found += [
            Element(ElementKind.HELD, name=key)
            for key in dict.fromkeys(h.section.course.key for h in self.stays)
        ]
        found += [Element(ElementKind.KEEP, name=number) for number in sorted(question.keeps)]
        found.append(Element(ElementKind.LIMIT))
        return found

    def _fill_slot(self, slot: Slot, ways: Mapping[str, Sequence[Way]], most: int) -> None:
        sought = self.sought[slot.sought]
        alike: dict[_Alike, list[Sections]] = {}
        traits: dict[_Alike, tuple[Way, int, int, int]] = {}
        every = [way for key in sought.courses for way in ways.get(key, ())]
        violated = [self._violates(slot, sought, way) for way in every]
        # Of each other's corequisites each brings the other along: the same sections are one way.
        once: dict[Sections, int] = {}
        for n, way in enumerate(every):
            known = once.setdefault(way.sections, n)
            if violated[n].bit_count() < violated[known].bit_count():
                once[way.sections] = n
        for way, violates in [(every[n], violated[n]) for n in sorted(once.values())]:
            breaks = self.breaks_of(way.sections)
            changes = sum(1 for h in sought.moves if h.section not in way.sections)
            key: _Alike = (way.course, way.bundle, hours_of(way.sections), violates, breaks, changes)
            alike.setdefault(key, []).append(way.sections)
            traits.setdefault(key, (way, violates, breaks, changes))
        first = len(self.options)
        if len(traits) > most:
            self.is_cut_short = True
            traits = dict(_some_of_each(traits.items())[:most])
        for key, (way, violates, breaks, changes) in traits.items():
            members = tuple(sorted(alike[key], key=self._best_first))
            self.options.append(self._option(slot, sought, way, members, violates, breaks, changes))
        self.slot_masks.append((1 << len(self.options)) - (1 << first))
        self.slots.append(slot)

    def _option(
        self,
        slot: Slot,
        sought: Sought,
        way: Way,
        members: tuple[Sections, ...],
        violates: int,
        breaks: int,
        changes: int,
    ) -> Option:
        sections = members[0]
        meetings = [m for s in sections for m in s.meetings if m.days]
        own = {h.section: h.credits for h in sought.moves}
        return Option(
            slot=len(self.slots),
            course=way.course,
            bundle=way.bundle,
            members=members,
            credits=sum(tenths(own.get(s, s.credits_for(None))) for s in sections),
            violates=violates,
            breaks=breaks,
            weeks=weeks_by_phase(meetings, self.phases, self.term.calendar),
            start=min((m.start for m in meetings), default=24 * 60),
            end=max((m.end for m in meetings), default=0),
            days=sum(1 << d for d in {d for m in meetings for d in m.weekdays}),
            seats=min(self.seats_left(s) for s in sections),
            seat_state=max(self.judged[s.reference_number].seat for s in sections),
            starred=sum(1 for s in sections if s.reference_number in self.question.starred),
            changes=changes,
        )

    def _best_first(self, sections: Sections) -> tuple[object, ...]:
        starred = sum(1 for s in sections if s.reference_number in self.question.starred)
        seats = min(self.seats_left(s) for s in sections)
        return -starred, -seats, tuple(s.reference_number for s in sections)

    def seats_left(self, section: Section) -> int:
        """Seats left for this student; 0 if the rules say that there is none."""
        judged = self.judged.get(section.reference_number)
        if judged is not None and judged.seat is not SeatState.SEAT:
            return 0
        figures = self.situation.seats.get(section.pool)
        return figures.left if figures is not None else 0

    def _violates(self, slot: Slot, sought: Sought, way: Way) -> int:
        found = 0
        if sought.want.narrowing and any(unmet_narrowings(sought.want.narrowing, way)):
            found |= self.bit[Element(ElementKind.NARROWING, slot.sought)]
        for index, kept in enumerate(self.question.kept_free):
            if kept.is_must and any(has_class_in(s, kept, self.term.calendar) for s in way.sections):
                found |= self.bit[Element(ElementKind.KEPT_FREE, index)]
        seats = self.bit.get(Element(ElementKind.SEATS))
        if seats is not None:
            worst = SeatState.SEAT if self.question.seats is SeatSwitch.LEFT else SeatState.WAITLIST
            if any(self.judged[s.reference_number].seat > worst for s in way.sections):
                found |= seats
        tight = self.bit.get(Element(ElementKind.WAYS))
        if tight is not None and self._is_tight(way.sections, (*way.sections, *self._staying)):
            found |= tight
        for held in self._staying:
            if any(s.stands_for_same(held) or self._clash(s, held) for s in way.sections):
                found |= self.bit[Element(ElementKind.HELD, name=held.course.key)]
        for number in self.question.keeps:
            section = self.term.by_number.get(number)
            if section is None or section in self._staying or section in way.sections:
                continue
            is_one_of = sought.want.count == 1 and section.course.key in sought.courses
            if section.course.key == way.course or (is_one_of and not self._is_single(section.course.key)):
                found |= self.bit[Element(ElementKind.KEEP, name=number)]
        return found

    def _is_single(self, course: str) -> bool:
        return any(not s.want.is_choice and course in s.courses for s in self.sought)

    @property
    def _staying(self) -> list[Section]:
        return [h.section for h in self.stays]

    def breaks_of(self, sections: Sections) -> int:
        """The preferred free hours in which they have class, as bits."""
        return sum(
            1 << n
            for n, kept in enumerate(self.question.kept_free)
            if not kept.is_must and any(has_class_in(s, kept, self.term.calendar) for s in sections)
        )

    def _is_tight(self, ones: Iterable[Section], others: Sequence[Section]) -> bool:
        return any(
            one is not other and tight_way(one, other, self.term) is not None
            for one in ones
            for other in others
        )

    def _clash(self, one: Section, other: Section) -> bool:
        if not one.week & other.week:
            return False
        key = (one.id, other.id) if one.id < other.id else (other.id, one.id)
        known = self._clashes.get(key)
        if known is None:
            known = self._clashes[key] = one.clash_with(other) is not None
        return known

    def _match(self) -> None:
        many = len(self.options)
        self.goes_with = [0] * many
        self.goes_loosely = [0] * many
        self.twins = [0] * many
        strict = Element(ElementKind.WAYS) in self.bit
        self._free = {(o.slot, o.members) for o in self.options if not o.violates}
        # Most pairs meet at other hours and are of other courses: they need not be looked at closely.
        weeks = [reduce(or_, o.weeks, 0) for o in self.options]
        same = [frozenset().union(*(s.course.same_as for s in o.sections)) for o in self.options]
        is_choice = [self.is_of_choice(n) for n in range(len(self.slots))]
        for place, one in enumerate(self.options):
            goes_loosely = goes_with = 0
            for beyond in range(place + 1, many):
                other = self.options[beyond]
                if one.slot == other.slot:
                    continue
                is_near = weeks[place] & weeks[beyond] or not same[place].isdisjoint(same[beyond])
                if is_near and not self._stand_together(one, other):
                    continue
                goes_loosely |= 1 << beyond
                self.goes_loosely[beyond] |= 1 << place
                if not strict or not self._is_tight(one.sections, other.sections):
                    goes_with |= 1 << beyond
                    self.goes_with[beyond] |= 1 << place
                if is_choice[one.slot] and is_choice[other.slot] and self._is_turned_round(one, other):
                    self.twins[place] |= 1 << beyond
                    self.twins[beyond] |= 1 << place
            self.goes_loosely[place] |= goes_loosely
            self.goes_with[place] |= goes_with

    def _stand_together(self, one: Option, other: Option) -> bool:
        if one.bundle is not None and one.bundle == other.bundle:
            # What comes along with a bundle is had; but a choice is of one more.
            return not (self.is_of_choice(one.slot) or self.is_of_choice(other.slot))
        return not any(
            mine is theirs or mine.stands_for_same(theirs) or self._clash(mine, theirs)
            for mine in one.sections
            for theirs in other.sections
        )

    def _is_turned_round(self, one: Option, other: Option) -> bool:
        """Whether two options, both of choices, could trade places and are in the order that is left out;
        otherwise one timetable would be found twice."""
        if one.course < other.course:
            return False
        return (other.slot, one.members) in self._free and (one.slot, other.members) in self._free

    def is_of_choice(self, slot: int) -> bool:
        """Whether a slot is for one of several courses."""
        return self.sought[self.slots[slot].sought].want.is_choice

    def allowed(self, active: int) -> int:
        """The options that meet all of these requirements."""
        mask = (1 << len(self.options)) - 1
        for e, violating in enumerate(self.violating):
            if active >> e & 1:
                mask &= ~violating
        return mask

    def slots_of(self, sought: Iterable[int]) -> list[int]:
        """The slots of these positions."""
        wanted = set(sought)
        return [n for n, slot in enumerate(self.slots) if slot.sought in wanted]


def tenths(credits: float) -> int:
    """Credits as a whole number of tenths."""
    return round(credits * 10)


def _some_of_each(
    traits: Iterable[tuple[_Alike, tuple[Way, int, int, int]]],
) -> list[tuple[_Alike, tuple[Way, int, int, int]]]:
    """Those possible as things are first, and of each course some before more of any."""
    turns: Counter[tuple[str, int]] = Counter()
    in_turn = []
    for one in traits:
        way, violates, _, _ = one[1]
        kept = violates.bit_count()
        in_turn.append((kept, turns[way.course, kept], one))
        turns[way.course, kept] += 1
    return [one for _, _, one in sorted(in_turn, key=lambda entry: entry[:2])]
