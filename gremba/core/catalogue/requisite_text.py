"""The written form of requisites, compact enough for tables, and its parser.

::

    SOIL 110                    a course, passed before
    SOIL 110:C                  with C or better
    FERM 110 ~                  before, or in the same term
    CHEM 236 &                  in the same term
    "field test" 60+            a placement score
    "field test" 60+ 5y         not older than five years
    45 credits                  earned so far
    program "Clay and cloth" or "Timber and iron"    likewise cohort, campus
    consent                     the instructor's
    all(A, B)   any(A, B)   2 of (A, B, C)
"""

from __future__ import annotations

import json
import re
from dataclasses import dataclass
from functools import cache
from typing import Any

from lark import Lark, Token, Transformer, v_args
from lark.exceptions import (
    UnexpectedCharacters,
    UnexpectedEOF,
    UnexpectedInput,
    UnexpectedToken,
    VisitError,
)

from gremba.core.catalogue.requisites import (
    BEFORE,
    BEFORE_OR_TOGETHER,
    TOGETHER,
    AllOf,
    ConsentNeed,
    CountOf,
    CourseNeed,
    CreditsNeed,
    MemberNeed,
    PlacementNeed,
    Requisite,
)
from gremba.core.wording import listed

_GRAMMAR = r"""
start: need
?need: course | placement | credits | member | consent | group
course: COURSE [":" GRADE] [TIMING]
placement: STRING NUMBER "+" [NUMBER "y"]
credits: NUMBER ("credits" | "credit")
member: KIND STRING ("or" STRING)*
consent: "consent"
group: (ALL | ANY | NUMBER "of") "(" [need ("," need)*] ")"
COURSE: /[A-Z]{2,6} [0-9]{3}[A-Z]?/
GRADE: /[A-Z]{1,2}[+-]?/
TIMING: "~" | "&"
KIND: "program" | "cohort" | "campus"
ALL: "all"
ANY: "any"
STRING: /"([^"\\]|\\.)*"/
NUMBER: /-?[0-9]+(\.[0-9]+)?/
%import common.WS
%ignore WS
"""

MAX_NESTING = 50
"""Brackets within brackets."""

_STRINGS_AND_BRACKETS = re.compile(r'"(?:[^"\\]|\\.)*"|[()]')

_WORDS = {
    "COURSE": "a course such as SOIL 110",
    "GRADE": "a grade",
    "TIMING": "~ or &",
    "KIND": "a group (program, cohort, campus)",
    "ALL": "all(",
    "ANY": "any(",
    "STRING": "a name in quotes",
    "NUMBER": "a number",
    "COLON": "“:” and a grade",
    "PLUS": "“+”",
    "COMMA": "“,”",
    "LPAR": "“(”",
    "RPAR": "“)”",
    "OF": "“of”",
    "CREDITS": "“credits”",
    "CREDIT": "“credits”",
    "CONSENT": "consent",
    "Y": "“y” for years",
    "OR": "“or”",
    "$END": "the end",
}

_TIMINGS = {"~": BEFORE_OR_TOGETHER, "&": TOGETHER, None: BEFORE}
_SIGNS = {timing: sign for sign, timing in _TIMINGS.items()}


@dataclass
class RequisiteMistake(ValueError):
    """A text that is not a requisite.

    Attributes:
        line: 1 for the first.
        column: 1 for the first sign of the line.
        what: what was expected there, or what is wrong.
    """

    line: int
    column: int
    what: str

    def __str__(self) -> str:
        return f"line {self.line}, column {self.column}: {self.what}"


def parse_requisite(text: str) -> Requisite:
    """Parse a requisite.

    Raises:
        RequisiteMistake: with the place of the mistake and what was expected there.
    """
    _check_nesting(text)
    try:
        tree = _parser().parse(text)
    except UnexpectedInput as problem:
        raise _mistake(problem, text) from None
    try:
        made: Requisite = _Builder().transform(tree)
    except VisitError as problem:
        if isinstance(problem.orig_exc, RequisiteMistake):
            raise problem.orig_exc from None
        raise
    return made


