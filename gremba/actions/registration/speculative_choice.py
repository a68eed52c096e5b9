"""Tries backup sections before any seat is locked; under the locks the choice is only checked.

Trying them may take many decisions. Whoever else wants one of these seats would wait meanwhile.
"""

from __future__ import annotations

from datetime import datetime

from gremba.core.registration.alternatives.backup_sections import choose, decide_taken
from gremba.core.registration.changes import Request
from gremba.core.registration.outcome import Decision, Result
from gremba.core.registration.situation import Situation

TRIES = 3
"""So often it is chosen anew where seats went meanwhile; then it stands as it is under the locks."""


class SeatsMoved(Exception):
    """The sections chosen are no longer available: choose again with nothing locked."""


class SpeculativeChoice:
    """The backup sections chosen from unlocked facts.

    Args:
        must_stand: whatever is lost under the locks is lost, and it is not chosen anew.
    """

    def __init__(self, situation: Situation, request: Request, now: datetime, must_stand: bool) -> None:
        self._situation = situation
        self._made_at = now
        self._must_stand = must_stand
        self._taken = choose(situation, request, now)
        self._before = decide_taken(situation, self._taken, now)[1]

    def decide(self, situation: Situation, now: datetime) -> Decision:
        """The decision on locked facts: one evaluation, or none if nothing has changed.

        Raises:
            SeatsMoved: something chosen has gone meanwhile.
        """
        same_second = int(now.timestamp()) == int(self._made_at.timestamp())
        if same_second and situation == self._situation:
            return self._before
        decision = decide_taken(situation, self._taken, now)[1]
        if not self._must_stand and _loses(self._before, decision):
            raise SeatsMoved
        return decision


def _loses(before: Decision, after: Decision) -> bool:
    return any(
        one.result is not Result.REFUSED and other.result is Result.REFUSED
        for one, other in zip(before.outcomes, after.outcomes, strict=True)
    )
