"""Explains why a group of changes is refused."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

from gremba.core.registration.changes import Kind, Mode, Request
from gremba.core.registration.deciding.board import Board, first_stop
from gremba.core.registration.deciding.steps import Group, why_together
from gremba.core.registration.findings import Finding, MoveUp, PutInCart, Remedy, SeeChange, Severity, TakeOut
from gremba.core.registration.rules import ABOUT_STUDENT
from gremba.core.registration.rules.together import together_stopped, unfinished
from gremba.core.wording import listed

NOT_ALL_TRIED = unfinished.finding(
    "So many of your changes hang together that not every combination was tried.",
    remedies=[Remedy("Put fewer through at a time, the most wanted first.")],
)
"""Said where the search for what goes through was cut short."""


def explain(
    board: Board, request: Request, accepted: Sequence[int], group: Group
) -> dict[int, list[Finding]]:
    """Why a group is refused: the blocks it meets on top of the selected groups, first its own, then those
    it would cause there, by name. Without any block it could be added. Its other effects are only reported
    if it is going to happen once a hold or the like is cleared."""
    judged = board.judge(accepted, group)
    stops = {
        i: sorted([f for f in own if f.severity is Severity.STOP], key=lambda f: bool(f.rests_on))
        for i, own in judged.items()
    }
    stopped = [i for i in group if stops[i]]
    passing = bool(stopped) and all(f.code in ABOUT_STUDENT for i in group for f in stops[i])
    found = judged if passing else stops
    undone: dict[int, Finding] = {}
    if not stopped:
        # Nothing stops the group behind the others, so they are stopped by it.
        trial = board.judge(sorted([*accepted, *group]))
        undone = {i: f for i in trial if (f := first_stop(trial[i]))}
    for index in group:
        own = found[index]
        if index in stopped:
            continue
        if undone:
            own.append(_would_undo(board, index, undone))
        elif stopped:
            own.append(_stands_or_falls(board, request, group, stopped, found))
    there = {(c.kind, c.number, c.in_exchange) for c in request.changes}
    # With all or nothing each of them is in the way of the others, whatever goes through.
    in_the_way = [request.changes[i] for i in accepted] if request.mode is Mode.EACH else request.changes
    out = {c.number for c in in_the_way}
    return {i: [_without_what_helps_nobody(f, there, out) for f in own] for i, own in found.items()}


def _without_what_helps_nobody(
    finding: Finding, there: Collection[tuple[Kind, str, str]], in_the_way: Collection[str]
) -> Finding:
    """A finding without remedies that the cart has followed already, or that remove what is not in the
    way."""

    def helps_nobody(way: Remedy) -> bool:
        match way.action:
            case PutInCart(wishes):
                return all((w.kind, w.number, w.in_exchange) in there for w in wishes)
            case TakeOut(numbers):
                return numbers[0] not in in_the_way
            case _:
                return False

    if not any(helps_nobody(way) for way in finding.remedies):
        return finding
    ways = [way for way in finding.remedies if not helps_nobody(way)]
    return replace(finding, remedies=tuple(ways or [_SEE_THE_CART]))


_SEE_THE_CART = Remedy("What would help stands in your cart as well: see what stops it there.")


def _would_undo(board: Board, index: int, undone: Mapping[int, Finding]) -> Finding:
    names = listed([board.expanded[i][0].name for i in undone])
    first = next(iter(undone.values()))
    goes = "goes" if len(undone) == 1 else "go"
    ways = [Remedy("Move this one up: then it goes first.", MoveUp())] if min(undone) < index else []
    numbers = tuple(board.expanded[i][0].change.number for i in undone)
    return together_stopped.finding(
        f"It would undo {names}, which {goes} through: {first.text}",
        remedies=[
            *ways,
            Remedy(f"Take {names} out of the cart.", TakeOut(numbers)),
            Remedy("Or take this one out."),
        ],
        ask=first.ask,
        rests_on=undone,
        other=names,
    )


def _stands_or_falls(
    board: Board,
    request: Request,
    group: Group,
    stopped: Sequence[int],
    found: Mapping[int, Sequence[Finding]],
) -> Finding:
    names = listed([board.expanded[i][0].name for i in stopped])
    tie = why_together(request, board.expanded, board.situation.catalogue, group)
    ask = next((f.ask for i in stopped for f in found[i] if f.ask), "")
    return together_stopped.finding(
        f"Left as it is, because {names} cannot be had: {tie.why}.",
        remedies=[
            Remedy(f"See what stops {names}.", SeeChange(board.expanded[stopped[0]][0].change.number)),
            *([Remedy(tie.way_on.format(names=names))] if tie.way_on else []),
        ],
        ask=ask,
        rests_on=stopped,
        other=names,
    )
