"""The number of timetables by complete solvers: OR-tools' CP-SAT, and python-constraint2.

They are given the sections of each want as Plainly finds them, and which pairs clash as it finds, date
by date; nothing of it comes from the code under test.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations

import constraint
from ortools.sat.python import cp_model

Pairs = frozenset[tuple[int, int, int, int]]
"""Slot, option, slot, option: those that cannot stand together; the first slot is the lower."""


class _Counting(cp_model.CpSolverSolutionCallback):
    def __init__(self) -> None:
        super().__init__()
        self.found = 0

    def on_solution_callback(self) -> None:
        self.found += 1


def count_by_cp_sat(
    sizes: Sequence[int], apart: Pairs, credits: Sequence[Sequence[int]], most: int, seconds: float = 60
) -> tuple[int, bool]:
    """The number of ways to choose one option a slot, and whether all were found in the time.

    Args:
        sizes: options of each slot.
        credits: of each option, in tenths.
        most: credits that may be taken.
    """
    model = cp_model.CpModel()
    chosen = [[model.new_bool_var(f"{s} {o}") for o in range(size)] for s, size in enumerate(sizes)]
    for slot in chosen:
        model.add_exactly_one(slot)
    for one, a, other, b in apart:
        model.add_at_most_one([chosen[one][a], chosen[other][b]])
    model.add(sum(credits[s][o] * chosen[s][o] for s in range(len(sizes)) for o in range(sizes[s])) <= most)
    solver = cp_model.CpSolver()
    solver.parameters.enumerate_all_solutions = True
    solver.parameters.num_workers = 1
    solver.parameters.max_time_in_seconds = seconds
    counting = _Counting()
    status = solver.solve(model, counting)
    return counting.found, status in (cp_model.OPTIMAL, cp_model.INFEASIBLE)


def count_by_backtracking(
    sizes: Sequence[int],
    apart: Pairs,
    credits: Sequence[Sequence[int]],
    most: int,
    at_most: int | None = None,
) -> int:
    """The same by python-constraint2.

    Args:
        at_most: ends when so many are found.
    """
    if not all(sizes):
        return 0
    problem = constraint.Problem()
    for slot, size in enumerate(sizes):
        problem.addVariable(slot, list(range(size)))
    for one, other in combinations(range(len(sizes)), 2):
        own = {(a, b) for s, a, t, b in apart if (s, t) == (one, other)}
        if own:
            problem.addConstraint(lambda a, b, own=own: (a, b) not in own, (one, other))
    problem.addConstraint(
        lambda *options: sum(credits[s][o] for s, o in enumerate(options)) <= most,
        list(range(len(sizes))),
    )
    found = 0
    for _ in problem.getSolutionIter():
        found += 1
        if at_most is not None and found >= at_most:
            break
    return found
