"""Finds courses that nobody can take because their requisites form a cycle."""

from __future__ import annotations

from collections.abc import Mapping

from gremba.core.catalogue.requisites import (
    TOGETHER,
    AllOf,
    CountOf,
    CourseNeed,
    Requisite,
    course_needs,
)


def find_cycles(requisites: Mapping[str, Requisite | None]) -> list[tuple[str, ...]]:
    """Find the cycles among a catalogue's requisites, each once, starting with its smallest course.

    A course is within reach if its requisites can be met by courses within reach; what is to be
    taken in the same term asks for no more than itself. Courses that the catalogue does not name
    were taken elsewhere or before. Whatever stays out of reach hangs on a circle.

    Args:
        requisites: by course; None where it needs nothing.
    """
    reached: set[str] = set()
    growing = True
    while growing:
        new = {
            course
            for course, need in requisites.items()
            if course not in reached and _can_be_met(need, reached, requisites, course)
        }
        reached |= new
        growing = bool(new)
    stuck = {course for course in requisites if course not in reached}
    found: dict[frozenset[str], tuple[str, ...]] = {}
    for course in sorted(stuck):
        circle = _circle_from(course, stuck, requisites)
        found.setdefault(frozenset(circle), circle)
    return sorted(found.values())


def _can_be_met(
    node: Requisite | None, reached: set[str], known: Mapping[str, Requisite | None], own: str
) -> bool:
    match node:
        case AllOf(parts):
            return all(_can_be_met(p, reached, known, own) for p in parts)
        case CountOf(least, parts):
            return sum(_can_be_met(p, reached, known, own) for p in parts) >= least
        case CourseNeed(course, _, timing):
            return timing == TOGETHER or course not in known or course in reached
        case _:
            return True


def _circle_from(start: str, stuck: set[str], requisites: Mapping[str, Requisite | None]) -> tuple[str, ...]:
    """Follows missing courses until one repeats."""
    path = [start]
    while True:
        needs = sorted(
            n.course for n in course_needs(requisites[path[-1]]) if n.course in stuck and n.timing != TOGETHER
        )
        following = needs[0]
        if following in path:
            circle = path[path.index(following) :]
            least = circle.index(min(circle))
            return tuple(circle[least:] + circle[:least])
        path.append(following)
