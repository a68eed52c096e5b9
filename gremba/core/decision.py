"""The decision: what a request would lead to, and what happens when it is sent.

Pure and deterministic. The cart shows what :func:`decide` says beforehand; a submission writes
exactly what it says, on rows that are locked.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime

from gremba.core.board import Board, first_stop
from gremba.core.changes import Request
from gremba.core.conclusion import conclude
from gremba.core.findings import Finding
from gremba.core.outcome import Decision
from gremba.core.refusals import NOT_ALL_TRIED, explain
from gremba.core.selection import Effort
from gremba.core.situation import Situation
from gremba.core.steps import group_changes


def decide(situation: Situation, request: Request, now: datetime, effort: Effort | None = None) -> Decision:
    """Judge a request against the end state it would lead to.

    A set of groups is valid if, judged in the end state it leads to, nothing in it is stopped. Of
    all valid sets the first in the order of the list goes through (:mod:`gremba.core.selection`),
    so the order is the priority, no refusal rests on a change that fell as well, and nothing
    refused could still be added. A refused group says what it meets on top of what went through.

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
    chosen = sorted([i for p, g in enumerate(groups) if selection.chosen >> p & 1 for i in g])
    if chosen != accepted:
        findings = board.judge(chosen)
    for index, group in enumerate(groups):
        if not selection.chosen >> index & 1:
            findings |= explain(board, request, chosen, group)
            if selection.unfinished >> index & 1:
                findings[group[0]].append(NOT_ALL_TRIED)
    return conclude(board, set(chosen), findings)


def _stops(findings: Mapping[int, Sequence[Finding]], changes: Sequence[int]) -> bool:
    return any(first_stop(findings[i]) is not None for i in changes)
