"""Decides before seats are locked whatever the seats turn out not to matter for.

In a rush any two batches touch some of the same pools, so while one has them locked the others
wait: whatever is done meanwhile is done by one at a time. Most of a decision does not depend on
how many seats are left as long as there are plenty. So it is made beforehand as if there were, and
stands if under the locks there are; everything else is decided under the locks.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace
from datetime import datetime

from gremba.actions.registration.submission import Submission
from gremba.core.catalogue.seats import SeatFigures
from gremba.core.registration.deciding.applicable_rules import all_name_what_they_depend_on
from gremba.core.registration.decision import decide
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Situation

PLENTY = SeatFigures(limit=1_000_000, taken=0)
"""Seats for everybody."""

_RULES_ARE_KNOWN = all_name_what_they_depend_on()
"""A rule that does not say what it depends on may look at how many seats are left."""


class SpeculativeDecisions:
    """Decisions of a batch made before locking.

    Args:
        tight: pools that were short of seats when this process last looked. What asks for one of
            them is not decided ahead, since it would hardly ever stand.

    Attributes:
        decisions: by the id of the student's term row.
    """

    def __init__(
        self,
        submissions: Sequence[Submission],
        situations: Mapping[int, Situation],
        now: datetime,
        scarce_pools: Collection[int],
    ) -> None:
        self._made_at = now
        self._pools = {s.student_term_id: s.pools() for s in submissions}
        self._wanted = Counter(pool for s in submissions for pool in s.pools_wanted())
        for submission in submissions:
            if not submission.is_plain:
                # It may end with a seat in any of these.
                self._wanted.update(self._pools[submission.student_term_id])
        self.decisions = {
            s.student_term_id: _decide(s, situations[s.student_term_id], pools, now)
            for s, pools in zip(submissions, self._pools.values(), strict=True)
            if s.is_plain and pools.isdisjoint(scarce_pools) and _RULES_ARE_KNOWN
        }

    @property
    def pools(self) -> set[int]:
        """Every seat pool the batch could change."""
        return set().union(*self._pools.values())

    def scarce_pools(self, seats: Mapping[int, SeatFigures]) -> set[int]:
        """The pools without an open seat for everybody in the batch who wants one, by locked figures."""
        return {pool for pool, figures in seats.items() if not figures.has_open_for(self._wanted[pool])}

    def still_valid(self, scarce_pools: Collection[int], now: datetime) -> set[int]:
        """The decisions that hold: those without a scarce pool. None does if a new second has begun, because
        decisions depend on the time."""
        if int(now.timestamp()) != int(self._made_at.timestamp()):
            return set()
        return {row for row in self.decisions if self._pools[row].isdisjoint(scarce_pools)}


def _decide(submission: Submission, situation: Situation, pools: set[int], now: datetime) -> Decision:
    plenty = replace(situation, seats=dict.fromkeys(pools, PLENTY))
    return decide(plenty, submission.request, now)
