"""The ways to have a want: one section of each component, and what must come along."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, islice, product

from gremba.core.catalogue.term import Section, TermCatalogue
from gremba.core.timetables.left_out import Judged
from gremba.core.timetables.question import Narrowing
from gremba.core.timetables.sought import Sought

MOST_OF_COURSE = 400
"""So many ways to take one course are looked at, and so many with what comes along."""

Sections = tuple[Section, ...]
"""In order of reference number."""


@dataclass(frozen=True, slots=True)
class Way:
    """One way to have a course: its sections with linked sections, corequisites, or bundle.

    Attributes:
        course: key of the course that is wanted.
        bundle: name of the bundle that comes with it.
    """

    course: str
    sections: Sections
    bundle: str | None = None


class WaysOfCourses:
    """Finds the ways to have a term's courses.

    Args:
        judged: what the rules say of sections; those stopped are in no way.
        wanted: courses wanted by themselves or held: none of them need come along with another.
    """

    def __init__(
        self, term: TermCatalogue, judged: Mapping[str, Judged], wanted: Iterable[Iterable[str]]
    ) -> None:
        self._term = term
        self._judged = judged
        self._there = {key for same in wanted for key in same}
        self.is_cut_short = False
        """Whether somewhere there were more ways than are looked at."""

    def of(self, course: str) -> list[Way]:
        """The ways to have a course, each once."""
        sections = [s for s in self._term.by_course.get(course, ()) if self._can_be_had(s)]
        found = [
            Way(course, combined) for combined in self._combined([s for s in sections if s.bundle is None])
        ]
        needed = self._come_along(course)
        for other in needed:
            more = [s for s in self._term.by_course.get(other, ()) if self._can_be_had(s) and not s.bundle]
            choices = self._combined(more)
            found = [
                Way(course, in_order((*way.sections, *choice)))
                for way in found
                for choice in choices
                if not _clash(*way.sections, *choice)
            ]
            found = self._bounded(found)
        names = dict.fromkeys(s.bundle for s in sections if s.bundle is not None)
        for name in names:
            whole = self._term.by_bundle[name]
            if all(self._can_be_had(s) for s in whole) and not _clash(*whole):
                found.append(Way(course, in_order(whole), name))
        return found

    def _can_be_had(self, section: Section) -> bool:
        judged = self._judged.get(section.reference_number)
        return not section.cancelled and judged is not None and judged.stop is None

    def _bounded(self, ways: list[Way]) -> list[Way]:
        self.is_cut_short |= len(ways) > MOST_OF_COURSE
        return ways[:MOST_OF_COURSE]

    def _come_along(self, course: str) -> list[str]:
        """Courses that this one is only taken together with, and that are not there anyway."""
        return come_along(self._term, course, self._there)

    def _combined(self, sections: Sequence[Section]) -> list[Sections]:
        """Each section with one linked section of each component, in every combination."""
        numbers = {s.reference_number for s in sections}
        found: dict[Sections, None] = {}
        for section in sections:
            parts = [
                [o for o in many if o.reference_number in numbers]
                for many in self._term.linked_sections_of(section).values()
            ]
            for chosen in islice(product(*parts), MOST_OF_COURSE + 1):
                together = in_order((section, *chosen))
                if together not in found and self._is_whole(together) and not _clash(*together):
                    found[together] = None
                if len(found) > MOST_OF_COURSE:
                    self.is_cut_short = True
                    return list(found)[:MOST_OF_COURSE]
        return list(found)

    def _is_whole(self, together: Sections) -> bool:
        """Whether each has a linked section of every component."""
        return all(
            any(o in together for o in many)
            for section in together
            for many in self._term.linked_sections_of(section).values()
        )


def come_along(term: TermCatalogue, course: str, there: Iterable[str]) -> list[str]:
    """The courses that one is only taken together with, transitively, without those already there."""
    known = {course, *there}
    found: list[str] = []
    queue = [course]
    for key in queue:
        for other in sorted(term.taken_together.get(key, ())):
            same = term.same_as.get(other) or frozenset({other})
            if known.isdisjoint(same):
                offered = next((k for k in sorted(same) if k in term.by_course), other)
                known |= same
                found.append(offered)
                queue.append(offered)
    return found


def come_along_with_several(
    term: TermCatalogue, looked_for: Iterable[Sought], there: Iterable[str]
) -> list[str]:
    """The courses that come along with more than one wanted course: with one that is required and leaves
    no choice, so that they are taken in any case; or with none that leaves a choice, so that it is known
    what they are for."""
    turns: Counter[str] = Counter()
    sure: dict[str, None] = {}
    with_choice: set[str] = set()
    for sought in looked_for:
        along = {other for key in sought.courses for other in come_along(term, key, there)}
        turns.update(along)
        if sought.want.is_choice:
            with_choice |= along
        elif sought.want.is_needed or sought.moves:
            sure |= dict.fromkeys(sorted(along))
    known = [*sure, *sorted(turns.keys() - sure.keys() - with_choice)]
    return [key for key in known if turns[key] > 1 and key in term.by_course]


def in_order(sections: Iterable[Section]) -> Sections:
    """Sections in order of reference number."""
    return tuple(sorted(sections, key=lambda s: s.reference_number))


def _clash(*sections: Section) -> bool:
    return any(one.clash_with(other) is not None for one, other in combinations(sections, 2))


def unmet_narrowings(narrowing: Narrowing, way: Way) -> Iterator[str]:
    """The parts of a restriction that one way to have the course does not meet."""
    own = [s for s in way.sections if s.course.key == way.course]
    numbers = {s.reference_number for s in own}
    if narrowing.without & numbers:
        yield "without"
    if narrowing.only and not narrowing.only & numbers:
        yield "only"
    if narrowing.instructors and not any(_is_taught_by(s, narrowing.instructors) for s in own):
        yield "instructors"
    if narrowing.campuses and not all(campuses_of(s) <= narrowing.campuses for s in own):
        yield "campuses"
    if narrowing.deliveries and not all(s.delivery in narrowing.deliveries for s in own):
        yield "deliveries"
    if narrowing.sessions and not all(s.session.code in narrowing.sessions for s in own):
        yield "sessions"


def _is_taught_by(section: Section, instructors: Iterable[str]) -> bool:
    named = {name.casefold() for name in instructors}
    return any(
        full.casefold() in named or full.rpartition(" ")[2].casefold() in named
        for full in section.instructors
    )


def campuses_of(section: Section) -> frozenset[str]:
    """The campuses where a section meets, or "online"."""
    return section.campuses or frozenset({section.campus or "online"})
