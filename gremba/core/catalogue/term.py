"""A term's catalogue: courses, their sections, and how they belong together.

All of it is read-only and kept in memory; seat figures change by the minute and are not here
(see :mod:`gremba.core.registration.situation`).
"""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, TypeVar

from gremba.core.account.policy import AccountPolicy
from gremba.core.account.tariff import Tariff
from gremba.core.catalogue.calendar import Calendar, Clash, Meeting, TermSession, find_clash, week_mask
from gremba.core.catalogue.requisites import BEFORE, Requisite, course_needs, courses_taken_together
from gremba.core.permission.policy import PermissionPolicy
from gremba.core.states import Component, Delivery, RepeatPolicy, TermState, WaitlistWay
from gremba.core.students.clearance_texts import ClearanceTexts

AUDIT = "audit"
"""The grading basis of those who only listen: no credits, no tuition, no grade."""

Id = TypeVar("Id")


def earns_credits(grading: str) -> bool:
    """Whether a grading basis earns credits."""
    return grading != AUDIT


@dataclass(frozen=True, slots=True)
class Fee:
    """A fee in addition to tuition."""

    label: str
    cents: int


@dataclass(frozen=True)
class Course:
    """A course in the catalogue.

    Attributes:
        key: subject and number, such as "SOIL 240".
        credits_least: equal to ``credits_most`` where the credits are fixed.
        requisites: None when anybody may take it.
        gradings: the grading bases allowed; the first is the usual one.
        equivalents: keys of courses that count as the same one.
        by_topic: sections with different topics count as different courses.
        attempts_allowed: how often it may be begun; None for any number of times.
        repeats: what becomes of it when it is taken again; for credit, every time earns its credits.
    """

    key: str
    title: str
    credits_least: float
    credits_most: float
    requisites: Requisite | None = None
    gradings: tuple[str, ...] = ("standard",)
    equivalents: frozenset[str] = frozenset()
    by_topic: bool = False
    attempts_allowed: int | None = None
    repeats: RepeatPolicy = RepeatPolicy.BEST_COUNTS
    tags: tuple[str, ...] = ()
    fees: tuple[Fee, ...] = ()
    description: str = ""

    @cached_property
    def subject(self) -> str:
        """``SOIL`` of ``SOIL 240``."""
        return self.key.partition(" ")[0]

    @cached_property
    def number(self) -> str:
        """``240`` of ``SOIL 240``."""
        return self.key.partition(" ")[2]

    @cached_property
    def same_as(self) -> frozenset[str]:
        """The course's own key and those of its equivalents."""
        return self.equivalents | {self.key}

    @cached_property
    def needs_this_term(self) -> frozenset[str]:
        """The courses by which its requisites can be met in the same term."""
        return frozenset(n.course for n in course_needs(self.requisites) if n.timing != BEFORE)

    @property
    def earns_each_time(self) -> bool:
        """Whether its credits are earned each time it is passed: it can be repeated for credit, or each
        topic is a course of its own."""
        return self.repeats == "for credit" or self.by_topic


def known_by_all_numbers(courses: Mapping[Id, Course]) -> dict[Id, Course]:
    """The courses, each with every number it has ever had as an equivalent, whichever of them declares it."""
    classes: dict[str, set[str]] = {}
    for course in courses.values():
        merged = set(course.same_as).union(*(classes.get(key, ()) for key in course.same_as))
        for key in merged:
            classes[key] = merged
    return {
        id_: replace(course, equivalents=frozenset(classes[course.key] - {course.key}))
        for id_, course in courses.items()
    }


@dataclass(frozen=True)
class Section:
    """An offering of a course in a term, known by its reference number."""

    id: int
    reference_number: str
    course: Course
    component: Component
    session: TermSession
    pool: int
    meetings: tuple[Meeting, ...] = ()
    delivery: Delivery = Delivery.IN_PERSON
    campus: str = ""
    instructors: tuple[str, ...] = ()
    cancelled: bool = False
    topic: str = ""
    notes: str = ""
    waitlist_limit: int = 0
    waitlist_way: WaitlistWay = WaitlistWay.OFFER
    linked_sections: frozenset[str] = frozenset()
    bundle: str | None = None
    carries_credit: bool = True
    fees: tuple[Fee, ...] = ()
    restrictions: Mapping[str, tuple[str, ...]] = field(default_factory=dict, hash=False)
    """Who may take it: for "program", "standing", "campus", "cohort", "residence" those allowed."""
    consent_needed: bool = False
    no_textbook_cost: bool = False

    @cached_property
    def week(self) -> int:
        """The minutes of the week it covers; see :func:`gremba.core.catalogue.calendar.week_mask`."""
        return week_mask(self.meetings)

    @cached_property
    def name(self) -> str:
        """``SOIL 240`` or, for a component other than a lecture, ``SOIL 240 lab``."""
        usual = self.component in (Component.LECTURE, Component.SEMINAR)
        return self.course.key if usual else f"{self.course.key} {self.component}"

    @cached_property
    def campuses(self) -> frozenset[str]:
        """The campuses it meets on."""
        return frozenset(m.campus for m in self.meetings if m.campus)

    def credits_for(self, chosen: float | None, grading: str | None = None) -> float:
        """Its credits: those chosen, or the course's own (the least of a range).

        A lab that goes with a lecture carries none: the course's credits are on the lecture.
        Who audits a course earns none.
        """
        if not self.carries_credit or not earns_credits(grading or ""):
            return 0.0
        return self.course.credits_least if chosen is None else chosen

    @cached_property
    def fee_cents(self) -> int:
        """Course and section fees together."""
        course = sum(f.cents for f in self.course.fees) if self.carries_credit else 0
        return course + sum(f.cents for f in self.fees)

    def stands_for_same(self, other: Section) -> bool:
        """Whether both are the same course in the same component."""
        if self.component != other.component:
            return False
        if self.course is not other.course and self.course.same_as.isdisjoint(other.course.same_as):
            return False
        by_topic = self.course.by_topic or other.course.by_topic
        return not (by_topic and self.topic != other.topic)

    def clash_with(self, other: Section) -> Clash | None:
        """Where their classes overlap on some date; None if they never do."""
        if not self.week & other.week:
            return None
        return find_clash(self.meetings, other.meetings)


