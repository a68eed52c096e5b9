"""Bounds how much one decision may try."""

from __future__ import annotations

from dataclasses import dataclass

EXACT_GROUPS = 10
"""Groups that may hang together for the search to be complete whatever they are."""

MAX_SETS = 1 << EXACT_GROUPS
"""Sets of groups tried where groups hang together: all subsets of :data:`EXACT_GROUPS`."""

MAX_QUESTIONS = EXACT_GROUPS * MAX_SETS // 2
"""Times the rules are asked about a group while such sets are tried: every group in every subset of
:data:`EXACT_GROUPS` that holds it."""

MAX_BACKUPS = 4
"""Backup sections that are tried for one change."""

MAX_SUBSTITUTES = 3
"""Other sections that are offered for one refused change."""

MAX_MOVES = 2
"""Ways to move a registered section that are offered for one refused change."""


@dataclass(slots=True)
class Share:
    """A part of the effort for one purpose.

    Attributes:
        decisions: requests that may still be tried out.
        changes: changes that these may hold in all, so that a long request tries fewer.
    """

    decisions: int
    changes: int


def for_backups() -> Share:
    """The effort for one request's backup sections."""
    return Share(decisions=80, changes=320)


def for_substitutes() -> Share:
    """The effort for finding substitutes for one cart."""
    return Share(decisions=60, changes=640)


def for_ways_on() -> Share:
    """The effort for trying remedies of refused changes of one cart."""
    return Share(decisions=60, changes=480)


@dataclass(slots=True)
class Effort:
    """The effort that one request, or several of one page, may spend.

    Attributes:
        sets: sets of groups that may still be tried beyond the first look at each group. At first
            it is enough for forty changes to be decided exactly, ten by ten.
        questions: times the rules may still be asked about a group in such sets.
        changes: changes that may still be judged in requests that are only tried out. At first it
            is enough for fifty trials with twelve changes each.
    """

    sets: int = 4 * MAX_SETS
    questions: int = 4 * MAX_QUESTIONS
    changes: int = 640

    def may_try(self, changes: int, share: Share | None = None) -> bool:
        """Whether a request with that many changes may be tried as well; if so, it is charged."""
        if changes > self.changes:
            return False
        if share is not None:
            if share.decisions < 1 or changes > share.changes:
                return False
            share.decisions -= 1
            share.changes -= changes
        self.changes -= changes
        return True
