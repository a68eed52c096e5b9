"""Why a group of changes is refused."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gremba.core.board import Board, first_stop
from gremba.core.changes import Request
from gremba.core.findings import Finding, Remedy, Severity
from gremba.core.rules.together import together_stopped, unfinished
from gremba.core.steps import Group, why_together
from gremba.core.wording import listed

NOT_ALL_TRIED = unfinished.finding(
    "So many of your changes hang together that not every combination was tried.",
    remedies=[Remedy("Put fewer through at a time, the most wanted first.")],
)
"""Said where the search for what goes through was cut short."""


def explain(
    board: Board, request: Request, accepted: Sequence[int], group: Group
) -> dict[int, list[Finding]]:
    """Why a group is refused: the stops it meets on top of what went through, first its own, then
    those that it would cause there, by name. What it would mean otherwise does not happen."""
    found = {
        i: [f for f in own if f.severity is Severity.STOP]
        for i, own in board.judge(accepted, group).items()
    }
    stopped = [i for i in group if found[i]]
    undone = {} if len(stopped) == len(group) else board.stopped_by(accepted, group)
    if not stopped and not undone:
        # What it stands in the way of comes later, and is stopped only in the order of the list.
        trial = board.judge(sorted([*accepted, *group]))
        undone = {i: f for i in trial if (f := first_stop(trial[i]))}
    for index in group:
        own = found[index]
        if undone and not own:
            own.append(_would_undo(board, index, undone))
        elif not own:
            own.append(_stands_or_falls(board, request, group, stopped, found))
    return found


def _would_undo(board: Board, index: int, undone: Mapping[int, Finding]) -> Finding:
    names = listed([board.laid[i][0].name for i in undone])
    first = next(iter(undone.values()))
    goes = "goes" if len(undone) == 1 else "go"
    may_move = any(i < index for i in undone)
    move = "Move this one up if you prefer it, or take" if may_move else "Take"
    return together_stopped.finding(
        f"It would undo {names}, which {goes} through: {first.text}",
        remedies=[Remedy(f"{move} one of them out.")],
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
    names = listed([board.laid[i][0].name for i in stopped])
    tie = why_together(request, board.laid, board.situation.catalogue, group)
    ask = next((f.ask for i in stopped for f in found[i] if f.ask), "")
    return together_stopped.finding(
        f"Left as it is, because {names} cannot be had: {tie.why}.",
        remedies=[Remedy(tie.way_on.format(names=names))],
        ask=ask,
        rests_on=stopped,
        other=names,
    )
