"""The sections of a term: when they meet, where, who teaches, how many seats."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import time, timedelta
from typing import Any

from gremba.core.catalogue.calendar import MINUTES_A_DAY, WEEKDAY_LETTERS
from gremba.demo.courses import CoursePlan
from gremba.demo.season import SessionPlan, TermPlan
from gremba.demo.tables import Tables

HILLFOOT, MILLRACE, SKYFIELD = "hillfoot", "millrace", "skyfield"
ROOMS = {
    HILLFOOT: [
        f"Hillfoot {n}"
        for n in (
            12,
            14,
            30,
            31,
            32,
            33,
            34,
            101,
            102,
            103,
            104,
            105,
            201,
            202,
            203,
            204,
            205,
            301,
            302,
            303,
            304,
            305,
        )
    ],
    MILLRACE: [
        "Millrace Loft",
        "Millrace Upper Loft",
        "Millrace Shed",
        "Millrace Shed West",
        "Millrace Press Room",
        "Millrace Wheelhouse",
        "Millrace Tannery",
        "Millrace Yard",
        "Millrace 1",
        "Millrace 2",
        "Millrace 3",
        "Millrace 4",
    ],
    SKYFIELD: [
        "Skyfield 1",
        "Skyfield 2",
        "Skyfield Barn",
        "Skyfield Hives",
        "Skyfield Orchard",
        "Skyfield Pens",
        "Skyfield Lower Barn",
        "Skyfield Glasshouse",
    ],
}
LABS = [f"Millrace Lab {n}" for n in range(1, 9)]
WORKSHOPS = {
    "BAKE": ["Millrace Ovens", "Millrace Small Oven"],
    "DAIR": ["Millrace Creamery"],
    "FERM": ["Millrace Cellar"],
    "TXTL": ["Millrace Dye House", "Millrace Loom Room"],
    "CERM": ["Millrace Kiln Yard", "Millrace Clay Room"],
    "BSKT": ["Millrace Willow Store"],
    "SMTH": ["Millrace Forge", "Millrace Small Forge"],
    "MECH": ["Millrace Machine Bay"],
    "TMBR": ["Millrace Frame Shop", "Millrace Saw Yard"],
    "MAPS": ["Millrace Map Room"],
}

Hours = tuple[str, int, int]
"""Weekday letters, start and end in minutes."""

TOPICS = {
    "WRIT 240": ("Rivers", "Orchards", "Roads and Lanes"),
    "HIST 250": ("The Smithy", "Cloth and Dye", "Bread"),
}
CROSS_LISTED = (("WSHD 130", "LAWS 240"), ("BSKT 260", "TMBR 250"), ("HIST 201", "LAWS 310"))


def _hm(hour: int, minute: int = 0) -> int:
    return hour * 60 + minute


PAIR_SLOTS: list[list[Hours]] = [
    [(days, _hm(h, m), _hm(h, m) + 75)]
    for h, m in ((9, 30), (11, 0), (14, 0), (8, 0), (12, 30), (15, 30))
    for days in ("TR", "MW")
]
WEEK_SLOTS: list[list[Hours]] = [[("MWF", _hm(h), _hm(h) + 50)] for h in (10, 9, 11, 8, 13, 12, 14)]
FOUR_SLOTS: list[list[Hours]] = [
    [("MWF", _hm(h), _hm(h) + 50), ("W", _hm(h + 1), _hm(h + 1) + 50)] for h in (8, 11, 13)
]
LAB_SLOTS: list[list[Hours]] = [
    [(day, _hm(h), _hm(h) + 170)] for h in (14, 8) for day in ("T", "R", "F", "W", "M")
] + [[("T", _hm(18), _hm(20, 50))], [("R", _hm(18), _hm(20, 50))]]
STUDIO_SLOTS: list[list[Hours]] = [
    [(days, _hm(h, m), _hm(h, m) + 140)] for h, m in ((13, 0), (9, 0), (15, 30)) for days in ("TR", "MW")
] + [[("F", _hm(9), _hm(13, 40))], [("F", _hm(13, 30), _hm(18, 10))]]
FIELD_SLOTS: list[list[Hours]] = [
    [(day, _hm(h), _hm(h) + 230)] for h in (8, 13) for day in ("F", "R", "T", "W", "M")
] + [[("S", _hm(8), _hm(11, 50))]]
HALF_SLOTS: list[list[Hours]] = [
    [(days, _hm(h, m), _hm(h, m) + 110)]
    for h, m in ((8, 0), (10, 0), (13, 0), (15, 0), (17, 30))
    for days in ("TR", "MW")
]


@dataclass(frozen=True)
class Teaching:
    """What the sections of a kind of course look like."""

    slots: Sequence[list[Hours]]
    campus: str | None
    seats: tuple[int, ...]
    sections: tuple[int, int, int, int]
    """How many, for courses of the first to the fourth level."""
    component: str = "lecture"
    delivery: str = "in person"
    session: str = "full"
    waitlist: int = 8


TEACHING = {
    "pair": Teaching(PAIR_SLOTS, HILLFOOT, (24, 24, 28), (3, 2, 1, 1)),
    "week": Teaching(WEEK_SLOTS, HILLFOOT, (26, 30), (6, 4, 2, 1)),
    "four": Teaching(FOUR_SLOTS, HILLFOOT, (24,), (3, 2, 1, 1)),
    "lab": Teaching(PAIR_SLOTS, HILLFOOT, (36,), (2, 1, 1, 1)),
    "studio": Teaching(STUDIO_SLOTS, MILLRACE, (12, 14, 16), (3, 2, 2, 1), "studio"),
    "field": Teaching(FIELD_SLOTS, SKYFIELD, (16, 18), (2, 2, 2, 1), "field"),
    "half": Teaching(HALF_SLOTS, MILLRACE, (18, 20), (2, 2, 1, 1), session="half"),
    "online": Teaching(
        [[("W", _hm(18), _hm(20, 30))], [("T", _hm(18), _hm(20, 30))]],
        None,
        (30,),
        (2, 2, 1, 1),
        delivery="live online",
    ),
    "any": Teaching([[]], None, (40,), (2, 2, 1, 1), delivery="online any time"),
    "anyhalf": Teaching([[]], None, (40,), (1, 1, 1, 1), delivery="online any time", session="second"),
    "evening": Teaching(
        [[("W", _hm(18), _hm(19, 50)), ("W", _hm(19, 51), _hm(21, 50))]], MILLRACE, (18,), (1, 1, 1, 1)
    ),
    "evenings": Teaching(
        [[("W", _hm(18), _hm(20, 50))], [("M", _hm(18), _hm(20, 50))]], HILLFOOT, (28,), (2, 2, 2, 1)
    ),
    "alone": Teaching([[("F", _hm(10), _hm(11, 50))]], MILLRACE, (18,), (1, 1, 1, 1)),
    "topic": Teaching(PAIR_SLOTS, HILLFOOT, (20,), (3, 3, 3, 3)),
    "seminar": Teaching(PAIR_SLOTS, HILLFOOT, (20,), (7, 7, 7, 7), "seminar"),
    "short": Teaching([[("F", _hm(9), _hm(12))]], SKYFIELD, (30,), (1, 1, 1, 1), session="short"),
    "project": Teaching([[]], HILLFOOT, (6,), (1, 1, 1, 1), "studio", waitlist=0),
}


BESIDE_LECTURES = ("lab", "discussion")
"""Components that are taken with a lecture, and carry no credit of their own."""

IN_THREE_PARTS = "MECH 215"
"""A course of lecture, lab and discussion."""


@dataclass(frozen=True)
class SectionPlan:
    """A section as the demo's students see it when choosing."""

    id: int
    number: str
    course: CoursePlan
    component: str
    pool: int
    week: int
    session: str
    labs: list[SectionPlan] = field(default_factory=list)
    discussions: list[SectionPlan] = field(default_factory=list)
    bundle: int | None = None
    cancelled: bool = False


