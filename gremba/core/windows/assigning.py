"""Assigns registration windows by a rule that anybody can check.

Named groups come first, then bands of credits earned, most first. Within a part of these the order is drawn:
by the digest of the seed and the student's user name, so that nobody chooses it and everybody can work it
out (SHA-256, FIPS 180-4). Each part begins a slot of its own; a slot takes so many students and no more.
"""

from __future__ import annotations

import hashlib
import math
from bisect import bisect_left
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from gremba.core.catalogue.calendar import parse_weekdays
from gremba.core.states import AssignedTo

MOST_SLOTS = 5_000
"""An assignment has no more; where students are left, the slots are too small."""

_DAYS_LOOKED_AT = 400


@dataclass(frozen=True, slots=True)
class Group:
    """A priority group.

    Attributes:
        value: the cohort or program they are of.
    """

    kind: AssignedTo
    value: str


@dataclass(frozen=True)
class AssignmentRule:
    """How windows are assigned.

    Attributes:
        groups: in the order in which they choose.
        bands: credits earned from which a band begins, most first; who has fewer than the last are a
            band of their own.
        first_day: on which the first slot may be.
        weekdays: on which there are slots, as meetings write them.
        starts, ends: between which hours slots begin and end, in minutes since midnight, local.
        slot_minutes: after so many the next slot begins.
        capacity: students whose window opens with one slot.
        closes_at: when all these windows close.
        seed: of the draw; any text.
    """

    first_day: date
    closes_at: datetime
    seed: str
    groups: tuple[Group, ...] = ()
    bands: tuple[float, ...] = (81.0, 54.0, 27.0)
    weekdays: str = "MTWRF"
    starts: int = 8 * 60
    ends: int = 17 * 60
    slot_minutes: int = 30
    capacity: int = 60


@dataclass(frozen=True, slots=True)
class Candidate:
    """A student of the term.

    Attributes:
        id: of the row that stands for them in it.
        opens_at: when a window that they have already opens, and that is not assigned again.
    """

    id: int
    username: str
    credits_earned: float
    cohort: str = ""
    program: str = ""
    opens_at: datetime | None = None


@dataclass(slots=True)
class AssignmentSlot:
    """A time at which windows open together.

    Attributes:
        part: to which part of the students it is given, as an index of :attr:`Assignment.parts`.
        kept: students whose window opened with it before; they count.
        assigned: ids of those who are given it.
    """

    opens_at: datetime
    part: int
    kept: int = 0
    assigned: list[int] = field(default_factory=list)


@dataclass(frozen=True)
class Assignment:
    """The result of a rule.

    Attributes:
        parts: names of the groups and bands, in order.
        left: students for whom no slot is left before the windows close.
    """

    rule: AssignmentRule
    parts: tuple[str, ...]
    slots: tuple[AssignmentSlot, ...]
    kept: int
    left: int

    @property
    def assigned(self) -> int:
        """The number of students who are given a window."""
        return sum(len(slot.assigned) for slot in self.slots)

    def opens_by_id(self) -> dict[int, datetime]:
        """The opening time of each student's window."""
        return {student: slot.opens_at for slot in self.slots for student in slot.assigned}

    def digest(self) -> str:
        """The same only for the same assignment, so that what is published is what was previewed."""
        told = ";".join(f"{row}@{at.isoformat()}" for row, at in sorted(self.opens_by_id().items()))
        return hashlib.sha256(f"{told};{self.rule.closes_at.isoformat()}".encode()).hexdigest()


class AssignmentMistake(ValueError):
    """A rule that cannot be applied; the text says what to change."""


def draw(seed: str, username: str) -> str:
    """The sort key within a part: ``sha256(seed + ":" + username)`` in hexadecimal."""
    return hashlib.sha256(f"{seed}:{username}".encode()).hexdigest()


def assign(candidates: Iterable[Candidate], rule: AssignmentRule, zone: ZoneInfo) -> Assignment:
    """Assign a window to everybody who has none.

    Raises:
        AssignmentMistake: the rule cannot be followed.
    """
    check_rule(rule)
    everybody = list(candidates)
    kept = _kept(everybody)
    slots: list[AssignmentSlot] = []
    moments = _moments(rule, zone)
    left = 0
    for part, students in enumerate(_parts(everybody, rule)):
        slot: AssignmentSlot | None = None
        for student in sorted(students, key=lambda one: draw(rule.seed, one.username)):
            while slot is None or len(slot.assigned) + slot.kept >= rule.capacity:
                opens_at = next(moments, None)
                if opens_at is None or len(slots) >= MOST_SLOTS:
                    slot = None
                    break
                slot = AssignmentSlot(opens_at, part, _count_between(kept, opens_at, rule.slot_minutes))
                slots.append(slot)
            if slot is None:
                left += 1
            else:
                slot.assigned.append(student.id)
    return Assignment(rule, _names(rule), tuple(slots), len(kept), left)


