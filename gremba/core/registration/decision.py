"""The decision: the outcome of a request, and what is submitted.

Pure and deterministic. The cart shows what :func:`decide` says beforehand; a submission writes
exactly what it says, on rows that are locked.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping, Sequence
from datetime import datetime

from gremba.core.registration.changes import Request
from gremba.core.registration.deciding.board import Board, first_stop
from gremba.core.registration.deciding.conclusion import conclude
from gremba.core.registration.deciding.effort import Effort
from gremba.core.registration.deciding.interplay import everything_matters
from gremba.core.registration.deciding.refusals import NOT_ALL_TRIED, explain
from gremba.core.registration.deciding.selection import Selection
from gremba.core.registration.deciding.steps import Group, group_changes
from gremba.core.registration.findings import Finding
from gremba.core.registration.outcome import Decision
from gremba.core.registration.situation import Situation

_log = logging.getLogger(__name__)


def decide(situation: Situation, request: Request, now: datetime, effort: Effort | None = None) -> Decision:
    """Judge a request by the end state it would lead to.

    A set of groups is valid if, judged in the end state it leads to, nothing in it is stopped. Of
    all valid sets the first in the order of the list goes through
    (:mod:`gremba.core.registration.deciding.selection`),
    so the order is the priority, no refusal rests on a change that fell as well, and nothing
    refused could still be added. A refused group says what it meets on top of what went through.
    No accepted change has a stop: what was selected is judged once more before it is given back.

    Args:
        now: an aware datetime.
        effort: what may be spent on trying; shared by decisions that belong to one look.
    """
    board = Board(situation, request, now)
    groups = group_changes(request, board.expanded, situation.catalogue)
    everything = [i for group in groups for i in group]
    findings = board.judge(sorted(everything))
    stopped = [g for g in groups if _stops(findings, g)]
    if not stopped:
        return conclude(board, set(everything), findings)
    # Mostly the rest can stand; then it need not be looked for.
    accepted = sorted([i for g in groups if g not in stopped for i in g])
    findings = board.judge(accepted)
    stands = not _stops(findings, accepted)
    selection = board.select(groups, accepted if stands else (), effort)
    chosen = _changes_of(groups, selection)
    if chosen != accepted:
        findings = board.judge(chosen)
    findings |= _refusals(board, request, groups, selection)
    if not _is_sound(findings, chosen):
        codes = {stop.code for i in chosen if (stop := first_stop(findings[i])) is not None}
        _log.error("rules depend on more than they name, all is tried: %s", ", ".join(sorted(codes)))
        selection = _select_anew(board, groups)
        chosen = _changes_of(groups, selection)
        findings = board.judge(chosen) | _refusals(board, request, groups, selection)
    return conclude(board, set(chosen), findings)


def _refusals(
    board: Board, request: Request, groups: Sequence[Group], selection: Selection
) -> dict[int, list[Finding]]:
    """Why the groups that were not selected are refused, by change."""
    chosen = _changes_of(groups, selection)
    findings: dict[int, list[Finding]] = {}
    for index, group in enumerate(groups):
        if not selection.chosen >> index & 1:
            findings |= explain(board, request, chosen, group)
            if selection.unfinished >> index & 1:
                findings[group[0]].append(NOT_ALL_TRIED)
    return findings


def _is_sound(findings: Mapping[int, Sequence[Finding]], chosen: Sequence[int]) -> bool:
    """Whether everything selected is free of blocks, and everything else is blocked."""
    return all((first_stop(found) is None) == (index in chosen) for index, found in findings.items())


def _select_anew(board: Board, groups: Sequence[Group]) -> Selection:
    """Select as if every change could alter what is said about every other."""
    selection = board.select(groups, (), None, everything_matters(len(groups)))
    while True:
        findings = board.judge(_changes_of(groups, selection))
        stopped = [p for p, g in enumerate(groups) if selection.chosen >> p & 1 and _stops(findings, g)]
        if not stopped:
            return selection
        # Only a rule that answers the same question in two ways leads here.
        selection = Selection(selection.chosen & ~sum(1 << p for p in stopped))


def _changes_of(groups: Sequence[Group], selection: Selection) -> list[int]:
    return sorted([i for p, g in enumerate(groups) if selection.chosen >> p & 1 for i in g])


def _stops(findings: Mapping[int, Sequence[Finding]], changes: Sequence[int]) -> bool:
    return any(first_stop(findings[i]) is not None for i in changes)
