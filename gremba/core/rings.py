"""Rings of waiting swaps: students who each wait for what the next one would give up. All of a
ring can be served in one step, though no seat is free.

Those who have waited longest go first: each in turn is looked for the shortest ring, and of those
the one that leads on over those who have waited longest. Whoever stands ahead of a member on a
waitlist loses nothing: the seat that the member gets comes free only because the ring is closed.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Wish:
    """A waiting swap.

    Attributes:
        place: id of the place.
        wants: the pool in which a seat is wanted.
        gives: the pool whose seat would be given up.
    """

    place: int
    wants: int
    gives: int


Ring = tuple[Wish, ...]


def find_rings(
    wishes: Sequence[Wish], serve: Callable[[Ring], Collection[int]], most: int = 1_000_000
) -> list[Ring]:
    """Rings that can be served together, no wish in two of them.

    Each look for a ring takes time that grows with the number of wishes, and after each one at least
    is out: served, or stopped.

    Args:
        wishes: those who have waited longest first.
        serve: serves a ring, and gives the places of those who are stopped: they are left out from
            then on. None of them means that it was served.
        most: so many rings at the most are tried.
    """
    left = {w.place: w for w in wishes if w.wants != w.gives}
    found: list[Ring] = []
    for wish in wishes:
        while wish.place in left and most > 0:
            _leave_out_open_ends(left)
            ring = _shortest_ring(wish, left) if wish.place in left else None
            if ring is None:
                # Only fewer will be left, so it lies on none later either.
                left.pop(wish.place, None)
                break
            most -= 1
            stopped = serve(ring)
            if not stopped:
                found.append(ring)
            for place in stopped or [w.place for w in ring]:
                del left[place]
    return found


def _leave_out_open_ends(left: dict[int, Wish]) -> None:
    """Leave out who cannot lie on a ring: nobody left gives what they want, or wants what they give;
    and so on."""
    by_wanted: dict[int, list[Wish]] = {}
    by_given: dict[int, list[Wish]] = {}
    wanting: dict[int, int] = {}
    giving: dict[int, int] = {}
    for wish in left.values():
        by_wanted.setdefault(wish.wants, []).append(wish)
        by_given.setdefault(wish.gives, []).append(wish)
        wanting[wish.wants] = wanting.get(wish.wants, 0) + 1
        giving[wish.gives] = giving.get(wish.gives, 0) + 1
    out = [w for w in left.values() if not giving.get(w.wants) or not wanting.get(w.gives)]
    while out:
        wish = out.pop()
        if left.pop(wish.place, None) is None:
            continue
        wanting[wish.wants] -= 1
        giving[wish.gives] -= 1
        if not giving[wish.gives]:
            out += by_wanted.get(wish.gives, ())
        if not wanting[wish.wants]:
            out += by_given.get(wish.wants, ())


def _shortest_ring(first: Wish, left: dict[int, Wish]) -> Ring | None:
    """The shortest ring that a wish lies on, among those left, which stand in order of waiting."""
    givers: dict[int, list[Wish]] = {}
    for wish in left.values():
        givers.setdefault(wish.gives, []).append(wish)
    came_by: dict[int, Wish] = {}
    """For a pool that is reached, who leads on to it."""
    reached = {first.wants}
    waiting = deque([first.wants])
    while waiting:
        pool = waiting.popleft()
        for wish in givers.get(pool, ()):
            if wish.wants == first.gives:
                ring = [wish]
                while ring[-1].gives != first.wants:
                    ring.append(came_by[ring[-1].gives])
                return (first, *reversed(ring))
            if wish.wants not in reached:
                reached.add(wish.wants)
                came_by[wish.wants] = wish
                waiting.append(wish.wants)
    return None
