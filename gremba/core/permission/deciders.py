"""Finds who decides a request: by the policy's route, with delegates."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from typing import Protocol

from gremba.core.catalogue.term import Section
from gremba.core.permission.policy import Decider

_OFFICE = "the registrar's office"
_MOST_NAMED = 3


class Routed(Protocol):
    """A request and its route."""

    @property
    def route(self) -> tuple[str, ...]:
        """Who has to approve, in order."""
        ...

    @property
    def step(self) -> int:
        """The current step, counted from 0."""
        ...

    @property
    def advisor_id(self) -> int | None:
        """The student's advisor; None if there is none."""
        ...


@dataclass(frozen=True, slots=True)
class Having:
    """A person with a request to decide.

    Attributes:
        stands_for: whose place they take; None for their own.
    """

    person: int
    stands_for: int | None = None


@dataclass(frozen=True, slots=True)
class StandIn:
    """A delegate of a person, from one day through another."""

    person: int
    delegate: int
    from_on: date
    until_on: date


@dataclass(frozen=True, slots=True)
class Deciders:
    """Everybody who can decide about some sections, and today's delegates.

    Attributes:
        instructors: by the id of a section.
        heads: by subject.
        names: of all of them, by id.
    """

    instructors: Mapping[int, Sequence[int]]
    heads: Mapping[str, Sequence[int]]
    registrars: Sequence[int]
    delegates: Sequence[StandIn]
    names: Mapping[int, str]
    today: date

    def themselves(self, decider: Decider, section: Section, advisor_id: int | None) -> Sequence[int]:
        """The people of a step. If there are none, the next who could know: the department for a missing
        instructor, and finally the registrar."""
        if decider is Decider.INSTRUCTOR and self.instructors.get(section.id):
            return self.instructors[section.id]
        if decider in (Decider.INSTRUCTOR, Decider.DEPARTMENT) and self.heads.get(section.course.subject):
            return self.heads[section.course.subject]
        if decider is Decider.ADVISOR and advisor_id is not None:
            return [advisor_id]
        return self.registrars

    def having(self, request: Routed, section: Section) -> list[Having]:
        """Who has a request now."""
        own = self.themselves(Decider(request.route[request.step]), section, request.advisor_id)
        return [*map(Having, own), *(Having(d.delegate, d.person) for d in self._standing_in_for(own))]

    def had(self, request: Routed, section: Section, person: int) -> bool:
        """Whether a step is or was a person's, also as a delegate, so that they may see the outcome."""
        people = {person, *self.stood_in_for(person)}
        passed = map(Decider, request.route[: request.step + 1])
        return any(people & set(self.themselves(one, section, request.advisor_id)) for one in passed)

    def left_of_route(self, request: Routed, section: Section, by: int) -> list[Decider]:
        """Who still has to approve after somebody has. Nobody is asked again in another role."""
        left = [Decider(d) for d in request.route[request.step + 1 :]]
        while left and by in self.themselves(left[0], section, request.advisor_id):
            left = left[1:]
        return left

    def told(self, request: Routed, section: Section) -> str:
        """Who has it, by name."""
        named = [
            self.names.get(h.person, "somebody")
            + (f" for {self.names.get(h.stands_for, 'somebody')}" if h.stands_for else "")
            for h in self.having(request, section)
        ]
        if len(named) > _MOST_NAMED:
            return _OFFICE
        return " or ".join(dict.fromkeys(named)) or _OFFICE

    def stood_in_for(self, person: int) -> list[int]:
        """The people a person is a delegate of today."""
        return [d.person for d in self._today if d.delegate == person]

    def _standing_in_for(self, people: Collection[int]) -> list[StandIn]:
        return [d for d in self._today if d.person in people]

    @property
    def _today(self) -> list[StandIn]:
        return [d for d in self.delegates if d.from_on <= self.today <= d.until_on]