def check_rule(rule: AssignmentRule) -> None:
    """Check whether a rule can be applied.

    Raises:
        AssignmentMistake: it cannot.
    """
    if not 0 <= rule.starts < rule.ends <= 24 * 60:
        raise AssignmentMistake("The last hour must lie after the first.")
    if not 5 <= rule.slot_minutes <= 24 * 60 or rule.starts + rule.slot_minutes > rule.ends:
        raise AssignmentMistake("A slot is 5 minutes long at least, and fits between the hours.")
    if not 1 <= rule.capacity <= 100_000:
        raise AssignmentMistake("A slot takes 1 to 100,000 students.")
    if not rule.weekdays:
        raise AssignmentMistake("Choose at least one weekday.")
    if any(one <= other for one, other in zip(rule.bands, rule.bands[1:], strict=False)):
        raise AssignmentMistake("Write the bands with most credits first.")
    if any(band <= 0 for band in rule.bands):
        raise AssignmentMistake("A band begins with more than 0 credits; whoever has fewer comes last.")


def _names(rule: AssignmentRule) -> tuple[str, ...]:
    groups = [f"{group.kind.value} {group.value}" for group in rule.groups]
    bands = [f"{band:g} credits and more" for band in rule.bands[:1]]
    bands += [
        f"{band:g} to under {above:g} credits"
        for above, band in zip(rule.bands, rule.bands[1:], strict=False)
    ]
    last = f"under {rule.bands[-1]:g} credits" if rule.bands else "everybody"
    return (*groups, *bands, last if not groups or rule.bands else "everybody else")


def part_of(candidate: Candidate, rule: AssignmentRule) -> int:
    """The part of a student: the first group that includes them, or their credits band."""
    for index, group in enumerate(rule.groups):
        own = candidate.cohort if group.kind is AssignedTo.COHORT else candidate.program
        if own == group.value:
            return index
    lower = [n for n, band in enumerate(rule.bands) if candidate.credits_earned >= band]
    return len(rule.groups) + (lower[0] if lower else len(rule.bands))


def _parts(candidates: Sequence[Candidate], rule: AssignmentRule) -> list[list[Candidate]]:
    parts: list[list[Candidate]] = [[] for _ in _names(rule)]
    for one in candidates:
        if one.opens_at is None:
            parts[part_of(one, rule)].append(one)
    return parts


def _kept(candidates: Sequence[Candidate]) -> list[datetime]:
    return sorted(one.opens_at.astimezone(UTC) for one in candidates if one.opens_at is not None)


def _count_between(kept: Sequence[datetime], opens_at: datetime, minutes: int) -> int:
    begins = opens_at.astimezone(UTC)
    return bisect_left(kept, begins + timedelta(minutes=minutes)) - bisect_left(kept, begins)


def _moments(rule: AssignmentRule, zone: ZoneInfo) -> Iterator[datetime]:
    """The start of each slot, in order, before the windows close."""
    weekdays = parse_weekdays(rule.weekdays)
    closes_at = rule.closes_at.astimezone(UTC)
    for offset in range(_DAYS_LOOKED_AT):
        day = rule.first_day + timedelta(offset)
        if day.weekday() not in weekdays:
            continue
        for start in range(rule.starts, rule.ends - rule.slot_minutes + 1, rule.slot_minutes):
            local = datetime.combine(day, time(start // 60, start % 60), zone)
            if local.astimezone(UTC) >= closes_at:
                return
            yield local


CARRIED_A_MINUTE = 36_000
"""Sendings a minute that the application has carried with two processes on two shared cores: 600 a second,
the slowest turn of the runs in docs/speed.md."""


@dataclass(frozen=True, slots=True)
class Habit:
    """What students did when their windows opened.

    Attributes:
        windows: that have opened so far.
        at_once: sendings within the first minute of these.
    """

    windows: int = 0
    at_once: int = 0

    @property
    def each(self) -> float:
        """Submissions of a student in the first minute; one if there is too little data."""
        return self.at_once / self.windows if self.windows >= 200 else 1.0


def expected_a_minute(slot: AssignmentSlot, habit: Habit) -> int:
    """Expected submissions in the first minute of a slot, rounded up."""
    return math.ceil((slot.kept + len(slot.assigned)) * habit.each)


def rule_data(rule: AssignmentRule) -> dict[str, Any]:
    """A rule in its stored form."""
    return {
        "groups": [[group.kind.value, group.value] for group in rule.groups],
        "bands": list(rule.bands),
        "first_day": rule.first_day.isoformat(),
        "weekdays": rule.weekdays,
        "starts": rule.starts,
        "ends": rule.ends,
        "slot_minutes": rule.slot_minutes,
        "capacity": rule.capacity,
        "closes_at": rule.closes_at.isoformat(),
        "seed": rule.seed,
    }


def rule_from_data(data: dict[str, Any]) -> AssignmentRule:
    """A rule from its stored form; see :func:`rule_data`."""
    return AssignmentRule(
        first_day=date.fromisoformat(data["first_day"]),
        closes_at=datetime.fromisoformat(data["closes_at"]),
        seed=data["seed"],
        groups=tuple(Group(AssignedTo(kind), value) for kind, value in data["groups"]),
        bands=tuple(data["bands"]),
        weekdays=data["weekdays"],
        starts=data["starts"],
        ends=data["ends"],
        slot_minutes=data["slot_minutes"],
        capacity=data["capacity"],
    )
