"""Rings of waiting swaps: students who each wait for what the next one would give up. All of a
ring can be closed in one step, though no seat is free.

Those who have waited longest go first: each in turn is looked for the shortest ring, and of those
the one that leads on over those who have waited longest. Whoever stands ahead of a member on a
waitlist loses nothing: the seat that the member gets comes free only because the ring is closed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class WaitingSwap:
    """A waiting swap.

    Attributes:
        entry: id of the entry.
        wants: the pool in which a seat is wanted.
        gives: the pool whose seat would be given up.
    """

    entry: int
    wants: int
    gives: int


Ring = tuple[WaitingSwap, ...]


def find_rings(
    swaps: Sequence[WaitingSwap], close: Callable[[Ring], Collection[int]], most: int = 1_000_000
) -> list[Ring]:
    """Rings that can be closed together, no swap in two of them.

    Each look for a ring takes time that grows with the number of swaps, and after each one at least
    is out: promoted, stopped, or found to lie on none.

    Args:
        swaps: those who have waited longest first.
        close: closes a ring, and gives the entries of those who are stopped: they are left out from
            then on. None of them means that it was closed.
        most: so many rings at the most are tried.
    """
    left = _Left(swaps)
    found: list[Ring] = []
    for swap in swaps:
        while swap.entry in left.swaps and most > 0:
            ring = left.shortest_ring(swap)
            if ring is None:
                # Only fewer will be left, so it lies on none later either.
                left.take_out([swap.entry])
                break
            most -= 1
            stopped = close(ring)
            if not stopped:
                found.append(ring)
            left.take_out(stopped or [w.entry for w in ring])
    return found


class _Left:
    """The swaps that may still lie on a ring: somebody left gives what each wants, and wants what it
    gives."""

    def __init__(self, swaps: Sequence[WaitingSwap]) -> None:
        self.swaps = {w.entry: w for w in swaps if w.wants != w.gives}
        # By pool, those who want it and those who give it, in order of waiting.
        self._wanting: dict[int, dict[int, WaitingSwap]] = {}
        self._giving: dict[int, dict[int, WaitingSwap]] = {}
        for swap in self.swaps.values():
            self._wanting.setdefault(swap.wants, {})[swap.entry] = swap
            self._giving.setdefault(swap.gives, {})[swap.entry] = swap
        self.take_out([w.entry for w in self.swaps.values() if not self._goes_on(w)])

    def _goes_on(self, swap: WaitingSwap) -> bool:
        return bool(self._giving.get(swap.wants) and self._wanting.get(swap.gives))

    def take_out(self, entries: Collection[int]) -> None:
        """Take swaps out, and with them whoever cannot lie on a ring any more."""
        out = list(entries)
        while out:
            swap = self.swaps.pop(out.pop(), None)
            if swap is None:
                continue
            wanting, giving = self._wanting[swap.wants], self._giving[swap.gives]
            del wanting[swap.entry], giving[swap.entry]
            if not giving:
                out += self._wanting.get(swap.gives, ())
            if not wanting:
                out += self._giving.get(swap.wants, ())

    def shortest_ring(self, first: WaitingSwap) -> Ring | None:
        """The shortest ring that a swap lies on; of several the one over those who wait longest."""
        came_by: dict[int, WaitingSwap] = {}
        """For a pool that is reached, who leads on to it."""
        reached = {first.wants}
        waiting = deque([first.wants])
        while waiting:
            pool = waiting.popleft()
            for swap in self._giving.get(pool, {}).values():
                if swap.wants == first.gives:
                    ring = [swap]
                    while ring[-1].gives != first.wants:
                        ring.append(came_by[ring[-1].gives])
                    return (first, *reversed(ring))
                if swap.wants not in reached:
                    reached.add(swap.wants)
                    came_by[swap.wants] = swap
                    waiting.append(swap.wants)
        return None
