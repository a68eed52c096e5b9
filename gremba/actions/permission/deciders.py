"""Who has a request: by the policy's route, with deputies for those who are away."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date

from playhouse.pool import PooledPostgresqlDatabase

from gremba.core.catalogue import Section, TermCatalogue
from gremba.core.permission.policy import Decider
from gremba.store.permission import (
    DeputyRow,
    RequestRow,
    deputies_on,
    heads_of,
    instructors_of,
    names_of,
    registrars,
)


@dataclass(frozen=True, slots=True)
class Having:
    """Somebody who has a request.

    Attributes:
        stands_for: whose place they take; None for their own.
    """

    person: int
    stands_for: int | None = None


@dataclass(frozen=True, slots=True)
class Deciders:
    """Everybody who can decide about some sections, and who stands in for whom today.

    Attributes:
        names: of all of them, by id.
    """

    instructors: Mapping[int, list[int]]
    heads: Mapping[str, list[int]]
    registrars: list[int]
    deputies: list[DeputyRow]
    names: Mapping[int, str]
    today: date

    def themselves(self, decider: Decider, section: Section, advisor_id: int | None) -> list[int]:
        """Who a step of a route means. Where there is nobody, the next who could know decides: the
        department for an instructor to be named, and the registrar in the end."""
        if decider is Decider.INSTRUCTOR and self.instructors.get(section.id):
            return self.instructors[section.id]
        if decider in (Decider.INSTRUCTOR, Decider.DEPARTMENT) and self.heads.get(section.course.subject):
            return self.heads[section.course.subject]
        if decider is Decider.ADVISOR and advisor_id is not None:
            return [advisor_id]
        return self.registrars

    def having(self, row: RequestRow, section: Section) -> list[Having]:
        """Who has a request now."""
        own = self.themselves(Decider(row.route[row.step]), section, row.advisor_id)
        return [*map(Having, own), *(Having(d.deputy, d.person) for d in self._standing_in_for(own))]

    def _standing_in_for(self, people: Collection[int]) -> list[DeputyRow]:
        return [d for d in self._today if d.person in people]

    @property
    def _today(self) -> list[DeputyRow]:
        return [d for d in self.deputies if d.from_on <= self.today <= d.until_on]

    def told(self, row: RequestRow, section: Section) -> str:
        """Who has it, by name."""
        named = [
            self.names.get(h.person, "somebody")
            + (f" for {self.names.get(h.stands_for, 'somebody')}" if h.stands_for else "")
            for h in self.having(row, section)
        ]
        if len(named) > 3:
            return "the registrar's office"
        return " or ".join(dict.fromkeys(named)) or "the registrar's office"

    def stood_in_for(self, person: int) -> list[int]:
        """For whom somebody decides today beside themselves."""
        return [d.person for d in self._today if d.deputy == person]


def read_deciders(
    database: PooledPostgresqlDatabase,
    term: TermCatalogue,
    sections: Collection[int],
    advisors: Collection[int],
    today: date,
) -> Deciders:
    """Who decides about these sections, and for the students of these advisors. Five statements."""
    instructors, heads = instructors_of(database, sections), heads_of(database)
    office, deputies = registrars(database), deputies_on(database, today)
    subjects = {term.by_id[s].course.subject for s in sections if s in term.by_id}
    known = {p for people in instructors.values() for p in people} | set(office) | set(advisors)
    known |= {p for subject in subjects for p in heads.get(subject, ())}
    known |= {p for d in deputies for p in (d.person, d.deputy)}
    return Deciders(instructors, heads, office, deputies, names_of(database, known), today)
