"""Lives the morning so far: every student whose window is open has registered, through the real actions."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from gremba.actions.context import ActionContext
from gremba.actions.registration.process_submissions import Confirmation, process_submissions
from gremba.actions.registration.submission import Submission
from gremba.core.catalogue.term import TermCatalogue
from gremba.core.registration.changes import Change, Kind, Mode, Request
from gremba.core.states import WaitlistState
from gremba.demo.season import OFFER_MADE, OFFER_UNTIL
from gremba.demo.students import Records, StudentPlan
from gremba.demo.timetable import BESIDE_LECTURES, SectionPlan
from gremba.store.database import connected, send_sql
from gremba.store.models import WaitlistEntry
from gremba.store.queries import write

BATCH = 64


@dataclass
class SetClock:
    """A clock that stands still."""

    time: datetime

    def now(self) -> datetime:
        """The time it was set to."""
        return self.time


@dataclass
class Crowd:
    """Students choosing sections as people do: what fits, whether or not it is full."""

    rng: random.Random
    records: Records
    sections: Sequence[SectionPlan]
    by_course: dict[str, list[SectionPlan]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for section in self.sections:
            if section.component not in BESIDE_LECTURES and not section.cancelled:
                self.by_course.setdefault(section.course.key, []).append(section)

    def choose(self, student: StudentPlan, wanted: float) -> list[str]:
        """Reference numbers of a schedule without conflicts and with about that many credits."""
        week = {"first": 0, "second": 0}
        credits = 0.0
        chosen: list[str] = []
        level = min(4, student.year + 1)
        for course in self.records.wishes(student, level, 16):
            if credits + course.credits[0] > wanted:
                continue
            for section in self._in_taste(course.key):
                parts = [section]
                if section.labs:
                    parts.append(self.rng.choice(section.labs))
                halves = ("first", "second") if section.session in ("full", "short") else (section.session,)
                if any(p.week & week[h] for p in parts for h in halves):
                    continue
                for part in parts:
                    for half in halves:
                        week[half] |= part.week
                    chosen.append(part.number)
                free = [d for d in section.discussions if not d.week & (week["first"] | week["second"])]
                chosen += [d.number for d in free[:1]]
                credits += course.credits[0]
                break
            if credits >= wanted - 1:
                break
        return chosen

    def _in_taste(self, course: str) -> list[SectionPlan]:
        """The course's sections, earlier ones preferred: this is how waitlists form."""
        options = self.by_course.get(course, [])
        liked = [(self.rng.random() ** (1 + 0.4 * n), n, s) for n, s in enumerate(options)]
        return [s for _, _, s in sorted(liked, key=lambda x: (-x[0], x[1]))]


@dataclass
class Morning:
    """Submits the crowd's choices in the order of their windows."""

    context: ActionContext
    clock: SetClock
    term: TermCatalogue
    rows_of: dict[int, int]
    """Students to their rows of the term."""

    def register(
        self,
        wishes: Sequence[tuple[StudentPlan, datetime, list[str]]],
        turn: str,
        tick: Callable[[int], None],
    ) -> list[tuple[StudentPlan, Confirmation, list[str]]]:
        """Submit everybody's choices; a batch counts as sent at its last student's time.

        Raises:
            RuntimeError: a sending had no confirmation, so the demo would not be what it says.
        """
        answered = []
        for start in range(0, len(wishes), BATCH):
            batch = wishes[start : start + BATCH]
            self.clock.time = max(at for _, at, _ in batch)
            answers = process_submissions(self.context, [self._sending(s, n, turn) for s, _, n in batch])
            for (student, _, numbers), answer in zip(batch, answers, strict=True):
                if not isinstance(answer, Confirmation):
                    raise RuntimeError(f"{student.username}: {answer}")
                answered.append((student, answer, numbers))
            tick(len(batch))
        return answered

    def one(self, student: StudentPlan, at: datetime, kind: Kind, numbers: Sequence[str], turn: str) -> None:
        """Submit one student's changes."""
        self.clock.time = at
        request = Request(tuple(Change(kind, n) for n in numbers), Mode.EACH)
        process_submissions(self.context, [self._make(student, request, turn)])

    def _sending(self, student: StudentPlan, numbers: Sequence[str], turn: str) -> Submission:
        request = Request(tuple(Change(Kind.ADD, n) for n in numbers), Mode.EACH)
        return self._make(student, request, turn)

    def _make(self, student: StudentPlan, request: Request, turn: str) -> Submission:
        return Submission(
            self.rows_of[student.id],
            self.term,
            request,
            f"demo-{turn}-{student.id}",
            student.id,
            student.full_name,
        )

    def queue_up(self, rng: random.Random, until: datetime) -> int:
        """Students refused a full section join its waitlist, as far as it has room."""
        database = self.context.database
        with connected(database), database.atomic():
            asked = send_sql(
                database,
                """
                SELECT r.student_term_id, s.id, s.pool_id, s.waitlist_limit, r.sent_at
                FROM confirmations r
                CROSS JOIN LATERAL json_array_elements(r.body -> 'outcomes') o
                CROSS JOIN LATERAL json_array_elements(o -> 'findings') f
                JOIN sections s ON s.reference_number = o ->> 'number' AND s.term_id = %s
                WHERE o ->> 'result' = 'refused' AND f ->> 'code' = 'seat.full'
                    AND s.component <> 'lab'
                ORDER BY r.id, s.id
                """,
                (self.term.id,),
            )
            waiting: dict[int, int] = {}
            courses: set[tuple[int, str]] = set()
            entries = []
            for student, section, pool, limit, sent_at in asked.fetchall():
                course = (student, self.term.by_id[section].course.key)
                if waiting.get(section, 0) >= limit or course in courses or rng.random() < 0.2:
                    continue
                courses.add(course)
                waiting[section] = waiting.get(section, 0) + 1
                joined = min(sent_at + timedelta(seconds=rng.randrange(5, 240)), until)
                entries.append((student, section, pool, joined))
            # A waitlist is in order of entry.
            entries.sort(key=lambda entry: entry[3])
            names = ("student_term_id", "section_id", "pool_id", "joined_at")
            same = {"term_id": self.term.id, "state": WaitlistState.WAITING}
            new = [{**same, **dict(zip(names, entry, strict=True))} for entry in entries]
            write(database, WaitlistEntry.insert_many(new))
        return len(entries)

    def offer(self, student: StudentPlan, number: str, joined: datetime) -> None:
        """Offer the freed seat of a section to a student until the offer expires."""
        section = self.term.by_number[number]
        with connected(self.context.database) as database:
            new = WaitlistEntry.insert(
                student_term_id=self.rows_of[student.id],
                term_id=self.term.id,
                section_id=section.id,
                pool_id=section.pool,
                state=WaitlistState.OFFERED,
                joined_at=joined,
                offered_at=OFFER_MADE,
                offer_until=OFFER_UNTIL,
            )
            write(database, new)


def early_time(rng: random.Random, opens: datetime) -> datetime:
    """A time within the first half hour of a window, mostly in its first minutes."""
    return opens + timedelta(seconds=int(rng.expovariate(1 / 240)) % 1700)