def _check_nesting(text: str) -> None:
    depth = 0
    for part in _STRINGS_AND_BRACKETS.finditer(text):
        depth += {"(": 1, ")": -1}.get(part[0], 0)
        if depth > MAX_NESTING:
            before = text[: part.start()]
            line, column = before.count("\n") + 1, part.start() - before.rfind("\n")
            raise RequisiteMistake(line, column, f"nothing is nested more than {MAX_NESTING} deep")


def print_requisite(node: Requisite) -> str:
    """Format a requisite; :func:`parse_requisite` reads it back."""
    match node:
        case AllOf(parts):
            return f"all({', '.join(map(print_requisite, parts))})"
        case CountOf(1, parts):
            return f"any({', '.join(map(print_requisite, parts))})"
        case CountOf(least, parts):
            return f"{least} of ({', '.join(map(print_requisite, parts))})"
        case CourseNeed(course, grade, timing):
            sign = _SIGNS[timing]
            return f"{course}{f':{grade}' if grade else ''}{f' {sign}' if sign else ''}"
        case PlacementNeed(test, least, years):
            return f"{_quoted(test)} {least}+{'' if years is None else f' {years}y'}"
        case CreditsNeed(least):
            return f"{_plain(least)} credits"
        case MemberNeed(kind, any_of):
            return f"{kind} {' or '.join(map(_quoted, any_of))}"
        case ConsentNeed():
            return "consent"


def _quoted(text: str) -> str:
    return json.dumps(text, ensure_ascii=False)


def _plain(number: float) -> str:
    return str(int(number)) if float(number).is_integer() else repr(float(number))


@cache
def _parser() -> Lark:
    return Lark(_GRAMMAR, parser="lalr", propagate_positions=True, maybe_placeholders=True)


def _mistake(problem: UnexpectedInput, text: str) -> RequisiteMistake:
    wanted: set[str] = set()
    if isinstance(problem, UnexpectedToken):
        wanted = set(problem.accepts or problem.expected)
    elif isinstance(problem, UnexpectedCharacters):
        wanted = set(problem.allowed or ())
    elif isinstance(problem, UnexpectedEOF):
        wanted = set(problem.expected)
    names = sorted({_WORDS.get(name, name.lower()) for name in wanted})
    line, column = problem.line, problem.column
    at_end = isinstance(problem, UnexpectedToken) and problem.token.type == "$END"
    if at_end or line is None or line < 1:
        lines = text.splitlines() or [""]
        line, column = len(lines), len(lines[-1]) + 1
    return RequisiteMistake(line, column, f"expected {listed(names, 'or')}")


@v_args(inline=True)
class _Builder(Transformer[Token, Requisite]):
    def start(self, need: Requisite) -> Requisite:
        return need

    def course(self, course: Token, grade: Token | None, timing: Token | None) -> Requisite:
        sign = None if timing is None else str(timing)
        return CourseNeed(str(course), None if grade is None else str(grade), _TIMINGS[sign])

    def placement(self, test: Token, least: Token, years: Token | None) -> Requisite:
        return PlacementNeed(json.loads(test), _whole(least), None if years is None else _whole(years))

    def credits(self, least: Token) -> Requisite:
        return CreditsNeed(float(least))

    def member(self, kind: Token, *names: Token) -> Requisite:
        return MemberNeed(str(kind), tuple(json.loads(n) for n in names))

    def consent(self) -> Requisite:
        return ConsentNeed()

    def group(self, head: Token, *needs: Any) -> Requisite:
        parts = tuple(n for n in needs if n is not None)
        if head.type == "ALL":
            return AllOf(parts)
        if head.type == "ANY":
            return CountOf(1, parts)
        least = _whole(head)
        if least > len(parts):
            raise _mistake_at(head, f"{head} are asked for, but only {len(parts)} are listed")
        return CountOf(least, parts)


def _whole(number: Token) -> int:
    if "." in number:
        raise _mistake_at(number, f"expected a whole number, not {number}")
    return int(number)


def _mistake_at(token: Token, what: str) -> RequisiteMistake:
    return RequisiteMistake(token.line or 1, token.column or 1, what)
