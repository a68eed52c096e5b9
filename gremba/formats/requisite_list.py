"""A list of courses with their requisites in written form.

One course a line, ``SOIL 240: all(SOIL 110:C, CHEM 115)``; a line that begins with ``#`` is a
remark; a course with nothing behind the colon needs nothing.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from gremba.core.catalogue.requisite_cycles import find_cycles
from gremba.core.catalogue.requisite_text import RequisiteMistake, parse_requisite, print_requisite
from gremba.core.catalogue.requisites import Requisite

_LINE = re.compile(r"^\s*([A-Z]{2,6} [0-9]{3}[A-Z]?)\s*:(.*)$")


@dataclass(frozen=True, slots=True)
class RequisiteList:
    """The contents of a list.

    Attributes:
        requisites: by course; None where nothing is needed.
        mistakes: what could not be read, with its place in the list.
        cycles: circles in which courses need one another.
    """

    requisites: dict[str, Requisite | None]
    mistakes: tuple[RequisiteMistake, ...]
    cycles: tuple[tuple[str, ...], ...]


def read_list(text: str) -> RequisiteList:
    """Read a list; an error in one line does not affect the others."""
    found: dict[str, Requisite | None] = {}
    mistakes: list[RequisiteMistake] = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip() or line.lstrip().startswith("#"):
            continue
        match = _LINE.match(line)
        if match is None:
            what = "expected a course and a colon, such as “SOIL 240: SOIL 110:C”"
            mistakes.append(RequisiteMistake(number, 1, what))
            continue
        course, need = match[1], match[2]
        if course in found:
            mistakes.append(RequisiteMistake(number, 1, f"{course} stands in the list twice"))
            continue
        try:
            found[course] = parse_requisite(need) if need.strip() else None
        except RequisiteMistake as problem:
            column = problem.column + match.start(2)
            mistakes.append(RequisiteMistake(number, column, problem.what))
    return RequisiteList(found, tuple(mistakes), tuple(find_cycles(found)))


def write_list(requisites: dict[str, Requisite | None]) -> str:
    """Format these courses as a list; :func:`read_list` reads it back."""
    return "".join(
        f"{course}: {print_requisite(need)}\n" if need is not None else f"{course}:\n"
        for course, need in requisites.items()
    )
