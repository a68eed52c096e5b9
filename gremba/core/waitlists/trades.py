"""Finds trades: waitlisted swaps that free each other's seats and can be done in one step although no seat is
open.

Those who have waited longest go first: each in turn is looked for the shortest trade, and of those
the one that leads on over those who have waited longest. Whoever stands ahead of a member on a
waitlist loses nothing: the seat that the member gets comes free only because the trade is closed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class WaitingSwap:
    """A waitlist swap.

    Attributes:
        entry: id of the entry.
        wants: the pool in which a seat is wanted.
        gives: the pool whose seat would be given up.
    """

    entry: int
    wants: int
    gives: int


Trade = tuple[WaitingSwap, ...]


def find_trades(
    swaps: Sequence[WaitingSwap], close: Callable[[Trade], Collection[int]], most: int = 1_000_000
) -> list[Trade]:
    """Find trades that can be made together, no swap in two of them.

    Each look for a trade takes time that grows with the number of swaps, and after each one at least
    is out: promoted, stopped, or found to lie on none.

    Args:
        swaps: those who have waited longest first.
        close: closes a trade, and gives the entries of those who are stopped: they are left out from
            then on. None of them means that it was closed.
        most: so many trades at the most are tried.
    """
    left = _Left(swaps)
    found: list[Trade] = []
    for swap in swaps:
        while swap.entry in left.swaps and most > 0:
            trade = left.shortest_trade(swap)
            if trade is None:
                # Only fewer will be left, so it lies on none later either.
                left.take_out([swap.entry])
                break
            most -= 1
            stopped = close(trade)
            if not stopped:
                found.append(trade)
            left.take_out(stopped or [w.entry for w in trade])
    return found


class _Left:
    """The swaps that can still be in a trade: somebody gives what each wants, and wants what it gives."""

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
        """Remove swaps, and others that can no longer be in a trade."""
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

    def shortest_trade(self, first: WaitingSwap) -> Trade | None:
        """The shortest trade with a swap; among several, the one of those waiting longest."""
        came_by: dict[int, WaitingSwap] = {}
        """For a pool that is reached, who leads on to it."""
        reached = {first.wants}
        waiting = deque([first.wants])
        while waiting:
            pool = waiting.popleft()
            for swap in self._giving.get(pool, {}).values():
                if swap.wants == first.gives:
                    trade = [swap]
                    while trade[-1].gives != first.wants:
                        trade.append(came_by[trade[-1].gives])
                    return (first, *reversed(trade))
                if swap.wants not in reached:
                    reached.add(swap.wants)
                    came_by[swap.wants] = swap
                    waiting.append(swap.wants)
        return None