@dataclass(frozen=True)
class Policy:
    """The settings a college decides for a term.

    Attributes:
        class_standings: credits earned from which a student is of a class standing, least first.
        credit_limits: credits a student may take, by standing.
        full_time: credits from which a student is full time (34 CFR 668.2: 12 semester hours).
        half_time: credits from which a student is half time (half of full time).
        may_leave_by_dropping: whether the last section may be dropped like any other.
        most_changes: changes that one cart may hold.
        most_waitlist_entries: places on waitlists that one student may hold.
        offer_hours: so long an offer is held (common practice: 24).
        last_answer_hour: on the day before a session begins, offers made late end at this hour and
            its waitlists close (common practice: 22:00).
        instructors_lift: what the consent of an instructor may lift.
        permission_code_days: so long a permission code is good at the most, and unless it says otherwise.
        most_open_permission_codes: codes of one section that may be open at a time.
        most_credits: the highest limit that an advisor may set for a student.
        clearance: what students read, answer and agree to.
        tariff: what is charged.
        account: due dates, and what becomes of seats that are not paid for.
        permission: who may say yes to what no rule can decide.
    """

    credit_limits: dict[str, float] = field(default_factory=lambda: {"good": 18.0, "probation": 13.0})
    class_standings: tuple[tuple[float, str], ...] = (
        (0.0, "first year"),
        (27.0, "second year"),
        (54.0, "third year"),
        (81.0, "fourth year"),
    )
    full_time: float = 12.0
    half_time: float = 6.0
    may_leave_by_dropping: bool = False
    most_changes: int = 40
    most_waitlist_entries: int = 5
    offer_hours: int = 24
    last_answer_hour: int = 22
    leave_office: str = "the registrar's office"
    instructors_lift: tuple[str, ...] = (
        "consent",
        "seats",
        "requisite",
        "restriction",
        "late add",
        "repeat",
        "conflict",
    )
    permission_code_days: int = 30
    most_open_permission_codes: int = 50
    most_credits: float = 24.0
    clearance: ClearanceTexts = ClearanceTexts()
    tariff: Tariff = Tariff()
    account: AccountPolicy = AccountPolicy()
    permission: PermissionPolicy = field(default_factory=PermissionPolicy, hash=False)

    def class_standing(self, credits_earned: float) -> str:
        """The class standing for that many earned credits."""
        return [name for least, name in self.class_standings if credits_earned >= least][-1]

    def load_name(self, credits: float) -> str:
        """``full time``, ``half time`` or ``less than half time``."""
        if credits >= self.full_time:
            return "full time"
        return "half time" if credits >= self.half_time else "less than half time"


class TermMoved(Exception):
    """Terms have changed since they were loaded; decisions based on them are made again."""

    def __init__(self, codes: Collection[str]) -> None:
        super().__init__(*codes)
        self.codes = codes


class _SectionsById(dict[int, Section]):
    """Sections by id.

    One that is asked for and missing was made after the term was read.

    Raises:
        TermMoved: by ``[]``, for such a one.
    """

    def __init__(self, code: str, sections: Mapping[int, Section]) -> None:
        super().__init__(sections)
        self._code = code

    def __missing__(self, section: int) -> Section:
        raise TermMoved([self._code])