class TermTimetable:
    """Creates the sections of one term without using a room or an instructor twice at once."""

    def __init__(
        self,
        tables: Tables,
        rng: random.Random,
        term_id: int,
        plan: TermPlan,
        teachers: dict[str, list[int]],
        share: float,
    ) -> None:
        self._tables = tables
        self._rng = rng
        self._term_id = term_id
        self._plan = plan
        self._teachers = teachers
        self._share = share
        self._busy: dict[tuple[str, str | int], int] = {}
        self._next = plan.numbers_from + rng.randrange(100, 200)
        self._turn: dict[str, int] = {}
        self.sections: list[SectionPlan] = []

    def fill(self, courses: Sequence[CoursePlan], sessions: dict[str, int]) -> None:
        """Create the sections of these courses.

        Args:
            sessions: ids of the term's sessions by code.
        """
        self._session_ids = sessions
        for course in courses:
            teaching = TEACHING[course.teaching]
            many = max(1, round(teaching.sections[course.level - 1] * self._share))
            for turn in range(many):
                self._section(course, teaching, turn)

    def _section(self, course: CoursePlan, teaching: Teaching, turn: int) -> None:
        sessions = ["first", "second"] if teaching.session == "half" else [teaching.session]
        session = sessions[turn % len(sessions)]
        if session not in self._session_ids:
            session = "full"
        topics = TOPICS.get(course.key, ("",))
        primary = self._place(
            course,
            teaching,
            session,
            teaching.component,
            cancelled=self._rng.random() < 0.015,
            topic=topics[turn % len(topics)],
        )
        if course.teaching == "lab":
            bench = Teaching(LAB_SLOTS, MILLRACE, (12, 14), (3, 3, 3, 3), "lab")
            for _ in range(3 if course.level == 1 else 2):
                lab = self._place(course, bench, session, "lab", apart_from=primary.week)
                primary.labs.append(lab)
                for one, other in ((primary, lab), (lab, primary)):
                    self._tables.add_link("linked_sections", section_id=one.id, with_section_id=other.id)

    def _place(
        self,
        course: CoursePlan,
        teaching: Teaching,
        session: str,
        component: str,
        *,
        cancelled: bool = False,
        topic: str = "",
        apart_from: int = 0,
    ) -> SectionPlan:
        hours, room, teacher = self._find_entry(course, teaching, session, apart_from)
        week = _mask(hours)
        lines = self._rng.random()
        number = str(self._next)
        self._next += self._rng.choice((1, 1, 2, 3))
        seats = self._rng.choice(teaching.seats)
        pool = self._tables.add("seat_pools", term_id=self._term_id, seat_limit=seats)
        section = self._tables.add(
            "sections",
            term_id=self._term_id,
            reference_number=number,
            course_id=course.id,
            session_id=self._session_ids[session],
            pool_id=pool,
            component=component,
            delivery=teaching.delivery,
            campus=teaching.campus,
            carries_credit=component not in BESIDE_LECTURES,
            cancelled=cancelled,
            topic=topic,
            notes=f"This section is about: {topic.lower()}." if topic else _note(course, lines),
            bundle_id=None,
            waitlist_limit=teaching.waitlist,
            waitlist_way="automatic" if lines > 0.8 else "offer",
            consent_needed=course.teaching == "project",
            no_textbook_cost=lines < 0.4,
            restrictions=_restrictions(course, lines),
            fees=[],
        )
        span = self._span(session)
        for days, start, end in hours:
            self._tables.add(
                "meetings",
                section_id=section,
                weekdays=days,
                starts=_clock(start),
                ends=_clock(end),
                first_day=span.first,
                last_day=span.last,
                campus=teaching.campus,
                room=room,
            )
        if teacher is not None:
            self._tables.add_link("section_instructors", section_id=section, person_id=teacher)
        if course.teaching == "seminar":
            self._tables.add_link(
                "reserved_seats",
                pool_id=pool,
                group_kind="cohort",
                group_value="first year",
                seats=seats - 2,
                release_on=self._plan.first - timedelta(14),
            )
        plan = SectionPlan(section, number, course, component, pool, week, session, cancelled=cancelled)
        self.sections.append(plan)
        return plan

    def _span(self, session: str) -> SessionPlan:
        return next(b for b in self._plan.sessions if b.code == session)

    def _find_entry(
        self, course: CoursePlan, teaching: Teaching, session: str, apart_from: int
    ) -> tuple[list[Hours], str, int | None]:
        """The next slot with a free room and, if there is one, a free instructor."""
        key = f"{course.subject} {teaching.component}"
        start = self._turn.setdefault(key, self._rng.randrange(len(teaching.slots)))
        self._turn[key] = start + 1
        in_turn = [teaching.slots[(start + n) % len(teaching.slots)] for n in range(len(teaching.slots))]
        rooms = _rooms(course, teaching)
        teachers: list[int | None] = [*self._teachers[course.subject]]
        self._rng.shuffle(teachers)
        if self._rng.random() < 0.08:
            teachers = []
        for candidates in ([*teachers], [None]):
            for hours in in_turn:
                mask = _mask(hours)
                if mask & apart_from:
                    continue
                for teacher in candidates:
                    if teacher is not None and self._is_busy("teacher", teacher, session, mask):
                        continue
                    room = next(
                        (r for r in rooms if not r or not self._is_busy("room", r, session, mask)),
                        None,
                    )
                    if room is not None:
                        self._take("room", room, session, mask)
                        if teacher is not None:
                            self._take("teacher", teacher, session, mask)
                        return hours, room if hours else "", teacher
        # Every room is in use whenever it could be held: it is announced without one.
        return next(h for h in in_turn if not _mask(h) & apart_from), "", None

    def _parts(self, session: str) -> tuple[str, ...]:
        return ("first", "second") if session in ("full", "short") else (session,)

    def _is_busy(self, kind: str, who: str | int, session: str, mask: int) -> bool:
        return any(self._busy.get((f"{kind} {part}", who), 0) & mask for part in self._parts(session))

    def _take(self, kind: str, who: str | int, session: str, mask: int) -> None:
        for part in self._parts(session):
            key = (f"{kind} {part}", who)
            self._busy[key] = self._busy.get(key, 0) | mask

    def cross_list(self) -> None:
        """Let pairs of courses share the seats and hours of one class."""
        rows = {row["id"]: row for row in self._tables.rows["sections"]}
        for one, other in CROSS_LISTED:
            first = [s for s in self.sections if s.course.key == one and not s.cancelled]
            second = [s for s in self.sections if s.course.key == other and not s.cancelled]
            if not first or not second:
                continue
            keeps, joins = first[-1], second[-1]
            rows[joins.id]["pool_id"] = keeps.pool
            rows[joins.id]["notes"] = f"Taught together with {one}; the seats are shared."
            rows[keeps.id]["notes"] = f"Taught together with {other}; the seats are shared."
            hours = [m for m in self._tables.rows["meetings"] if m["section_id"] == keeps.id]
            mine = [m for m in self._tables.rows["meetings"] if m["section_id"] == joins.id]
            for theirs, ours in zip(hours, mine, strict=False):
                ours.update({k: v for k, v in theirs.items() if k not in ("id", "section_id")})
            index = self.sections.index(joins)
            self.sections[index] = SectionPlan(
                joins.id,
                joins.number,
                joins.course,
                joins.component,
                keeps.pool,
                keeps.week,
                joins.session,
                joins.labs,
                joins.discussions,
            )

    def add_discussions(self) -> None:
        """Link every lecture of one course to two discussions as well as to its labs, in any combination."""
        own, self._rng = self._rng, random.Random(f"{self._plan.code} discussions")
        evening = Teaching(
            [[("M", _hm(18), _hm(18, 50))], [("R", _hm(18), _hm(18, 50))]],
            None,
            (16,),
            (2, 2, 2, 2),
            "discussion",
            "live online",
        )
        for lecture in [s for s in self.sections if s.course.key == IN_THREE_PARTS and s.labs]:
            for _ in range(2):
                discussion = self._place(
                    lecture.course, evening, lecture.session, "discussion", apart_from=lecture.week
                )
                lecture.discussions.append(discussion)
                for other in (lecture, *lecture.labs):
                    for one, goes_with in ((other, discussion), (discussion, other)):
                        self._tables.add_link(
                            "linked_sections", section_id=one.id, with_section_id=goes_with.id
                        )
        self._rng = own

    def bundle_first_years(self) -> None:
        """Bundle a seminar, a writing section, and a mathematics section."""
        rows = {row["id"]: row for row in self._tables.rows["sections"]}
        seminars = [s for s in self.sections if s.course.marked("bundle") and not s.cancelled]
        partners = [
            [s for s in self.sections if s.course.key == key and not s.cancelled]
            for key in ("WRIT 101", "MATH 100")
        ]
        made = 0
        for seminar in seminars:
            trio = [seminar]
            for options in partners:
                fits = [
                    o
                    for o in options
                    if not any(o.week & t.week for t in trio) and rows[o.id]["bundle_id"] is None
                ]
                trio += fits[:1]
            if len(trio) < 3 or made == 3:
                break
            made += 1
            bundle = self._tables.add("bundles", term_id=self._term_id, name=f"First-year bundle {made}")
            for section in trio:
                rows[section.id]["bundle_id"] = bundle
                self.sections[self.sections.index(section)] = SectionPlan(
                    section.id,
                    section.number,
                    section.course,
                    section.component,
                    section.pool,
                    section.week,
                    section.session,
                    section.labs,
                    section.discussions,
                    bundle,
                )


