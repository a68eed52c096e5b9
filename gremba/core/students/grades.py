"""The grade scale: the order of grades, and the values outside it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

PASS = "P"
TRANSFER = "T"
WITHDRAWN = "W"
AUDITED = "AU"


@dataclass(frozen=True)
class GradeScale:
    """A college's grades.

    Attributes:
        letters: best first.
        failing: letters that earn no credit.
        pass_stands_for: the letter that a pass or a transferred course meets at most.
    """

    letters: tuple[str, ...] = (
        "A+",
        "A",
        "A-",
        "B+",
        "B",
        "B-",
        "C+",
        "C",
        "C-",
        "D+",
        "D",
        "D-",
        "F",
    )
    failing: frozenset[str] = frozenset({"F"})
    pass_stands_for: str = "C"

    @cached_property
    def _ranks(self) -> dict[str, int]:
        ranks = {letter: index for index, letter in enumerate(self.letters)}
        if self.pass_stands_for in ranks:
            ranks[PASS] = ranks[TRANSFER] = ranks[self.pass_stands_for]
        return ranks

    def rank(self, grade: str) -> int | None:
        """The position on the scale, 0 for the best; None for a value that is not a passing grade."""
        return self._ranks.get(grade)

    def earns_credit(self, grade: str | None) -> bool:
        """Whether the grade earns credit."""
        return grade is not None and grade in self._ranks and grade not in self.failing

    def at_least(self, grade: str, least: str | None) -> bool:
        """Whether a grade meets a minimum; without one, any grade that earns credit does.

        Raises:
            ValueError: ``least`` is not on the scale.
        """
        if not self.earns_credit(grade):
            return False
        if least is None:
            return True
        floor = self.letters.index(least)
        rank = self.rank(grade)
        return rank is not None and rank <= floor


def with_article(grade: str) -> str:
    """The grade with its article: "a D+", "an A-", "an F"."""
    return f"an {grade}" if grade[:1] in "AF" else f"a {grade}"