@dataclass(frozen=True)
class TermCatalogue:
    """A term with everything it offers."""

    id: int
    code: str
    name: str
    calendar: Calendar
    policy: Policy
    sections: tuple[Section, ...]
    other_terms: dict[str, tuple[str, ...]] = field(default_factory=dict)
    """Reference numbers that mean a section in another term, with the names of those terms."""
    travel: Mapping[tuple[str, str], int] = field(default_factory=dict)
    """Minutes from one campus to another, both ways."""
    campus_names: Mapping[str, str] = field(default_factory=dict)
    subject_names: Mapping[str, str] = field(default_factory=dict)
    not_offered: tuple[Course, ...] = ()
    """Courses of the college that have no section in this term."""
    state: TermState = TermState.OPEN
    version: int = 0
    """Grows with every change of what is kept of the term."""
    applicable_rules: dict[object, Any] = field(default_factory=dict, compare=False)
    """Which rules are to be asked about a section, kept by the decision."""

    def warm_up(self) -> None:
        """Compute cached values now instead of on first use."""
        _ = (self.by_number, self.by_id, self.by_course, self.by_bundle, self.taken_together, self.same_as)
        for section in self.sections:
            _ = (section.week, section.campuses, section.name, section.fee_cents)
            _ = (self.week_with_travel(section), section.course.same_as, section.course.needs_this_term)

    @cached_property
    def by_number(self) -> dict[str, Section]:
        """Sections by reference number."""
        return {s.reference_number: s for s in self.sections}

    @cached_property
    def by_id(self) -> dict[int, Section]:
        """Sections by id."""
        return _SectionsById(self.code, {s.id: s for s in self.sections})

    @cached_property
    def by_pool(self) -> dict[int, Section]:
        """The section that owns each seat pool: of those that share it, the one with the lowest number."""
        found: dict[int, Section] = {}
        for section in sorted(self.sections, key=lambda s: s.reference_number):
            found.setdefault(section.pool, section)
        return found

    @cached_property
    def by_course(self) -> dict[str, tuple[Section, ...]]:
        """Sections by course, in order of reference number."""
        found: dict[str, list[Section]] = {}
        for section in sorted(self.sections, key=lambda s: s.reference_number):
            found.setdefault(section.course.key, []).append(section)
        return {key: tuple(sections) for key, sections in found.items()}

    @cached_property
    def by_bundle(self) -> dict[str, tuple[Section, ...]]:
        """Sections by bundle, in order of reference number."""
        found: dict[str, list[Section]] = {}
        for section in sorted(self.sections, key=lambda s: s.reference_number):
            if section.bundle is not None:
                found.setdefault(section.bundle, []).append(section)
        return {name: tuple(sections) for name, sections in found.items()}

    @cached_property
    def waited_for(self) -> dict[TermSession, tuple[int, ...]]:
        """Ids of the sections with a waitlist, by session."""
        found: dict[TermSession, list[int]] = {}
        for section in self.sections:
            if section.waitlist_limit:
                found.setdefault(section.session, []).append(section.id)
        return {session: tuple(ids) for session, ids in found.items()}

    @cached_property
    def cancelled(self) -> tuple[int, ...]:
        """Ids of the cancelled sections."""
        return tuple(s.id for s in self.sections if s.cancelled)

    def minutes_between(self, one: str, other: str) -> int:
        """The travel time between two campuses in minutes; 0 within one."""
        return self.travel.get((one, other), 0)

    def week_with_travel(self, section: Section) -> int:
        """The minutes of the week a section covers, extended by the longest travel time before each
        meeting; see :attr:`Section.week`."""
        known = self._widened.get(section.id)
        if known is None:
            longest = max(self.travel.values(), default=0)
            known = self._widened[section.id] = week_mask(
                replace(m, start=max(0, m.start - longest)) for m in section.meetings if m.campus
            )
        return known

    @cached_property
    def _widened(self) -> dict[int, int]:
        return {}

    def goes_along_with(self, section: Section) -> list[Section]:
        """The section, and every section that may be dropped with it: its linked sections, theirs, and so
        on."""
        found = [section]
        seen = {section.reference_number}
        for one in found:
            more = [n for n in sorted(one.linked_sections) if n in self.by_number and n not in seen]
            seen.update(more)
            found += [self.by_number[n] for n in more]
        return found

    def linked_sections_of(self, section: Section) -> dict[str, tuple[Section, ...]]:
        """The linked sections of a section, by component; one of each is taken with it."""
        found: dict[str, list[Section]] = {}
        for number in sorted(section.linked_sections):
            other = self.by_number.get(number)
            if other is not None:
                found.setdefault(other.component, []).append(other)
        return {component: tuple(sections) for component, sections in found.items()}

    @cached_property
    def courses(self) -> dict[str, Course]:
        """Every course by each of its numbers, offered this term or not."""
        every = {c.key: c for c in (*self.not_offered, *(s.course for s in self.sections))}
        every = known_by_all_numbers(every)
        by_old_number = {key: course for course in every.values() for key in course.equivalents}
        return by_old_number | every

    @cached_property
    def same_as(self) -> dict[str, frozenset[str]]:
        """All numbers of the course of each number."""
        return {key: course.same_as for key, course in self.courses.items()}

    @cached_property
    def taken_together(self) -> dict[str, frozenset[str]]:
        """The courses that each course's requisites only allow in the same term."""
        return {
            section.course.key: courses_taken_together(section.course.requisites)
            for section in self.sections
            if section.course.requisites is not None
        }