def _rooms(course: CoursePlan, teaching: Teaching) -> list[str]:
    """Suitable rooms, best first; none for online sections."""
    if teaching.campus is None:
        return [""]
    if teaching.component == "lab":
        return LABS
    own = WORKSHOPS.get(course.subject, []) if teaching.campus == MILLRACE else []
    return own + ROOMS[teaching.campus]


def _mask(hours: Sequence[Hours]) -> int:
    mask = 0
    for days, start, end in hours:
        for letter in days:
            shift = WEEKDAY_LETTERS.index(letter) * MINUTES_A_DAY + start
            mask |= ((1 << (end - start)) - 1) << shift
    return mask


def _clock(minutes: int) -> time:
    return time(minutes // 60, minutes % 60)


def _note(course: CoursePlan, lines: float) -> str:
    if course.teaching == "project":
        return "Agree on a subject with an instructor first; they give you a permission code."
    if course.teaching in ("field", "studio") and lines < 0.3:
        return "Bring boots and a coat; most of it is out of doors or in the workshop."
    return ""


def _restrictions(course: CoursePlan, lines: float) -> dict[str, Any]:
    if course.teaching == "seminar" and course.level == 1:
        return {"cohort": ["first year"]}
    if course.key == "SEMR 201":
        return {"cohort": ["second year", "third year"]}
    if course.level >= 3 and lines > 0.93:
        return {"standing": ["third year", "fourth year"]}
    return {}
