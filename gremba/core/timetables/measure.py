"""What makes one timetable better than another, as a whole number of which less is better."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import ClassVar

from gremba.core.timetables.instance import Option


class Measure(ABC):
    """A criterion within one search.

    Attributes:
        looks_ahead: whether ``bound_ahead`` is closer than ``bound``.
    """

    looks_ahead: ClassVar[bool] = False

    @abstractmethod
    def bound(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """A lower bound, and the possible options with which it is attainable.

        Never says more than the measure of any timetable that the options chosen so far can still
        lead to; for a whole timetable it is the measure.

        Args:
            k: the slot that comes next; as many as there are where all are filled.
            chosen: options, and what stays as it is.
            possible: options for the slots from k on.
            room: credits left, in tenths.
        """

    def bound_ahead(self, k: int, chosen: Sequence[Option], possible: int, room: int) -> tuple[int, int]:
        """A closer bound at more cost, for a beginning that is about to be extended."""
        return self.bound(k, chosen, possible, room)
